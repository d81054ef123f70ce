import type { CrossFiltered } from "../api/types";

export type Facet = CrossFiltered["facets"][number]["facet"];
/** Values chosen, by the name of the facet as the address has it. */
export type Choices = Record<string, string[]>;

export const param = (facet: string) => facet.replace(" ", "_");

/** Choices as they stand behind the question mark of an address. */
export function inAddress(choices: Partial<Record<Facet, readonly string[]>>): URLSearchParams {
  const out = new URLSearchParams();
  for (const [facet, values] of Object.entries(choices)) out.set(param(facet), values.join("|"));
  return out;
}
