import { useQuery } from "@tanstack/react-query";
import { choices, pocketLists, toCarry } from "./day";

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
export const useToCarry = (person: string) =>
  useQuery({
    queryKey: ["to-carry", person],
    queryFn: () => toCarry(person),
    staleTime: 60_000,
    networkMode: "always",
  });
