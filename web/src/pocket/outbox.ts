import { useCallback, useEffect, useRef, useState } from "react";
import { client, need, Refused, Unreachable } from "../api/client";
import { keys, useCache } from "../api/queries";
import type { FieldEvent } from "../api/types";

interface Parcel {
  id: string;
  order: string;
  events: FieldEvent[];
}

const KEY = "reedling-outbox";

function load(): Parcel[] {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? "[]") as Parcel[];
  } catch {
    return [];
  }
}

/**
 * What was recorded and not yet sent. Kept on the device before it is sent, sent in order, under
 * an identity of its own, so that a parcel sent twice is applied once.
 */
export function useOutbox(order: string) {
  const cache = useCache();
  const [waiting, setWaiting] = useState(() => load().filter((p) => p.order === order).length);
  const [refusal, setRefusal] = useState("");
  const sending = useRef<Promise<boolean> | null>(null);

  const keep = useCallback(
    (parcels: Parcel[]) => {
      localStorage.setItem(KEY, JSON.stringify(parcels));
      setWaiting(parcels.filter((p) => p.order === order).length);
    },
    [order],
  );

  const flush = useCallback((): Promise<boolean> => {
    const work = async () => {
      for (let first = load()[0]; first; first = load()[0]) {
        const parcel = first;
        try {
          await need(
            client.POST("/api/pocket/orders/{order_id}/submissions", {
              params: { path: { order_id: parcel.order } },
              body: { id: parcel.id, events: parcel.events },
            }),
          );
        } catch (error) {
          if (error instanceof Unreachable || (error instanceof Refused && error.status >= 500)) return false;
          setRefusal((error as Error).message);
          keep(load().filter((p) => p.id !== parcel.id));
          await cache.refetchQueries({ queryKey: keys.ownOrder(parcel.order) });
          return false;
        }
        keep(load().filter((p) => p.id !== parcel.id));
      }
      return true;
    };
    sending.current = (sending.current ?? Promise.resolve(true)).then(work, work);
    return sending.current;
  }, [cache, keep]);

  const record = useCallback(
    async (events: FieldEvent[]): Promise<boolean> => {
      setRefusal("");
      keep([...load(), { id: crypto.randomUUID(), order, events }]);
      const sent = await flush();
      if (sent) await cache.refetchQueries({ queryKey: keys.ownOrder(order) });
      return sent;
    },
    [cache, flush, keep, order],
  );

  useEffect(() => {
    const again = window.setInterval(() => load().length > 0 && flush(), 8_000);
    return () => window.clearInterval(again);
  }, [flush]);

  return { waiting, refusal, record, clearRefusal: () => setRefusal("") };
}

export const now = () => new Date().toISOString();
