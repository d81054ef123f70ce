import { useEffect, useRef, useState } from "react";

/**
 * What stands in a field that saves when one leaves it. A value that arrives from the server replaces
 * it, but never under the hands of somebody typing: an answer to an earlier edit may come late.
 */
export function useEntry<T>(value: T) {
  const [entry, setEntry] = useState(value);
  const typing = useRef(false);
  useEffect(() => {
    if (!typing.current) setEntry(value);
  }, [value]);
  return {
    entry,
    type: (next: T) => {
      typing.current = true;
      setEntry(next);
    },
    leave: () => {
      typing.current = false;
    },
  };
}
