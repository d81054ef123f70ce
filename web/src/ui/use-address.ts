import { useCallback } from "react";
import { useSearchParams } from "react-router";

type Put = (key: string, value: string | null) => void;
type PutAll = (values: Record<string, string | null>) => void;

/** What the address says behind its question mark, and ways to put or take away one of it, or several. */
export function useAddress(): [URLSearchParams, Put, PutAll] {
  const [search, setSearch] = useSearchParams();
  const putAll = useCallback<PutAll>(
    (values) =>
      setSearch(
        (before) => {
          const next = new URLSearchParams(before);
          for (const [key, value] of Object.entries(values)) {
            if (value) next.set(key, value);
            else next.delete(key);
          }
          return next;
        },
        { replace: true },
      ),
    [setSearch],
  );
  const put = useCallback<Put>((key, value) => putAll({ [key]: value }), [putAll]);
  return [search, put, putAll];
}
