import { Select, Textarea } from "@mantine/core";
import { useState } from "react";
import type { FieldEvent } from "../api/types";
import { count, number } from "../ui/format";
import { Look } from "../ui/Look";
import type { CarriedOrder } from "./carried-order";
import { now } from "./outbox";
import { usePocketLists } from "./use-lists";

interface CloseOutProps {
  page: CarriedOrder;
  record: (...events: FieldEvent[]) => Promise<boolean>;
}

/** The last screen on site: what was found, what put it right, and away. */
export function CloseOut(props: CloseOutProps) {
  return (
    <Look>
      <CloseOutFields {...props} />
    </Look>
  );
}

function CloseOutFields({ page, record }: CloseOutProps) {
  const lists = usePocketLists();
  const [cause, setCause] = useState<string | null>(page.job.cause);
  const [remedy, setRemedy] = useState<string | null>(page.job.remedy);
  const [note, setNote] = useState("");
  const findings = page.run.progress.findings;
  return (
    <div className="pstep">
      <p className="pstep-place">Every step is done</p>
      <h2>What was it?</h2>
      <Select
        label="Cause found"
        size="md"
        searchable
        data={(lists.data?.causes ?? []).map((c) => ({ value: c.code, label: c.label }))}
        value={cause}
        onChange={setCause}
      />
      <Select
        label="Remedy"
        size="md"
        mt="sm"
        searchable
        data={(lists.data?.remedies ?? []).map((r) => ({ value: r.code, label: r.label }))}
        value={remedy}
        onChange={setRemedy}
      />
      <Textarea
        label="Anything the next one should know"
        size="md"
        mt="sm"
        autosize
        minRows={2}
        value={note}
        onChange={(e) => setNote(e.currentTarget.value)}
      />
      <p>
        {count(page.run.progress.n_done, "step")}, {count(findings.length, "finding")}
        {page.job.parts.length > 0 &&
          `, parts used: ${page.job.parts.map((p) => `${number(p.quantity)} × ${p.part}`).join(", ")}`}
        .
      </p>
      {findings.map((f) => (
        <p key={f.question} className="pconsequence out">
          <b>{f.severity}.</b> {f.sentence}
        </p>
      ))}
      <button
        type="button"
        className="pocket-main"
        style={{ width: "100%", marginTop: 12 }}
        disabled={!cause || !remedy}
        onClick={() => {
          const at = now();
          const events: FieldEvent[] = [];
          if (note.trim()) events.push({ kind: "note written", at, text: note.trim(), line: null });
          events.push({ kind: "coded", at, cause: cause ?? "", remedy: remedy ?? "" });
          events.push({ kind: "left site", at, outcome: "finished", reason: null, note: "" });
          void record(...events);
        }}
      >
        Finish the job
      </button>
    </div>
  );
}
