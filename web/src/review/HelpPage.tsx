import { Button, Textarea } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { v4 as newId } from "uuid";
import { client, need } from "../api/client";
import { useHelpThreads } from "../api/queries";
import { mayWrite } from "../api/roles";
import type { Person, PictureMark } from "../api/types";
import { Empty } from "../ui/Empty";
import { dayTime, time } from "../ui/format";
import { HelpFrame, HelpMessages, marksBySide } from "../ui/HelpTalk";
import { MarkPicture } from "../ui/MarkPicture";
import { Shelf } from "../ui/Shelf";
import { Trouble } from "../ui/Trouble";
import "./review.css";

/** How often what was said on site is asked for while a thread is open, in milliseconds. */
const LOOK_MS = 1_000;

/** Questions from site: those that wait for an answer, and one of them with its picture and what was said. */
export function HelpPage({ person }: { person: Person }) {
  const { thread } = useParams();
  const open = useHelpThreads();
  const rows = open.data ?? [];
  return (
    <div className="bench no-margin">
      <Shelf
        label="Questions from site"
        items={rows.map((row) => ({
          id: row.thread,
          title: row.asset,
          group: row.waits_for_office ? "Waits for an answer" : "Answered, still open",
          to: `/review/help/${row.thread}`,
          figure: time(row.asked_at),
          figureTitle: `${row.technician} asked ${dayTime(row.asked_at)}`,
        }))}
      />
      <main className="sheet" id="sheet">
        <div className="inner">
          <Trouble error={open.error} />
          {thread ? (
            <Thread key={thread} thread={thread} writes={mayWrite(person)} />
          ) : rows.length === 0 && open.data ? (
            <Empty title="Nobody asks for help">
              When somebody on site asks, the question appears here with its picture. What is kept of it stays
              with its step, in <Link to="/review">Review</Link>.
            </Empty>
          ) : (
            <>
              <h1>Questions from site, {rows.length}</h1>
              <p className="soft">Choose one on the left.</p>
            </>
          )}
        </div>
      </main>
    </div>
  );
}

function Thread({ thread, writes }: { thread: string; writes: boolean }) {
  const cache = useQueryClient();
  const view = useQuery({
    queryKey: ["help-thread", thread],
    queryFn: () => need(client.GET("/api/v1/help-threads/{thread}", { params: { path: { thread } } })),
    refetchInterval: (held) => (held.state.data?.ended_at ? false : LOOK_MS),
  });
  const [text, setText] = useState("");
  const [drawing, setDrawing] = useState(false);
  const reply = useMutation({
    mutationFn: ({ id, words, marks }: { id: string; words: string; marks: PictureMark[] }) =>
      need(
        client.POST("/api/v1/help-threads/{thread}/replies", {
          params: { path: { thread } },
          body: { id, text: words, marks },
        }),
      ),
    onSuccess: (_done, { words }) => {
      setText((now) => (now.trim() === words ? "" : now));
      void cache.invalidateQueries({ queryKey: ["help-thread", thread] });
      void cache.invalidateQueries({ queryKey: ["help-threads"] });
      void cache.invalidateQueries({ queryKey: ["waiting"] });
    },
  });
  const found = view.data;
  if (!found) return <Trouble error={view.error} />;
  const src = found.picture ? `/api/v1/pictures/${found.picture}` : null;
  return (
    <>
      <h1>{found.step || found.asset}</h1>
      <p className="soft">
        {found.technician} at {found.asset}, <Link to={`/review/jobs/${found.order}`}>{found.order}</Link>
        {found.step_document && (
          <>
            ,{" "}
            <Link to={`/author/documents/${found.step_document}?step=${found.step_identity}`}>the step</Link>
          </>
        )}
      </p>
      <div className="help-sheet">
        {src && (
          <div className="large-picture">
            <HelpFrame src={src} view={found} />
            <p className="soft">Marks from site are drawn through, those of the office dashed.</p>
          </div>
        )}
        <div>
          <HelpMessages messages={found.messages} />
          {found.ended_at ? (
            <p className="soft">
              Ended {dayTime(found.ended_at)}. {found.kept ? "It stays with the step." : "It was not kept."}
            </p>
          ) : writes ? (
            <>
              <Textarea
                label="Your answer"
                autosize
                minRows={3}
                maxLength={2000}
                value={text}
                onChange={(e) => setText(e.currentTarget.value)}
              />
              <div className="actions under">
                <Button
                  disabled={!text.trim()}
                  loading={reply.isPending}
                  onClick={() => reply.mutate({ id: newId(), words: text.trim(), marks: [] })}
                >
                  Answer
                </Button>
                {src && (
                  <Button variant="default" onClick={() => setDrawing(true)}>
                    Draw on the picture
                  </Button>
                )}
              </div>
              <Trouble error={reply.error} />
            </>
          ) : (
            <p className="soft">Engineers answer questions from site.</p>
          )}
        </div>
      </div>
      {drawing && src && (
        <MarkPicture
          src={src}
          label="the picture from site"
          marks={[]}
          under={marksBySide(found.messages)}
          side="office"
          keep="Send marks"
          onClose={() => setDrawing(false)}
          onKeep={(marks) => {
            setDrawing(false);
            if (marks.length > 0) reply.mutate({ id: newId(), words: "", marks });
          }}
        />
      )}
    </>
  );
}
