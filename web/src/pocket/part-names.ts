import type { PartSupply } from "../api/types";
import { partAmount } from "../ui/need-words";
import { usePocketLists } from "./use-lists";

export interface PartNames {
  /** So much of a part, in words. */
  amount: (part: string, quantity: number) => string;
  /** Where a part comes from, in words. */
  source: (supply: PartSupply | undefined) => string;
  /** A colleague by name. */
  person: (id: string) => string;
}

/** How parts and those they come from are spoken of on the phone. */
export function usePartNames(): PartNames {
  const lists = usePocketLists();
  const people = new Map(lists.data?.holders.map((holder) => [holder.person, holder.name]));
  const person = (id: string) => people.get(id) ?? "a colleague";
  return {
    amount: (code, quantity) => partAmount(lists.data?.parts, code, quantity),
    source: (supply) => (supply?.of ? `from ${person(supply.of)}` : "sent ahead"),
    person,
  };
}
