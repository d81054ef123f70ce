import { useNavigate } from "react-router";
import { client, need } from "../api/client";
import { guidanceChanged } from "../api/queries";
import { useAct } from "../ui/use-act";

interface Discarded {
  document: string;
  letter: string;
  state: string;
  etag: string;
}

/** What throwing a draft away would undo, in words, and how to do it. */
export interface Discard {
  words: string;
  go: () => Promise<void>;
}

/** Throw the drafts among these revisions away; `home` is where one goes when all is gone. */
export function useDiscard(
  views: Discarded[],
  { only, all, home }: { only: boolean; all: string; home: string },
): Discard {
  const { act } = useAct(guidanceChanged);
  const navigate = useNavigate();
  const drafts = views.filter((view) => view.state === "Draft");
  async function go() {
    const isGone = await act(async () => {
      for (const view of drafts) {
        await need(
          client.DELETE("/api/v1/documents/{document}/draft", {
            params: { path: { document: view.document }, header: { "if-match": view.etag } },
          }),
        );
      }
      return true;
    });
    if (isGone && only) void navigate(home);
  }
  return { words: only ? all : "What is written in it is lost. What was released stays.", go };
}
