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
  /** The comparison that a new clause begins with. */
  first: Comparison;
  /** The word for one of its repeats, where it is asked about from outside its section. */
  per?: string;
}

export const askQuestion = (plan: PlanView, question: Question, from: string): Askable => ({
  first: firstOf(plan, question.id),
  id: question.id,
  label: question.label || "a question without words",
  from,
  kind: question.kind,
  unit: unitOf(question),
  options: question.kind === "one_of" || question.kind === "any_of" ? question.options : [],
});

export const askFact = (fact: Fact): Askable => ({
  id: fact.name,
  label: fact.label,
  from: "known beforehand",
  kind: fact.number ? "reading" : fact.options.length ? "one_of" : "text",
  unit: fact.unit,
  options: fact.options,
  first: fact.first,
});

/** As the server has it; a question that it has not answered yet is asked whether it is answered. */
function firstOf(plan: PlanView, question: string): Comparison {
  for (const view of plan.steps) {
    const first = view.first_clauses[question];
    if (first) return first as Comparison;
  }
  return {
    kind: "comparison",
    question,
    operator: "answered",
    value: null,
    upper: null,
    against: null,
    repeats: "same",
  };
}

/** What a finish rule may ask about: every question of the plan, the job itself, then the facts of the order. */
export function askableAtTheEnd(plan: PlanView, ofJobs: Fact[], facts: Fact[]): Askable[] {
  const asked = plan.content.steps.flatMap((step) => {
    const view = plan.steps.find((one) => one.step === step.id);
    const per = view?.section ? view.per || "one" : undefined;
    return step.questions
      .filter((q) => q.kind !== "instruction")
      .map((q) => ({ ...askQuestion(plan, q, step.text), per }));
  });
  return [
    ...ofJobs.map((fact) => ({ ...askFact(fact), from: "known when it ends" })),
    ...asked,
    ...facts.map(askFact),
  ];
}

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
    const at = s.questions.findIndex((q) => q.id === question);
    const there = plan.steps.find((view) => view.step === s.id);
    const per = there?.section && there.section !== here ? there.per || "one" : undefined;
    for (const q of at >= 0 ? s.questions.slice(0, at) : s.questions)
      if (q.kind !== "instruction") before.push({ ...askQuestion(plan, q, s.text), per });
    if (at >= 0) break;
  }
  return [...before, ...facts.map(askFact)];
}
