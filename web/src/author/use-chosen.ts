import { useCallback } from "react";
import { useAddress } from "../ui/use-address";

/** The step chosen on a sheet, kept in the address so that it can be linked to. */
export function useChosen(): [string | null, (step: string | null) => void] {
  const [search, put] = useAddress();
  const choose = useCallback((step: string | null) => put("step", step), [put]);
  return [search.get("step"), choose];
}
