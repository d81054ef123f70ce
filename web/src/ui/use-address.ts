import { useCallback } from "react";
import { useNavigate, useSearchParams } from "react-router";

type Put = (key: string, value: string | null) => void;
type PutAll = (values: Record<string, string | null>) => void;

/**
 * What the address says behind its question mark, and ways to put or take away one of it, or several.
 *
 * A change starts from the address as it stands in the window, not as it was last drawn: of two changes made before
 * the page is drawn again, both stay.
 */
export function useAddress(): [URLSearchParams, Put, PutAll] {
  const [search] = useSearchParams();
  const navigate = useNavigate();
  const putAll = useCallback<PutAll>(
    (values) => {
      const next = new URLSearchParams(window.location.search);
      for (const [key, value] of Object.entries(values)) {
        if (value) next.set(key, value);
        else next.delete(key);
      }
      void navigate({ search: next.toString() }, { replace: true });
    },
    [navigate],
  );
  const put = useCallback<Put>((key, value) => putAll({ [key]: value }), [putAll]);
  return [search, put, putAll];
}
