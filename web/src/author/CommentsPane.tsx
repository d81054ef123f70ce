import { Button, Textarea } from "@mantine/core";
import { useState } from "react";
import { client, need } from "../api/client";
import { keys, useComments } from "../api/queries";
import type { PlanView } from "../api/types";
import { dayTime } from "../ui/format";
import { useAct } from "../ui/use-act";

/** What was said of the document, beside its places; the chosen step is what a new comment is about. */
export function CommentsPane({
  plan,
  chosen,
  writes,
  onOpen,
}: {
  plan: PlanView;
  chosen: string | null;
  writes: boolean;
  onOpen: (step: string) => void;
}) {
  const comments = useComments(plan.document);
  const { act } = useAct((cache) => cache.invalidateQueries({ queryKey: keys.comments(plan.document) }));
  const [text, setText] = useState("");
  const [all, setAll] = useState(false);
  const open = (comments.data ?? []).filter((c) => all || !c.settled_at);
  const settled = (comments.data ?? []).filter((c) => c.settled_at).length;
  const step = plan.content.steps.find((s) => s.id === chosen);

  return (
    <section aria-label="Comments" className="comments">
      <h2>Comments</h2>
      <ul>
        {open.map((comment) => (
          <li key={comment.id} data-settled={comment.settled_at ? "" : undefined}>
            <span className="soft">
              {comment.by} on {comment.letter}, {dayTime(comment.at)}
              {comment.place && ": "}
              {comment.place &&
                (comment.about ? (
                  <button
                    type="button"
                    className="linklike"
                    onClick={() => onOpen(stepOf(plan, comment.place))}
                  >
                    {comment.about}
                  </button>
                ) : (
                  "a place that is gone"
                ))}
            </span>
            <p>{comment.text}</p>
            {writes && (
              <button
                type="button"
                className="linklike"
                onClick={() =>
                  act(() =>
                    need(
                      client.POST("/api/v1/comments/{comment_id}/settle", {
                        params: { path: { comment_id: comment.id } },
                        body: { settled: !comment.settled_at },
                      }),
                    ),
                  )
                }
              >
                {comment.settled_at ? `Settled by ${comment.settled_by}. Open it again` : "Settled"}
              </button>
            )}
          </li>
        ))}
      </ul>
      {settled > 0 && (
        <button type="button" className="linklike" onClick={() => setAll(!all)}>
          {all ? "Only what is open" : `and ${settled} settled`}
        </button>
      )}
      {writes && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            const words = text.trim();
            if (!words) return;
            void act(() =>
              need(
                client.POST("/api/v1/documents/{document}/comments", {
                  params: { path: { document: plan.document } },
                  body: { place: step?.id ?? "", text: words },
                }),
              ).then(() => setText("")),
            );
          }}
        >
          <Textarea
            aria-label="New comment"
            placeholder={step ? `On “${step.text}”` : "On the whole document"}
            autosize
            minRows={2}
            value={text}
            onChange={(e) => setText(e.currentTarget.value)}
          />
          <Button type="submit" variant="default" mt={6} disabled={!text.trim()}>
            Comment
          </Button>
        </form>
      )}
    </section>
  );
}

const stepOf = (plan: PlanView, place: string) =>
  plan.content.steps.find((s) => s.id === place || s.questions.some((q) => q.id === place))?.id ?? place;
