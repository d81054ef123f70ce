import { Select, Textarea } from "@mantine/core";
import { useState } from "react";
import type { FieldEvent, PastFixView } from "../api/types";
import { count, number } from "../ui/format";
import { Look } from "../ui/Look";
import type { CarriedOrder } from "./carried-order";
import { Dictate } from "./Dictate";
import { now } from "./outbox";
import { PocketPastFixes } from "./PocketPastFixes";
import { usePartNames } from "./part-names";
import { StillOpen } from "./StillOpen";
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
  const stillOpen = page.run.still_open;
  const guide = page.run.guide;
  const helped = guide?.remedies.find((step) => step.state === "helped");
  const remedyLabel = (code: string) =>
    (lists.data?.remedies.find((r) => r.code === code)?.label ?? code).toLowerCase();

  /** Recorded as soon as both are chosen: what finishing wants may depend on them. */
  function choose(nextCause: string | null, nextRemedy: string | null) {
    setCause(nextCause);
    setRemedy(nextRemedy);
    if (nextCause && nextRemedy)
      void record({ kind: "coded", at: now(), cause: nextCause, remedy: nextRemedy });
  }

  function solvedBy(fix: PastFixView) {
    setCause(fix.cause);
    setRemedy(fix.remedy);
  }

  async function keepNote() {
    if (await record({ kind: "note written", at: now(), text: note.trim(), line: null })) setNote("");
  }

  return (
    <div className="pstep">
      <p className="pstep-place">Every step is done</p>
      <h2>What was it?</h2>
      <StillOpen rules={stillOpen} />
      {helped && guide && !(page.job.cause === guide.found && page.job.remedy === helped.code) && (
        <button
          type="button"
          className="pocket-other"
          style={{ margin: "8px 0" }}
          onClick={() => choose(guide.found, helped.code)}
        >
          As the fault guide has it: {guide.causes.find((c) => c.cause === guide.found)?.label},{" "}
          {remedyLabel(helped.code)}
        </button>
      )}
      <PocketPastFixes page={page} record={record} onSolved={solvedBy} />
      <Select
        label="Cause found"
        size="md"
        searchable
        data={(lists.data?.causes ?? []).map((c) => ({ value: c.code, label: c.label }))}
        value={cause}
        onChange={(value) => choose(value, remedy)}
      />
      <Select
        label="Remedy"
        size="md"
        mt="sm"
        searchable
        data={(lists.data?.remedies ?? []).map((r) => ({ value: r.code, label: r.label }))}
        value={remedy}
        onChange={(value) => choose(cause, value)}
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
      <Dictate onWords={(words) => setNote((held) => [held, words].filter(Boolean).join(" "))} />
      {note.trim() && (
        <button type="button" className="pocket-other under" onClick={keepNote}>
          Keep note
        </button>
      )}
      <Summary page={page} />
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
          if (cause !== page.job.cause || remedy !== page.job.remedy)
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

/** All that goes to the office, to be read over once before it is finished. */
function Summary({ page }: { page: CarriedOrder }) {
  const { job, run } = page;
  const names = usePartNames();
  const costs = Object.values(job.costs);
  const costName = (code: string) => run.runsheet.cost_kinds.find((kind) => kind.code === code)?.name ?? code;
  const texts = new Map(run.runsheet.lines.map((line) => [line.id, line.text]));
  const leftOut = run.progress.lines.filter((line) => line.state === "skipped");
  const findings = run.progress.findings.length;
  return (
    <section aria-label="Summary" className="psummary">
      <h2>To be sent</h2>
      <p>
        {count(run.progress.n_done - leftOut.length, "step")} done, {count(findings, "finding")},{" "}
        {count(job.notes.length, "note")}.
      </p>
      {leftOut.map((line) => (
        <p key={line.line}>
          Left out: {texts.get(line.line)}. {job.skipped[line.line]}
        </p>
      ))}
      {job.parts.length > 0 && (
        <p>Parts used: {job.parts.map((p) => names.amount(p.part, p.quantity)).join(", ")}.</p>
      )}
      {costs.length > 0 && (
        <p>Other costs: {costs.map((cost) => `${costName(cost.cost)} ${number(cost.amount)}`).join(", ")}.</p>
      )}
      {job.beside.signed.length > 0 && (
        <p>Signed by {job.beside.signed.map((signed) => `${signed.name}, ${signed.role}`).join("; ")}.</p>
      )}
      {job.notes.map((note) => (
        <p key={`${note.at} ${note.text}`}>“{note.text}”</p>
      ))}
    </section>
  );
}
