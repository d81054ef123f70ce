import { useCallback, useEffect, useRef, useState } from "react";
import { client, mayPass, need, Refused, SIGNED_IN_AGAIN, Unreachable } from "../api/client";
import { keys, useCache } from "../api/queries";
import type { Answer, FieldEvent } from "../api/types";
import { dropParcel, keepParcel, noteRefusal, type Parcel, parcelsOf, settleParcel } from "./parcels";

/** Events of one submission; more go in several. */
const MAX_EVENTS = 500;
const AGAIN_MS = 8_000;

/** Why what waits does not go. */
export type Held = "" | "offline" | "signed out" | "busy";

export interface Outbox {
  /** Everything of this person that is not with the server and still to be dealt with. */
  parcels: Parcel[];
  /** What was refused and recorded another way; kept here all the same. */
  settled: Parcel[];
  held: Held;
  /** What could not even be kept on the device, in words. */
  lost: string;
  /** Record for an order; false when it could not be kept on the device. */
  record: (order: string, events: FieldEvent[]) => Promise<boolean>;
  /** Send one again that was refused. */
  again: (parcel: Parcel) => Promise<void>;
  /** What was refused was recorded another way. */
  settle: (parcel: Parcel) => void;
}

/**
 * What a person recorded and the server has not. Kept on the device before it is sent, sent in order,
 * under an identity of its own, so that a parcel sent twice is applied once.
 */
export function useOutbox(person: string): Outbox {
  const cache = useCache();
  const [parcels, setParcels] = useState(() => parcelsOf(person));
  const [held, setHeld] = useState<Held>("");
  const [lost, setLost] = useState("");
  const sending = useRef<Promise<void>>(Promise.resolve());

  const look = useCallback(() => setParcels(parcelsOf(person)), [person]);

  const flush = useCallback((): Promise<void> => {
    const work = async () => {
      const changed = new Set<string>();
      for (const parcel of parcelsOf(person)) {
        if (parcel.refusal || parcel.settled) continue;
        const why = await send(parcel);
        if (why === "sent" || why === "refused") changed.add(parcel.order);
        else {
          setHeld(why);
          break;
        }
        setHeld("");
      }
      look();
      await Promise.all(
        [...changed].map((order) => cache.refetchQueries({ queryKey: keys.ownOrder(order) })),
      );
    };
    sending.current = sending.current.then(work, work);
    return sending.current;
  }, [cache, look, person]);

  const record = useCallback(
    async (order: string, events: FieldEvent[]): Promise<boolean> => {
      try {
        for (let i = 0; i < events.length; i += MAX_EVENTS)
          keepParcel(person, order, events.slice(i, i + MAX_EVENTS));
        setLost("");
      } catch {
        setLost(
          "This is not recorded: the browser has no room left for it on this device. Send what waits, or free some room, then record it again.",
        );
        return false;
      }
      look();
      await flush();
      return true;
    },
    [flush, look, person],
  );

  const again = useCallback(
    async (parcel: Parcel) => {
      noteRefusal(parcel, undefined);
      look();
      await flush();
    },
    [flush, look],
  );

  useEffect(() => {
    const later = window.setInterval(
      () => parcelsOf(person).some((p) => !p.refusal && !p.settled) && flush(),
      AGAIN_MS,
    );
    const now = () => void flush();
    for (const event of [SIGNED_IN_AGAIN, "online"]) window.addEventListener(event, now);
    window.addEventListener("storage", look);
    void flush();
    return () => {
      window.clearInterval(later);
      for (const event of [SIGNED_IN_AGAIN, "online"]) window.removeEventListener(event, now);
      window.removeEventListener("storage", look);
    };
  }, [flush, look, person]);

  const settle = useCallback(
    (parcel: Parcel) => {
      settleParcel(parcel);
      look();
    },
    [look],
  );

  return {
    parcels: parcels.filter((p) => !p.settled),
    settled: parcels.filter((p) => p.settled),
    held,
    lost,
    record,
    again,
    settle,
  };
}

/** Send one parcel: it leaves the device on a receipt that names it, and on nothing else. */
async function send(parcel: Parcel): Promise<"sent" | "refused" | Exclude<Held, "">> {
  try {
    const receipt = await need(
      client.POST("/api/v1/pocket/orders/{order_id}/submissions", {
        params: { path: { order_id: parcel.order } },
        body: {
          id: parcel.id,
          person: parcel.person,
          sent_at: new Date().toISOString(),
          events: parcel.events,
        },
      }),
    );
    if (receipt.submission !== parcel.id) return "busy";
    dropParcel(parcel);
    return "sent";
  } catch (error) {
    if (error instanceof Unreachable) return "offline";
    if (!(error instanceof Refused)) return "busy";
    if (error.status === 401 || error.status === 403 || error.problem.code === "submissions.person")
      return "signed out";
    if (mayPass(error)) return "busy";
    noteRefusal(parcel, { code: error.problem.code, detail: error.message, at: Date.now() });
    return "refused";
  }
}

/** What waits, in words for the bar: true to the last parcel. */
export function standingWords(parcels: Parcel[], held: Held): string {
  const refused = parcels.filter((p) => p.refusal).length;
  const waiting = parcels.length - refused;
  const why = {
    "": "",
    offline: ", no connection",
    "signed out": ", sign in to send",
    busy: ", server busy",
  };
  const told = [
    waiting > 0 && `${waiting} not sent${why[held]}`,
    refused > 0 && `${refused} not taken in`,
  ].filter(Boolean);
  return told.join("; ") || "all sent";
}

/** Answers that are recorded and not with the server yet, the latest to each question. */
export function waitingAnswers(parcels: Parcel[], order: string): Record<string, Answer> {
  const out: Record<string, Answer> = {};
  for (const parcel of parcels)
    if (parcel.order === order && !parcel.refusal)
      for (const event of parcel.events)
        if (event.kind === "answered") out[event.question] = event.value as Answer;
  return out;
}

export const now = () => new Date().toISOString();
