import { useEffect, useRef, useState } from "react";

/** Whether a saving came to nothing: a promise that gives nothing was refused; what is no promise is done. */
export async function wasRefused(saving: unknown): Promise<boolean> {
  return saving instanceof Promise && (await saving.catch(() => undefined)) === undefined;
}

/**
 * What stands in a field that saves when one leaves it. A value that arrives from the server replaces
 * it, but never under the hands of somebody typing: an answer to an earlier edit may come late.
 */
export function useEntry<T>(value: T) {
  const [entry, setEntry] = useState(value);
  const typing = useRef(false);
  const [going, setGoing] = useState(false);
  const [refused, setRefused] = useState(false);
  useEffect(() => {
    if (!typing.current && !going && !refused) setEntry(value);
  }, [value, going, refused]);
  return {
    entry,
    type: (next: T) => {
      typing.current = true;
      setEntry(next);
    },
    leave: () => {
      typing.current = false;
    },
    /** Whether what stands here was refused: it is not lost, and it is not saved. */
    refused: refused && entry !== value,
    /** What was typed stays until the saving of it is answered, and after it where it was refused. */
    keep: (saving: unknown) => {
      setGoing(true);
      setRefused(false);
      void wasRefused(saving).then((was) => {
        setRefused(was);
        setGoing(false);
      });
    },
  };
}
