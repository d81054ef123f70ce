import { useAddress } from "../ui/use-address";

const KEYS = ["asset", "symptom", "order", "day", "priority", "type", "draft"] as const;
type Key = (typeof KEYS)[number];

export interface TriedOrderState {
  values: Record<Exclude<Key, "draft">, string | null> & { draft: boolean };
  set: (key: Key, value: string | null) => void;
}

/** The order that is tried, kept in the address so that it can be linked to. */
export function useTriedOrder(): TriedOrderState {
  const [search, put] = useAddress();
  const read = (key: Key) => search.get(key);
  return {
    values: {
      asset: read("asset"),
      symptom: read("symptom"),
      order: read("order"),
      day: read("day"),
      priority: read("priority"),
      type: read("type"),
      draft: read("draft") !== "no",
    },
    set: put,
  };
}
