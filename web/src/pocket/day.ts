import { useCallback, useEffect, useState } from "react";
import { client, need, Unreachable } from "../api/client";
import type { CarriedPart, Choices, OrderLine, PocketDay, PocketLists } from "../api/types";
import { clearOrders, dayName, keepAnswer, keepOrder, keptAnswer, takenOrders } from "./device-store";
import { rulesOfPage } from "./rules";

const AGAIN_MS = 60_000;

export interface OwnDay {
  day: PocketDay | null;
  /** When it was fetched, in milliseconds; nothing when it was just now. */
  asOf: number | null;
  /** How many orders are still to be taken along, and how many there are to take. */
  taking: { done: number; of: number } | null;
  /** The orders that are on the device, each with the state its job is in here, where it was opened here. */
  here: Map<string, OrderLine["state"] | null>;
  error: unknown;
}

/** A technician's orders, kept on the device, with all that is needed to carry out those taken along. */
export function useOwnDay(person: string): OwnDay {
  const [state, setState] = useState<OwnDay>({
    day: null,
    asOf: null,
    taking: null,
    here: new Map(),
    error: null,
  });
  const change = useCallback((by: Partial<OwnDay>) => setState((held) => ({ ...held, ...by })), []);

  useEffect(() => {
    let here = true;
    const taken = async () =>
      new Map((await takenOrders(person)).map(({ id, view }) => [id, view?.state ?? null] as const));
    const fetchAll = async () => {
      try {
        const day = await need(client.GET("/api/v1/pocket/orders"));
        if (!here) return;
        await keepAnswer(dayName(person), day);
        change({ day, asOf: null, error: null });
        await takeAlong(person, day, (done, of) => here && change({ taking: { done, of } }));
        if (here) change({ taking: null, here: await taken() });
      } catch (error) {
        if (!here) return;
        const kept = await keptAnswer<PocketDay>(dayName(person));
        if (error instanceof Unreachable && kept)
          change({ day: kept.value, asOf: kept.at, error: null, taking: null });
        else change({ error, taking: null });
      }
    };
    const begin = async () => {
      const kept = await keptAnswer<PocketDay>(dayName(person)).catch(() => undefined);
      if (here && kept) change({ day: kept.value, asOf: kept.at, here: await taken() });
      await fetchAll();
    };
    void begin();
    rulesOfPage();
    const later = window.setInterval(() => void fetchAll(), AGAIN_MS);
    const now = () => void fetchAll();
    window.addEventListener("online", now);
    return () => {
      here = false;
      window.clearInterval(later);
      window.removeEventListener("online", now);
    };
  }, [person, change]);

  return state;
}

/** Fetch what the rule takes along and is not here as it is now; clear what is no longer needed. */
async function takeAlong(person: string, day: PocketDay, tell: (done: number, of: number) => void) {
  const held = new Map((await takenOrders(person)).map((taken) => [taken.id, taken.order.version]));
  const wanted = day.orders.filter((o) => o.taken && held.get(o.line.id) !== o.version);
  const pictures = new Set<string>();
  for (const [n, { line }] of wanted.entries()) {
    tell(n, wanted.length);
    const order = await need(
      client.GET("/api/v1/pocket/orders/{order_id}", { params: { path: { order_id: line.id } } }),
    );
    await keepOrder(person, order);
    for (const id of order.pictures) pictures.add(id);
  }
  await takePictures([...pictures].map((id) => `/api/v1/illustrations/${id}`));
  await Promise.allSettled([pocketLists(), choices(), partsToCarry(person)]);
  await clearOrders(person, new Set(day.orders.filter((o) => o.taken).map((o) => o.line.id)));
}

/** Put pictures where the service worker looks for them first; each is fetched once. */
async function takePictures(addresses: string[]) {
  if (!("caches" in window)) return;
  const held = await caches.open("pictures");
  const missing = await Promise.all(
    addresses.map(async (address) => ((await held.match(address)) ? null : address)),
  );
  await Promise.allSettled(missing.filter((address) => address !== null).map((address) => held.add(address)));
}

/** An answer of the server, or without a network the last one. */
export async function orKept<T>(name: string, ask: () => Promise<T>): Promise<T> {
  try {
    const found = await ask();
    await keepAnswer(name, found).catch(() => undefined);
    return found;
  } catch (error) {
    const kept = error instanceof Unreachable ? await keptAnswer<T>(name) : undefined;
    if (kept) return kept.value;
    throw error;
  }
}

/** Whose plate was read, in words; without a network among the orders that are on the device. */
export async function plateWords(person: string, code: string): Promise<string> {
  try {
    const found = await need(client.GET("/api/v1/pocket/plate", { params: { query: { code } } }));
    return found.words;
  } catch {
    const day = (await keptAnswer<PocketDay>(dayName(person)).catch(() => undefined))?.value;
    const rules = rulesOfPage();
    return day && (await rules.begun) ? rules.plate(code, day.orders).catch(() => "") : "";
  }
}

/** Parts, causes and remedies to choose from. */
export const pocketLists = (): Promise<PocketLists> =>
  orKept("lists", () => need(client.GET("/api/v1/pocket/lists")));

/** What may be chosen in general: reasons for a return. */
export const choices = (): Promise<Choices> => orKept("choices", () => need(client.GET("/api/v1/choices")));

/** What the orders taken along want carried, against the van; without a network as it was fetched last. */
export const partsToCarry = (person: string): Promise<CarriedPart[]> =>
  orKept(`parts-to-carry ${person}`, () => need(client.GET("/api/v1/pocket/parts-to-carry")));
