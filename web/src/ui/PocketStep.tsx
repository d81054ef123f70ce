import { type ReactNode, useEffect, useState } from "react";
import type { Answer, Answers, Consequence, Line, Proof } from "../api/types";
import { number } from "./format";
import "./pocket-step.css";

export interface PocketStepProps {
  line: Line;
  place: string;
  answers: Answers;
  consequences: Record<string, Consequence>;
  wanted: Record<string, string>;
  onAnswer: (question: string, value: Answer) => void;
  takePhoto: (proof: Proof) => void;
  pictureOf?: (answer: string) => string;
  children?: ReactNode;
}

/** One step as a technician meets it: the verb first, the answer large, the consequence at once. */
export function PocketStep(props: PocketStepProps) {
  const { line, place } = props;
  return (
    <article className="pstep" aria-label={line.text}>
      <p className="pstep-place" data-phase={line.phase}>
        {place}
      </p>
      <h2>{line.text}</h2>
      {line.detail && <p className="pstep-detail">{line.detail}</p>}
      {line.parts.length > 0 && (
        <p className="pstep-detail">
          Takes {line.parts.map((need) => `${number(need.quantity)} × ${need.part}`).join(", ")}.
        </p>
      )}
      {line.proofs.map((proof) => (
        <ProofField key={proof.id} proof={proof} {...props} />
      ))}
      {props.children}
    </article>
  );
}

function ProofField({ proof, answers, consequences, wanted, ...rest }: PocketStepProps & { proof: Proof }) {
  const answer = answers[proof.id];
  const consequence = consequences[proof.id];
  const outside = Boolean(consequence?.verdict?.severity);
  return (
    <div className="pproof">
      {proof.kind !== "tick" && <div className="pproof-label">{proof.label}</div>}
      <ProofInput proof={proof} answer={answer} hint={wanted[proof.id]} outside={outside} {...rest} />
      {consequence?.sentence && (
        <p className={outside ? "pconsequence out" : "pconsequence"} role="status">
          {outside && <b>{consequence.verdict?.severity}. </b>}
          {consequence.sentence}
        </p>
      )}
    </div>
  );
}

function ProofInput({
  proof,
  answer,
  hint,
  outside,
  onAnswer,
  takePhoto,
  pictureOf,
}: {
  proof: Proof;
  answer: Answer | undefined;
  hint?: string;
  outside: boolean;
} & Pick<PocketStepProps, "onAnswer" | "takePhoto" | "pictureOf">) {
  switch (proof.kind) {
    case "tick":
      return (
        <button
          type="button"
          className="pchoice"
          aria-pressed={answer === true}
          onClick={() => onAnswer(proof.id, true)}
        >
          {answer === true ? "✓ " : ""}
          {proof.label}
        </button>
      );
    case "yes_no":
      return (
        <div className="pchoices">
          {[true, false].map((value) => (
            <button
              key={String(value)}
              type="button"
              className="pchoice"
              aria-label={`${proof.label}: ${value ? "yes" : "no"}`}
              aria-pressed={answer === value}
              onClick={() => onAnswer(proof.id, value)}
            >
              {value ? "Yes" : "No"}
            </button>
          ))}
        </div>
      );
    case "one_of":
      return (
        <div className="pchoices stacked">
          {proof.options.map((option) => (
            <button
              key={option.id}
              type="button"
              className="pchoice"
              aria-pressed={answer === option.id}
              onClick={() => onAnswer(proof.id, option.id)}
            >
              {option.label}
            </button>
          ))}
        </div>
      );
    case "reading":
      return (
        <ReadingInput
          label={proof.label}
          unit={proof.unit}
          hint={hint}
          outside={outside}
          value={typeof answer === "number" ? answer : undefined}
          onValue={(value) => onAnswer(proof.id, value)}
        />
      );
    case "text":
      return (
        <TextAnswer
          label={proof.label}
          value={typeof answer === "string" ? answer : ""}
          onValue={(value) => onAnswer(proof.id, value)}
        />
      );
    case "photo":
      return (
        <div className="pphoto">
          {typeof answer === "string" && pictureOf && <img src={pictureOf(answer)} alt={proof.label} />}
          <button type="button" className="pchoice" onClick={() => takePhoto(proof)}>
            {answer
              ? "✓ Taken. Take again"
              : `Take photo${proof.moment === "any" ? "" : `, ${proof.moment}`}`}
          </button>
        </div>
      );
  }
}

function ReadingInput({
  label,
  unit,
  hint,
  outside,
  value,
  onValue,
}: {
  label: string;
  unit: string;
  hint?: string;
  outside: boolean;
  value: number | undefined;
  onValue: (value: number) => void;
}) {
  const [text, setText] = useState(value === undefined ? "" : String(value));
  const parsed = parseNumber(text);
  useEffect(() => {
    if (parsed === null || parsed === value) return;
    const wait = window.setTimeout(() => onValue(parsed), 450);
    return () => window.clearTimeout(wait);
  }, [parsed, value, onValue]);
  return (
    <>
      <div className="preading">
        <input
          inputMode="decimal"
          aria-label={`${label} in ${unit}`}
          aria-invalid={outside}
          value={text}
          onChange={(e) => setText(e.currentTarget.value)}
          onBlur={() => parsed !== null && parsed !== value && onValue(parsed)}
          onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        />
        <b>{unit}</b>
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

/** A number as people type it, with a comma or a point. */
function parseNumber(text: string): number | null {
  const tidy = text.trim().replace(",", ".").replace("−", "-");
  return /^[-+]?(\d+\.?\d*|\.\d+)$/.test(tidy) ? Number(tidy) : null;
}

function TextAnswer({
  label,
  value,
  onValue,
}: {
  label: string;
  value: string;
  onValue: (value: string) => void;
}) {
  const [text, setText] = useState(value);
  return (
    <textarea
      className="ptext"
      rows={2}
      aria-label={label}
      value={text}
      onChange={(e) => setText(e.currentTarget.value)}
      onBlur={() => text.trim() && text !== value && onValue(text.trim())}
    />
  );
}
