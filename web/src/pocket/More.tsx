import { Drawer, Select, Textarea } from "@mantine/core";
import { useState } from "react";
import type { FieldEvent, ReturnReason } from "../api/types";
import { dayTime } from "../ui/format";
import { Look } from "../ui/Look";
import { Links } from "../ui/PocketStep";
import { BesideSteps } from "./BesideSteps";
import type { CarriedOrder } from "./carried-order";
import { Dictate } from "./Dictate";
import { now } from "./outbox";
import { PartUsed } from "./PartUsed";
import { PocketPastFixes } from "./PocketPastFixes";
import { StillOpen } from "./StillOpen";
import { useKeptChoices } from "./use-lists";

export interface MoreProps {
  shown: boolean;
  page: CarriedOrder;
  current: string | null;
  record: (...events: FieldEvent[]) => Promise<boolean>;
  keepPicture: (blob: Blob, name: string) => Promise<string | null>;
  standIns: boolean;
  onJump: (line: string | null) => void;
  onClose: () => void;
}

/** What is not the next step: parts, notes, leaving a step out, all steps, leaving the site. */
export function More(props: MoreProps) {
  return (
    <Look>
      <MoreDrawer {...props} />
    </Look>
  );
}

function MoreDrawer({ shown, page, current, record, keepPicture, standIns, onJump, onClose }: MoreProps) {
  const choices = useKeptChoices();
  const [note, setNote] = useState("");
  const [why, setWhy] = useState("");
  const [reason, setReason] = useState<ReturnReason | null>(null);
  const names = new Map(page.run.runsheet.lines.map((l) => [l.id, l]));
  const here = current ? names.get(current) : undefined;

  async function send(event: FieldEvent) {
    if (await record(event)) onClose();
  }

  return (
    <Drawer
      opened={shown}
      onClose={onClose}
      position="bottom"
      size="88%"
      title="More"
      classNames={{ content: "pocket-drawer" }}
    >
      <StillOpen rules={page.run.still_open} />
      <PartUsed page={page} current={current} record={record} onDone={onClose} />
      <section>
        <h2>Note</h2>
        <Textarea
          aria-label="Note"
          size="md"
          autosize
          minRows={2}
          value={note}
          onChange={(e) => setNote(e.currentTarget.value)}
        />
        <Dictate onWords={(words) => setNote((held) => [held, words].filter(Boolean).join(" "))} />
        {page.run.runsheet.phrases.length > 0 && (
          <div className="pready">
            {page.run.runsheet.phrases.map((phrase) => (
              <button
                key={phrase}
                type="button"
                className="pchoice"
                onClick={() => setNote((words) => (words ? `${words} ${phrase}` : phrase))}
              >
                {phrase}
              </button>
            ))}
          </div>
        )}
        <button
          type="button"
          className="pocket-other"
          disabled={!note.trim()}
          onClick={() => send({ kind: "note written", at: now(), text: note.trim(), line: current })}
        >
          Keep note
        </button>
      </section>
      <PocketPastFixes page={page} record={record} />
      {here && page.run.may_be_skipped.includes(here.id) && (
        <section>
          <h2>Leave this step out</h2>
          <Textarea
            aria-label="Why it is left out"
            placeholder="Why"
            size="md"
            value={why}
            onChange={(e) => setWhy(e.currentTarget.value)}
          />
          <button
            type="button"
            className="pocket-other"
            disabled={!why.trim()}
            onClick={() => send({ kind: "step skipped", at: now(), line: here.id, reason: why.trim() })}
          >
            Leave it out
          </button>
        </section>
      )}
      <section>
        <h2>Break</h2>
        <button
          type="button"
          className="pocket-other"
          onClick={() => send({ kind: "break began", at: now() })}
        >
          Begin a break
        </button>
      </section>
      <section>
        <h2>A return is needed</h2>
        <Select
          aria-label="Reason for return"
          placeholder="Why"
          size="md"
          data={choices.data?.return_reasons ?? []}
          value={reason}
          onChange={(value) => setReason(value as ReturnReason | null)}
        />
        <button
          type="button"
          className="pocket-other"
          disabled={!reason}
          onClick={() =>
            send({ kind: "left site", at: now(), outcome: "return needed", reason, note: note.trim() })
          }
        >
          Leave, return needed
        </button>
      </section>
      <BesideSteps
        page={page}
        current={current}
        record={record}
        keepPicture={keepPicture}
        standIns={standIns}
      />
      {page.run.runsheet.links.length > 0 && (
        <section>
          <h2>Documents</h2>
          <Links links={page.run.runsheet.links} />
        </section>
      )}
      <section>
        <h2>All steps</h2>
        <ol className="pocket-steps">
          {page.run.progress.lines
            .filter((l) => l.state !== "hidden" && l.state !== "no longer asked")
            .map((l) => {
              const open = l.state === "open question";
              return (
                <li key={l.line}>
                  <button type="button" disabled={open} onClick={() => onJump(l.line)}>
                    {names.get(l.line)?.text}
                    <small>
                      {open ? "depends on an earlier answer" : l.state === "skipped" ? "left out" : l.state}
                    </small>
                  </button>
                </li>
              );
            })}
        </ol>
      </section>
    </Drawer>
  );
}

/** Says that a break goes on. */
export function BreakNotice({ since }: { since: string }) {
  return (
    <p role="status" className="pconsequence">
      On a break since {dayTime(since)}. It ends with the next thing you record.
    </p>
  );
}

/** Ends the break; the step that was under way, where it is still due, goes on. */
export function GoOn({ line, record }: { line?: string; record: MoreProps["record"] }) {
  function goOn() {
    const at = now();
    return record(
      { kind: "break ended", at },
      ...(line ? [{ kind: "step started", at, line } as const] : []),
    );
  }
  return (
    <button type="button" className="pocket-main" onClick={goOn}>
      Go on working
    </button>
  );
}
