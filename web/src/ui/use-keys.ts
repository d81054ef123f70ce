import { useRef } from "react";

/** Names for the items of a list that have none, so that each keeps what it holds while others come and go. */
export function useKeys(count: number): { keys: string[]; drop: (place: number) => void } {
  const held = useRef<{ next: number; keys: string[] }>({ next: 0, keys: [] });
  const { keys } = held.current;
  while (keys.length < count) keys.push(String(held.current.next++));
  keys.length = count;
  return { keys: [...keys], drop: (place) => void keys.splice(place, 1) };
}
