import { useLayoutEffect, useRef } from "react";

/** Whether nothing has the focus, because what had it was taken away. */
export const focusIsLost = () => !document.activeElement || document.activeElement === document.body;

/**
 * Moves the focus at once, or with the very next drawing where the target is not there yet; never later.
 * Whoever has gone elsewhere meanwhile keeps the focus there.
 */
export function useFocusAtOnce(find: (id: string) => HTMLElement | null | undefined) {
  const waiting = useRef<{ id: string; from: Element | null } | null>(null);
  useLayoutEffect(() => {
    const wanted = waiting.current;
    if (!wanted) return;
    const target = find(wanted.id);
    if (!target) return;
    waiting.current = null;
    if (focusIsLost() || document.activeElement === wanted.from) target.focus();
  });
  return (id: string) => {
    const target = find(id);
    target?.focus();
    // Drawing may take a row out and put it back elsewhere, which loses the focus: then it is given again.
    waiting.current = { id, from: target ?? document.activeElement };
  };
}

/** Says, once something that took time is over, whether the focus is still where it was when it began. */
export function watchFocus(): () => boolean {
  const from = document.activeElement;
  return () => focusIsLost() || document.activeElement === from;
}
