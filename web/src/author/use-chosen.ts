import { useCallback } from "react";
import { useSearchParams } from "react-router";

/** The step chosen on a sheet, kept in the address so that it can be linked to. */
export function useChosen(): [string | null, (step: string | null) => void] {
  const [search, setSearch] = useSearchParams();
  const choose = useCallback(
    (step: string | null) =>
      setSearch(
        (before) => {
          const next = new URLSearchParams(before);
          if (step) next.set("step", step);
          else next.delete("step");
          return next;
        },
        { replace: true },
      ),
    [setSearch],
  );
  return [search.get("step"), choose];
}
