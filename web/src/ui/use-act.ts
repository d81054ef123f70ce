import { notifications } from "@mantine/notifications";
import { type QueryClient, useMutation, useQueryClient } from "@tanstack/react-query";

/** How long a refusal stays, in milliseconds: it is read to the end, and says what to do. */
const READ_MS = 12_000;

/** Tell in a notice why something was not done. */
export function tellRefusal(error: unknown) {
  notifications.show({ color: "bad", message: (error as Error).message, autoClose: READ_MS });
}

export interface Acting {
  /** Do it; gives what came of it, nothing where it was refused. `says` is told once it is done. */
  act: <R>(work: () => Promise<R>, says?: string) => Promise<R | undefined>;
  isBusy: boolean;
}

/**
 * Do things on the server from a button: a refusal is told in a notice, and what may have changed is read anew,
 * whether it was done or not. Where the refusal is to be told beside the button, there is `useChange`.
 */
export function useAct(changed: (cache: QueryClient) => void): Acting {
  const cache = useQueryClient();
  const acting = useMutation({
    mutationFn: (work: () => Promise<unknown>) => work(),
    // Without a network it is refused at once, in words; held back in silence it would look as if it were on its way.
    networkMode: "always",
    onError: tellRefusal,
    onSettled: () => changed(cache),
  });
  async function act<R>(work: () => Promise<R>, says = ""): Promise<R | undefined> {
    try {
      const made = await acting.mutateAsync(work);
      if (says) notifications.show({ message: says });
      return made as R;
    } catch {
      return undefined;
    }
  }
  return { act, isBusy: acting.isPending };
}
