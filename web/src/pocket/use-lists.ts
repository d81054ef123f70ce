import { useQuery } from "@tanstack/react-query";
import { choices, partsToCarry, pocketLists } from "./day";

/** Parts, causes and remedies to choose from; without a network those fetched last. */
export const usePocketLists = () =>
  useQuery({
    queryKey: ["pocket-lists"],
    queryFn: pocketLists,
    staleTime: 300_000,
    networkMode: "always",
  });

/** What may be chosen in general; without a network as it was fetched last. */
export const useKeptChoices = () =>
  useQuery({ queryKey: ["pocket-choices"], queryFn: choices, staleTime: 300_000, networkMode: "always" });

/** What the orders taken along want carried. */
export const usePartsToCarry = (person: string) =>
  useQuery({
    queryKey: ["parts-to-carry", person],
    queryFn: () => partsToCarry(person),
    staleTime: 60_000,
    networkMode: "always",
  });
