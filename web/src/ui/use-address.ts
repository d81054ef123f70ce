import { useCallback } from "react";
import { useSearchParams } from "react-router";

/** What the address says behind its question mark, and a way to put or take away one of it. */
export function useAddress(): [URLSearchParams, (key: string, value: string | null) => void] {
  const [search, setSearch] = useSearchParams();
  const put = useCallback(
    (key: string, value: string | null) =>
      setSearch(
        (before) => {
          const next = new URLSearchParams(before);
          if (value) next.set(key, value);
          else next.delete(key);
          return next;
        },
        { replace: true },
      ),
    [setSearch],
  );
  return [search, put];
}
