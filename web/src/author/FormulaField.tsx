import { Textarea } from "@mantine/core";
import { useEffect, useRef, useState } from "react";
import type { PlanView, Question } from "../api/types";
import { unitOf } from "../ui/questions";

/** A formula, with the numbers it may use one press away; the server reads it and says what is wrong. */
export function FormulaField({
  plan,
  step,
  question,
  set,
}: {
  plan: PlanView;
  step: string;
  question: Extract<Question, { kind: "computed" }>;
  set: (part: Partial<Question>) => void;
}) {
  const [text, setText] = useState(question.formula);
  const field = useRef<HTMLTextAreaElement>(null);
  useEffect(() => setText(question.formula), [question.formula]);
  const names = plan.content.steps.flatMap((s) =>
    s.questions
      .filter((q) => q.id !== question.id && unitOf(q) !== undefined)
      .map((q) => ({
        name: plan.steps.find((v) => v.step === s.id)?.formula_names[q.id] ?? q.name,
        label: q.label,
        unit: unitOf(q) ?? "",
        each: s.repeat !== null && s.id !== step,
      })),
  );
  function insert(words: string) {
    const at = field.current?.selectionStart ?? text.length;
    const next = `${text.slice(0, at)}${words}${text.slice(at)}`;
    setText(next);
    set({ formula: next.trim() });
  }
  return (
    <div className="formula">
      <Textarea
        ref={field}
        label="Formula"
        className="mono-field"
        autosize
        minRows={1}
        placeholder="such as (max(a, b, c) - mean(a, b, c)) / mean(a, b, c)"
        value={text}
        onChange={(e) => setText(e.currentTarget.value)}
        onBlur={() => text.trim() !== question.formula && set({ formula: text.trim() })}
      />
      <div className="formula-names">
        {names.map((n) => (
          <button
            key={n.name}
            type="button"
            className="chip mono"
            title={`${n.label}${n.unit ? `, ${n.unit}` : ""}${n.each ? ", of every repeat" : ""}`}
            onMouseDown={(e) => e.preventDefault()}
            onClick={() => insert(n.each ? `max(${n.name})` : n.name)}
          >
            {n.name}
            {n.unit && <span className="soft"> {n.unit}</span>}
          </button>
        ))}
        {names.length === 0 && <span className="soft">Add a reading first; its name appears here.</span>}
      </div>
    </div>
  );
}
