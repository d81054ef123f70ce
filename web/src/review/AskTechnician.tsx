import { Button, Select, Textarea } from "@mantine/core";
import { useState } from "react";
import { client, need } from "../api/client";
import type { CompletionPage } from "../api/types";
import { useChange } from "../api/use-change";
import { dayTime } from "../ui/format";
import { Trouble } from "../ui/Trouble";

/** What the office asked the technician about this job, the answers, and a new question. */
export function AskTechnician({ completion, writes }: { completion: CompletionPage; writes: boolean }) {
  const { line, run } = completion.page;
  const [step, setStep] = useState<string | null>(null);
  const [text, setText] = useState("");
  const ask = useChange(
    () =>
      need(
        client.POST("/api/v1/completions/{order_id}/questions", {
          params: { path: { order_id: line.id } },
          body: { line: step ?? "", text },
        }),
      ),
    [["order", line.id, "completion"]],
  );
  if (!writes && completion.asked.length === 0) return null;
  return (
    <section aria-label="Asked the technician">
      <h2 className="apart">Asked the technician</h2>
      {completion.asked.map((one) => (
        <div key={one.id} className="note">
          <div className="soft">
            {one.asked_by_name}, {dayTime(one.asked_at)}
            {one.step && `: ${one.step}`}
          </div>
          {one.text}
          <div className="under">
            {one.answered_at ? (
              <>
                <b>{one.answer}</b>{" "}
                <span className="soft">
                  {one.technician_name}, {dayTime(one.answered_at)}
                </span>
              </>
            ) : (
              <span className="soft">{one.technician_name} has not answered yet.</span>
            )}
          </div>
        </div>
      ))}
      {writes && (
        <>
          <Select
            aria-label="About which step"
            placeholder="About the whole job"
            clearable
            searchable
            data={run.runsheet.lines.map((one) => ({ value: one.id, label: one.text }))}
            value={step}
            onChange={setStep}
          />
          <Textarea
            mt={6}
            aria-label={`Question to ${line.technician_name}`}
            placeholder={`Ask ${line.technician_name}`}
            autosize
            minRows={2}
            maxLength={4000}
            value={text}
            onChange={(e) => setText(e.currentTarget.value)}
          />
          <Trouble error={ask.error} />
          <Button
            mt={6}
            variant="default"
            disabled={!text.trim()}
            loading={ask.isPending}
            onClick={() =>
              ask.mutate(undefined, {
                onSuccess: () => {
                  setText("");
                  setStep(null);
                },
              })
            }
          >
            Ask
          </Button>
        </>
      )}
    </section>
  );
}
