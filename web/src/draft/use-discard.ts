import { notifications } from "@mantine/notifications";
import { useNavigate } from "react-router";
import { client, need } from "../api/client";
import { guidanceChanged, useCache } from "../api/queries";

interface Discarded {
  document: string;
  letter: string;
  state: string;
  etag: string;
}

/** Throw the drafts among these revisions away, after asking; `home` is where one goes when all is gone. */
export function useDiscard(
  views: Discarded[],
  { only, all, home }: { only: boolean; all: string; home: string },
) {
  const cache = useCache();
  const navigate = useNavigate();
  return async () => {
    const drafts = views.filter((view) => view.state === "Draft");
    const letter = drafts.at(-1)?.letter;
    const words = only ? all : `Throw draft ${letter} away? What was released stays.`;
    if (!letter || !window.confirm(words)) return;
    try {
      for (const view of drafts) {
        await need(
          client.DELETE("/api/documents/{document}/draft", {
            params: { path: { document: view.document }, header: { "if-match": view.etag } },
          }),
        );
      }
      if (only) navigate(home);
    } catch (error) {
      notifications.show({ color: "bad", message: (error as Error).message });
    }
    guidanceChanged(cache);
  };
}
