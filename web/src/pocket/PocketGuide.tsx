import { useState } from "react";
import type { FieldEvent, GuideStep } from "../api/types";
import { count, minutes, percent } from "../ui/format";
import type { CarriedOrder } from "./carried-order";
import { now } from "./outbox";
import "../ui/pocket-step.css";
import "./pocket-guide.css";

interface PocketGuideProps {
  page: CarriedOrder;
  /** The line that is shown. */
  current: string | null;
  record: (...events: FieldEvent[]) => Promise<boolean>;
  onJump: (line: string) => void;
}

const STATE_WORDS: Record<GuideStep["state"], string> = {
  open: "",
  so: "so",
  "not so": "not so",
  helped: "helped",
  "did not help": "did not help",
};

/** The fault guide on a job: what to do next and why, the chances of the causes, and the other ways. */
export function PocketGuide({ page, current, record, onJump }: PocketGuideProps) {
  const [all, setAll] = useState(false);
  const [words, setWords] = useState("");
  const guide = page.run.guide;
  if (!guide) return null;
  const { next } = guide;
  const coming = guide.causes[0];

  const acts = (step: GuideStep) => (
    <GuideActs step={step} current={current} record={record} onJump={onJump} />
  );
  return (
    <section className="pguide" aria-label="Fault guide">
      {next && (
        <>
          <p className="pguide-place">Fault guide, next</p>
          <p className="pguide-next">
            {next.label} <span className="mono">{minutes(next.minutes)}</span>
          </p>
          <p className="soft">
            {guide.why} About {minutes(guide.minutes)} until it works.
          </p>
          {acts(next)}
        </>
      )}
      {guide.found && coming && (
        <p className="pconsequence">
          It works again. Most likely it was: {guide.causes.find((c) => c.cause === guide.found)?.label}.
        </p>
      )}
      {guide.is_impossible && (
        <p className="pconsequence out">
          No cause that the guide knows fits what was seen and tried. Look again, or say that none of them
          fits.
        </p>
      )}
      {guide.none_of_these && (
        <p className="pconsequence">
          None of these, you said: “{guide.none_of_these}”{" "}
          <button
            type="button"
            className="linklike"
            onClick={() => record({ kind: "no cause fits", at: now(), text: "" })}
          >
            Take it back
          </button>
        </p>
      )}
      <button type="button" className="pguide-more" aria-expanded={all} onClick={() => setAll(!all)}>
        {all
          ? "Less"
          : coming &&
            `${coming.label} ${percent(coming.now)} %, ${count(guide.causes.length - 1, "other cause")}`}
      </button>
      {all && (
        <>
          <ul className="pguide-causes">
            {guide.causes.map((cause) => (
              <li key={cause.cause}>
                <span>{cause.label}</span>
                <b className="mono">{percent(cause.now)} %</b>
                <i>
                  <i style={{ width: `${cause.now * 100}%` }} />
                </i>
              </li>
            ))}
          </ul>
          <p className="soft">
            {guide.document} {guide.revision}, {count(guide.n_jobs, "closed job")}
          </p>
          <ul className="pguide-steps" aria-label="Checks and remedies">
            {[...guide.checks, ...guide.remedies].map((step) => (
              <li key={step.id}>
                <span>
                  {step.label} <span className="mono soft">{minutes(step.minutes)}</span>
                  {step.state !== "open" && <b> {STATE_WORDS[step.state]}</b>}
                </span>
                {acts(step)}
              </li>
            ))}
          </ul>
          <label className="pguide-none">
            None of these? Say what you see.
            <textarea value={words} rows={2} onChange={(e) => setWords(e.currentTarget.value)} />
          </label>
          <button
            type="button"
            className="pchoice"
            disabled={!words.trim()}
            onClick={async () => {
              if (await record({ kind: "no cause fits", at: now(), text: words.trim() })) setWords("");
            }}
          >
            None of these
          </button>
        </>
      )}
    </section>
  );
}

/** What may be said of a check or a remedy: at its step where one asks or does it, else here. */
function GuideActs({
  step,
  current,
  record,
  onJump,
}: {
  step: GuideStep;
  current: string | null;
  record: PocketGuideProps["record"];
  onJump: (line: string) => void;
}) {
  const words = step.act === "check" ? ["So", "Not so"] : ["It works now", "Still not right"];
  const pressed = step.act === "check" ? ["so", "not so"] : ["helped", "did not help"];
  const say = (value: boolean) =>
    step.act === "check"
      ? record({
          kind: "check seen",
          at: now(),
          check: step.id,
          seen: pressed[value ? 0 : 1] === step.state ? null : value,
        })
      : record(...tried(step, value));
  if (step.act === "last resort") return null;
  const asksHere = step.act === "check" && step.line !== "";
  return (
    <div className="pchoices">
      {step.line && step.line !== current && (
        <button type="button" className="pchoice pguide-wide" onClick={() => onJump(step.line)}>
          Go to its step
        </button>
      )}
      {step.line && step.line === current && <span className="soft pguide-wide">It is the step below.</span>}
      {!asksHere &&
        ([true, false] as const).map((value) => (
          <button
            key={String(value)}
            type="button"
            className="pchoice"
            aria-pressed={step.state === pressed[value ? 0 : 1]}
            aria-label={`${words[value ? 0 : 1]}: ${step.label}`}
            onClick={() => void say(value)}
          >
            {words[value ? 0 : 1]}
          </button>
        ))}
    </div>
  );
}

function tried(step: GuideStep, helped: boolean): FieldEvent[] {
  return [{ kind: "remedy tried", at: now(), remedy: step.id, helped }];
}
