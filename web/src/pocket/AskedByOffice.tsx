import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, need } from "../api/client";
import type { AskedView } from "../api/types";
import { useChange } from "../api/use-change";
import { dayTime } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import "../ui/pocket-step.css";
import "./pocket.css";

const KEY = ["pocket-questions"];

/** What the office asks about jobs that are over. What is typed stays on the phone until the office has it. */
export function AskedByOffice() {
  const found = useQuery({
    queryKey: KEY,
    queryFn: () => need(client.GET("/api/v1/pocket/questions")),
    retry: false,
  });
  if (!found.data?.length) return null;
  return (
    <section aria-label="The office asks">
      <h2>The office asks</h2>
      {found.data.map((asked) => (
        <Asked key={asked.id} asked={asked} />
      ))}
    </section>
  );
}

function Asked({ asked }: { asked: AskedView }) {
  const [text, setText] = useKept(`reedling-answer ${asked.id}`);
  const answer = useChange(
    () =>
      need(
        client.PUT("/api/v1/pocket/questions/{question}/answer", {
          params: { path: { question: asked.id } },
          body: { text },
        }),
      ),
    [KEY],
  );
  return (
    <article className="pconsequence" aria-label={`About ${asked.order}`}>
      <p className="flush">
        <b>{asked.text}</b>
      </p>
      <p>
        {asked.asked_by_name}, {dayTime(asked.asked_at)}, about {asked.order}, {asked.job}
        {asked.step && `, “${asked.step}”`}
      </p>
      <textarea
        className="ptext"
        aria-label="Your answer"
        maxLength={4000}
        value={text}
        onChange={(e) => setText(e.currentTarget.value)}
      />
      <Trouble error={answer.error} />
      {answer.error && <p>Your answer is not with the office. It stays here until you send it.</p>}
      <button
        type="button"
        className="pocket-other"
        disabled={!text.trim() || answer.isPending}
        onClick={() => answer.mutate(undefined, { onSuccess: () => setText("") })}
      >
        {answer.isPending ? "Sending" : "Send the answer"}
      </button>
    </article>
  );
}

/** Words that are kept on this phone under a name until they are empty. */
function useKept(name: string): [string, (words: string) => void] {
  const [words, setWords] = useState(() => localStorage.getItem(name) ?? "");
  return [
    words,
    (next) => {
      setWords(next);
      if (next) localStorage.setItem(name, next);
      else localStorage.removeItem(name);
    },
  ];
}
