import { useEffect, useMemo } from "react";
import type { KeptPicture } from "./device-store";

/** Addresses under which pictures that the server does not have yet can be shown, by their identity. */
export function useLocalPictures(pictures: KeptPicture[]): Map<string, string> {
  const mark = pictures.map((p) => p.id).join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: a picture never changes; the mark names them all.
  const found = useMemo(() => new Map(pictures.map((p) => [p.id, URL.createObjectURL(p.blob)])), [mark]);
  useEffect(
    () => () => {
      for (const address of found.values()) URL.revokeObjectURL(address);
    },
    [found],
  );
  return found;
}
