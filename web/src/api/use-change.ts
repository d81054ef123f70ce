import { type QueryKey, useMutation, useQueryClient } from "@tanstack/react-query";

/**
 * Change something on the server: `send` asks for it, and what is kept under `changes` is read anew when it is
 * answered. Its `error` says why it was refused, its `isPending` that it is on its way.
 */
export function useChange<V, R>(send: (values: V) => Promise<R>, changes: readonly QueryKey[]) {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: send,
    // Without a network it is refused at once, in words; held back in silence it would look as if it were on its way.
    networkMode: "always",
    onSettled: () => Promise.all(changes.map((queryKey) => cache.invalidateQueries({ queryKey }))),
  });
}
