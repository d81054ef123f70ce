import { useEffect, useEffectEvent, useState } from "react";
import type { Answer, Question } from "../api/types";
import { MarkedPicture } from "./MarkedPicture";
import type { PocketStepProps } from "./pocket-step-props";
import { SignaturePad } from "./SignaturePad";

/** What a technician answers a question with, one piece for each kind. */
export function QuestionInput({
  question,
  outside,
  answers,
  wanted,
  computed,
  lastMeters,
  consequences,
  onAnswer,
  takePhoto,
  photoDoubts,
  choosePicture,
  sign,
  scan,
  pictureOf,
  marks,
  draw,
}: PocketStepProps & { question: Question; outside: boolean }) {
  const answer = answers[question.id];
  const put = (value: Answer, reason?: string) => onAnswer(question.id, value, reason);
  switch (question.kind) {
    case "tick":
      return <Choice label={question.label} chosen={answer === true} onChoose={() => put(true)} />;
    case "safety":
      return (
        <div className="psafety">
          <b>Safety</b>
          <p>{question.label}</p>
          <Choice label="I have read this" chosen={answer === true} onChoose={() => put(true)} />
        </div>
      );
    case "yes_no":
      return (
        <div className="pchoices">
          {[true, false].map((value) => (
            <Choice
              key={String(value)}
              name={`${question.label}: ${value ? "yes" : "no"}`}
              label={value ? "Yes" : "No"}
              chosen={answer === value}
              onChoose={() => put(value)}
            />
          ))}
        </div>
      );
    case "one_of":
      return (
        <div className="pchoices stacked">
          {question.options.map((option) => (
            <Choice
              key={option.id}
              label={option.label}
              chosen={answer === option.id}
              onChoose={() => put(option.id)}
            />
          ))}
        </div>
      );
    case "any_of":
      return <AnyOf question={question} answer={answer} onAnswer={put} />;
    case "reading":
      return (
        <ReadingInput
          label={question.label}
          units={[question.unit, ...question.units]}
          hint={wanted[question.id]}
          outside={outside}
          answer={answer}
          onAnswer={put}
        />
      );
    case "meter":
      return (
        <>
          <ReadingInput
            label={question.label}
            units={[question.unit]}
            hint={lastMeters[question.id] ? `last ${lastMeters[question.id]}` : undefined}
            outside={outside}
            answer={answer}
            onAnswer={put}
          />
          {consequences[question.id]?.asks_reason && typeof answer === "number" && (
            <Reason label={question.label} onReason={(reason) => put(answer, reason)} />
          )}
        </>
      );
    case "computed":
      return (
        <p className="pcomputed" data-outside={outside || undefined}>
          <b>{computed[question.id] ?? "–"}</b>
          <span>{wanted[question.id]}</span>
        </p>
      );
    case "text":
      return (
        <TextAnswer
          label={question.label}
          ready={question.ready}
          value={typeof answer === "string" ? answer : ""}
          onValue={put}
        />
      );
    case "date":
      return (
        <input
          className="ptext"
          type={question.with_time ? "datetime-local" : "date"}
          aria-label={question.label}
          value={typeof answer === "string" ? answer : ""}
          onChange={(e) => e.currentTarget.value && put(e.currentTarget.value.slice(0, 16))}
        />
      );
    case "photo":
      return (
        <div className="pphoto">
          {typeof answer === "string" && pictureOf && (
            <MarkedPicture
              src={pictureOf(answer)}
              alt={question.label}
              marks={marks?.[answer] ?? []}
              fit={marks?.[answer]?.length ? "meet" : "slice"}
            />
          )}
          {typeof answer === "string" && photoDoubts?.[answer] && (
            <p className="pconsequence" role="status">
              {photoDoubts[answer]} Take it again if that matters.
            </p>
          )}
          <div className="pphoto-acts">
            <button type="button" className="pchoice" onClick={() => takePhoto(question)}>
              {answer
                ? "✓ Taken. Take again"
                : `Take photo${question.moment === "any" ? "" : `, ${question.moment === "after" ? "finished" : question.moment}`}`}
            </button>
            {typeof answer === "string" && draw && (
              <button type="button" className="pchoice" onClick={() => draw(question, answer)}>
                Draw on it
              </button>
            )}
          </div>
          {choosePicture && (
            <button type="button" className="pocket-link" onClick={() => choosePicture(question)}>
              or a picture from this device
            </button>
          )}
        </div>
      );
    case "signature":
      return (
        <SignaturePad
          label={question.label}
          signed={typeof answer === "string" ? (pictureOf?.(answer) ?? "") : null}
          onSign={(drawing) => sign(question, drawing)}
        />
      );
    case "scan":
      return <ScanInput question={question} answer={answer} onAnswer={put} onScan={() => scan(question)} />;
    case "names":
      return <NamesInput label={question.label} answer={answer} onAnswer={put} />;
    default:
      return null;
  }
}

function Choice({
  label,
  name,
  chosen,
  onChoose,
}: {
  label: string;
  name?: string;
  chosen: boolean;
  onChoose: () => void;
}) {
  return (
    <button type="button" className="pchoice" aria-label={name} aria-pressed={chosen} onClick={onChoose}>
      {chosen ? "✓ " : ""}
      {label}
    </button>
  );
}

function AnyOf({
  question,
  answer,
  onAnswer,
}: {
  question: Extract<Question, { kind: "any_of" }>;
  answer: Answer | undefined;
  onAnswer: (value: Answer) => void;
}) {
  const chosen = Array.isArray(answer) ? answer : [];
  return (
    <div className="pchoices stacked">
      {question.options.map((option) => (
        <Choice
          key={option.id}
          label={option.label}
          chosen={chosen.includes(option.id)}
          onChoose={() =>
            onAnswer(
              question.options
                .map((o) => o.id)
                .filter((id) => (id === option.id ? !chosen.includes(id) : chosen.includes(id))),
            )
          }
        />
      ))}
      <Choice
        label="None of these"
        chosen={answer !== undefined && chosen.length === 0}
        onChoose={() => onAnswer([])}
      />
    </div>
  );
}

function ReadingInput({
  label,
  units,
  hint,
  outside,
  answer,
  onAnswer,
}: {
  label: string;
  units: string[];
  hint?: string;
  outside: boolean;
  answer: Answer | undefined;
  onAnswer: (value: Answer) => void;
}) {
  const held = numberOf(answer);
  const [text, setText] = useState(held === undefined ? "" : String(held));
  const [unit, setUnit] = useState(unitOfAnswer(answer) ?? units[0] ?? "");
  const parsed = parseNumber(text);
  const same = parsed === held && (held === undefined || unit === (unitOfAnswer(answer) ?? units[0]));
  const value: Answer | null = parsed === null ? null : unit === units[0] ? parsed : { value: parsed, unit };
  const send = useEffectEvent((number: number, of: string) =>
    onAnswer(of === units[0] ? number : { value: number, unit: of }),
  );
  useEffect(() => {
    if (parsed === null || same) return;
    const wait = window.setTimeout(() => send(parsed, unit), 450);
    return () => window.clearTimeout(wait);
  }, [parsed, unit, same]);
  return (
    <>
      <div className="preading">
        <input
          inputMode="decimal"
          aria-label={`${label} in ${unit}`}
          aria-invalid={outside}
          value={text}
          onChange={(e) => setText(e.currentTarget.value)}
          onBlur={() => value !== null && !same && onAnswer(value)}
          onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        />
        {units.length > 1 ? (
          <select
            aria-label={`Unit of ${label}`}
            value={unit}
            onChange={(e) => setUnit(e.currentTarget.value)}
          >
            {units.map((u) => (
              <option key={u}>{u}</option>
            ))}
          </select>
        ) : (
          <b>{unit}</b>
        )}
        <span>{hint}</span>
      </div>
      {text.trim() && parsed === null && (
        <p className="pconsequence out" role="status">
          This is not a number. Write it in figures, as 84 or 84.5.
        </p>
      )}
    </>
  );
}

function numberOf(answer: Answer | undefined): number | undefined {
  if (typeof answer === "number") return answer;
  return typeof answer === "object" && !Array.isArray(answer) ? answer.value : undefined;
}

const unitOfAnswer = (answer: Answer | undefined) =>
  typeof answer === "object" && !Array.isArray(answer) ? answer.unit : undefined;

/** A number as people type it, with a comma or a point. */
function parseNumber(text: string): number | null {
  const tidy = text.trim().replace(",", ".").replace("−", "-");
  return /^[-+]?(\d+\.?\d*|\.\d+)$/.test(tidy) ? Number(tidy) : null;
}

function Reason({ label, onReason }: { label: string; onReason: (reason: string) => void }) {
  const [text, setText] = useState("");
  return (
    <textarea
      className="ptext"
      rows={2}
      aria-label={`Why ${label} is lower`}
      placeholder="Why it is lower, such as: meter replaced"
      value={text}
      onChange={(e) => setText(e.currentTarget.value)}
      onBlur={() => text.trim() && onReason(text.trim())}
    />
  );
}

function TextAnswer({
  label,
  ready,
  value,
  onValue,
}: {
  label: string;
  ready: string[];
  value: string;
  onValue: (value: string) => void;
}) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  return (
    <>
      <textarea
        className="ptext"
        rows={2}
        aria-label={label}
        value={text}
        onChange={(e) => setText(e.currentTarget.value)}
        onBlur={() => text.trim() && text !== value && onValue(text.trim())}
      />
      {ready.length > 0 && (
        <div className="pready">
          {ready.map((words) => (
            <button key={words} type="button" className="pchoice" onClick={() => onValue(words)}>
              {words}
            </button>
          ))}
        </div>
      )}
    </>
  );
}

function ScanInput({
  question,
  answer,
  onAnswer,
  onScan,
}: {
  question: Question;
  answer: Answer | undefined;
  onAnswer: (value: Answer) => void;
  onScan: () => void;
}) {
  const [text, setText] = useState(typeof answer === "string" ? answer : "");
  useEffect(() => setText(typeof answer === "string" ? answer : ""), [answer]);
  return (
    <div className="pscan">
      <button type="button" className="pchoice" onClick={onScan}>
        {answer ? "✓ Scanned. Scan again" : "Scan"}
      </button>
      <input
        className="ptext"
        aria-label={`${question.label}, typed`}
        placeholder="or type what it says"
        value={text}
        onChange={(e) => setText(e.currentTarget.value)}
        onBlur={() => text.trim() && text !== answer && onAnswer(text.trim())}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
    </div>
  );
}

function NamesInput({
  label,
  answer,
  onAnswer,
}: {
  label: string;
  answer: Answer | undefined;
  onAnswer: (value: Answer) => void;
}) {
  const [text, setText] = useState("");
  const names = Array.isArray(answer) ? answer : [];
  function add() {
    const name = text.trim().replaceAll("@", " ");
    if (name && !names.includes(name)) onAnswer([...names, name]);
    setText("");
  }
  return (
    <>
      <ul className="pnames">
        {names.map((name) => (
          <li key={name}>
            {name}{" "}
            <button
              type="button"
              aria-label={`Take ${name} off`}
              onClick={() => onAnswer(names.filter((n) => n !== name))}
            >
              remove
            </button>
          </li>
        ))}
      </ul>
      <div className="pscan">
        <input
          className="ptext"
          aria-label={label}
          placeholder="Its name"
          maxLength={40}
          value={text}
          onChange={(e) => setText(e.currentTarget.value)}
          onKeyDown={(e) => e.key === "Enter" && add()}
        />
        <button type="button" className="pchoice" disabled={!text.trim()} onClick={add}>
          Add
        </button>
      </div>
      {answer === undefined && (
        <button type="button" className="pchoice" onClick={() => onAnswer([])}>
          There is none
        </button>
      )}
    </>
  );
}
