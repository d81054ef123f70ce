import type { Comparison, Fact, PlanView, Question } from "../api/types";
import { unitOf } from "../ui/questions";

/** Something a condition may ask about: an earlier question, or a fact of the order. */
export interface Askable {
  id: string;
  label: string;
  from: string;
  kind: Question["kind"];
  unit?: string;
  options: { id: string; label: string }[];
  limits?: { low: number | null; high: number | null };
  /** The word for one of its repeats, where it is asked about from outside its section. */
  per?: string;
}

export const askQuestion = (question: Question, from: string): Askable => ({
  id: question.id,
  label: question.label || "a question without words",
  from,
  kind: question.kind,
  unit: unitOf(question),
  options: question.kind === "one_of" || question.kind === "any_of" ? question.options : [],
  limits: question.kind === "reading" || question.kind === "computed" ? question.limits : undefined,
});

export const askFact = (fact: Fact): Askable => ({
  id: fact.name,
  label: fact.label,
  from: "known beforehand",
  kind: fact.number ? "reading" : fact.options.length ? "one_of" : "text",
  unit: fact.unit,
  options: fact.options,
});

/** What may be asked about at a place of the plan: every question before it, then the facts. */
export function askableBefore(
  plan: PlanView,
  step: string,
  question: string | null,
  facts: Fact[],
): Askable[] {
  const before: Askable[] = [];
  const here = plan.steps.find((view) => view.step === step)?.section;
  for (const s of plan.content.steps) {
    if (s.id === step && question === null) break;
    const at = s.proofs.findIndex((q) => q.id === question);
    const there = plan.steps.find((view) => view.step === s.id);
    const per = there?.section && there.section !== here ? there.per || "one" : undefined;
    for (const q of at >= 0 ? s.proofs.slice(0, at) : s.proofs)
      if (q.kind !== "instruction") before.push({ ...askQuestion(q, s.text), per });
    if (at >= 0) break;
  }
  return [...before, ...facts.map(askFact)];
}

/** The comparison a new clause starts from: the likeliest thing one asks of such a question. */
export function begin(asked: Askable): Comparison {
  const base = {
    kind: "comparison" as const,
    question: asked.id,
    upper: null,
    against: null,
    repeats: "same" as const,
  };
  switch (asked.kind) {
    case "reading":
    case "computed":
    case "meter":
      return asked.limits?.low != null
        ? { ...base, operator: "below", value: asked.limits.low }
        : { ...base, operator: "above", value: asked.limits?.high ?? null };
    case "yes_no":
      return { ...base, operator: "is", value: true };
    case "one_of":
      return { ...base, operator: "is", value: asked.options[0]?.id ?? null };
    case "any_of":
      return { ...base, operator: "includes any", value: asked.options.slice(0, 1).map((o) => o.id) };
    case "date":
      return { ...base, operator: "before", value: null };
    default:
      return { ...base, operator: "answered", value: null };
  }
}
