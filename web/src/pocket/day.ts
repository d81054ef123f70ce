import { useCallback, useEffect, useRef, useState } from "react";
import { client, need, Unreachable } from "../api/client";
import type { Choices, OrderLine, PocketDay, PocketLists, ToCarry } from "../api/types";
import {
  clearOrders,
  dayName,
  keepAnswer,
  keepOrder,
  keptAnswer,
  loadName,
  takenOrders,
  takeUp,
} from "./device-store";
import { rulesOfPage, screenShown } from "./rules";

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

const NOTHING: OwnDay = { day: null, asOf: null, taking: null, here: new Map(), error: null };

/**
 * A technician's orders, kept on the device, with all that is needed to carry out those taken along. They are asked
 * for again every minute wherever the technician is, and whenever they come back to the list.
 */
export function useOwnDay(person: string, isAtTheList: boolean): OwnDay {
  const [state, setState] = useState(NOTHING);
  const running = useRef<Promise<void> | null>(null);
  const change = useCallback((by: Partial<OwnDay>) => setState((held) => ({ ...held, ...by })), []);

  const fetchAll = useCallback(() => {
    running.current ??= fetchDay(person, change).finally(() => {
      running.current = null;
    });
    return running.current;
  }, [person, change]);

  useEffect(() => {
    takeUp(person);
    const begin = async () => {
      const kept = await keptAnswer<PocketDay>(dayName(person)).catch(() => undefined);
      const here = kept && (await statesHere(person));
      if (kept && here)
        setState((held) => (held.day ? held : { ...held, day: kept.value, asOf: kept.at, here }));
    };
    // Where the device cannot be read the server is asked all the same.
    void begin()
      .catch(() => undefined)
      .then(fetchAll);
    rulesOfPage();
    const again = () => void fetchAll();
    const later = window.setInterval(again, AGAIN_MS);
    window.addEventListener("online", again);
    return () => {
      window.clearInterval(later);
      window.removeEventListener("online", again);
    };
  }, [person, fetchAll]);

  useEffect(() => {
    if (isAtTheList) void fetchAll();
  }, [isAtTheList, fetchAll]);

  const isShown = isAtTheList && state.day !== null;
  useEffect(() => {
    if (isShown) screenShown();
  }, [isShown]);

  return state;
}

/** Ask for the day once, and take along what is to be. */
async function fetchDay(person: string, change: (by: Partial<OwnDay>) => void) {
  try {
    const day = await need(client.GET("/api/v1/pocket/orders"));
    await keepAnswer(dayName(person), day);
    change({ day, asOf: null, error: null, here: await statesHere(person) });
    await takeAlong(person, day, (done, of) => change({ taking: { done, of } }));
    change({ taking: null, here: await statesHere(person) });
  } catch (error) {
    const kept = await keptAnswer<PocketDay>(dayName(person));
    if (error instanceof Unreachable && kept)
      change({
        day: kept.value,
        asOf: kept.at,
        error: null,
        taking: null,
        here: await statesHere(person),
      });
    else change({ error, taking: null });
  }
}

/** The orders on the device, each with the state its job is in here, where it was opened here. */
async function statesHere(person: string): Promise<OwnDay["here"]> {
  return new Map((await takenOrders(person)).map(({ id, view }) => [id, view?.state ?? null] as const));
}

/** Fetch what the rule takes along and is not here as it is now; clear what is no longer needed. */
async function takeAlong(person: string, day: PocketDay, tell: (done: number, of: number) => void) {
  const held = new Map((await takenOrders(person)).map((taken) => [taken.id, taken.order.version]));
  const wanted = day.orders.filter((o) => o.taken && held.get(o.line.id) !== o.version);
  const pictures = new Set<string>();
  for (const [n, { line }] of wanted.entries()) {
    tell(n, wanted.length);
    const asked = Date.now();
    const order = await need(
      client.GET("/api/v1/pocket/orders/{order_id}", { params: { path: { order_id: line.id } } }),
    );
    await keepOrder(person, order, asked);
    for (const id of order.pictures) pictures.add(id);
  }
  await takePictures([...pictures].map((id) => `/api/v1/illustrations/${id}`));
  await Promise.allSettled([pocketLists(), choices(), toCarry(person)]);
  // The order that is open here stays, whether or not it is to be taken along.
  const open = window.location.pathname.split("/")[2] ?? "";
  await clearOrders(person, new Set([open, ...day.orders.filter((o) => o.taken).map((o) => o.line.id)]));
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
export const toCarry = (person: string): Promise<ToCarry> =>
  orKept(loadName(person), () => need(client.GET("/api/v1/pocket/to-carry")));
