import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, need } from "../api/client";
import type { AskedPart } from "../api/types";
import { useChange } from "../api/use-change";
import { dayTime } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import "../ui/pocket-step.css";
import "./pocket.css";

const KEY = ["pocket-part-asks"];
/** How often it is looked whether a colleague asks for something, in milliseconds. */
const AGAIN_MS = 60_000;

/** What colleagues ask for out of the van. */
export function AskedForParts() {
  const found = useQuery({
    queryKey: KEY,
    queryFn: () => need(client.GET("/api/v1/pocket/part-asks")),
    retry: false,
    refetchInterval: AGAIN_MS,
  });
  if (!found.data?.length) return null;
  return (
    <section aria-label="A colleague asks">
      <h2>A colleague asks</h2>
      {found.data.map((ask) => (
        <Ask key={ask.record} ask={ask} />
      ))}
    </section>
  );
}

function Ask({ ask }: { ask: AskedPart }) {
  const [text, setText] = useState("");
  const answer = useChange(
    (granted: boolean) =>
      need(
        client.PUT("/api/v1/pocket/part-asks/{order_id}/{record}", {
          params: { path: { order_id: ask.order, record: ask.record } },
          body: { granted, text: text.trim() },
        }),
      ),
    [KEY],
  );
  return (
    <article className="pconsequence" aria-label={`${ask.person_name} asks`}>
      <p className="flush">
        <b>{ask.amount}</b>
      </p>
      <p>
        {ask.person_name}, {dayTime(ask.at)}, for {ask.asset}, {ask.site} ({ask.order})
      </p>
      <input
        className="ptext"
        aria-label="Where and when, or why not"
        placeholder="Where and when, or why not"
        maxLength={500}
        value={text}
        onChange={(e) => setText(e.currentTarget.value)}
      />
      <Trouble error={answer.error} />
      <div className="pocket-even">
        <button
          type="button"
          className="pocket-other"
          disabled={answer.isPending}
          onClick={() => answer.mutate(true)}
        >
          You can have it
        </button>
        <button
          type="button"
          className="pocket-other"
          disabled={answer.isPending}
          onClick={() => answer.mutate(false)}
        >
          No
        </button>
      </div>
    </article>
  );
}
