import { Button, NumberInput, Select } from "@mantine/core";
import type { ReactNode } from "react";
import { useCatalogue, useChoices, useFacts } from "../api/queries";
import type { Condition, PlanView, Question, Step } from "../api/types";
import { askableBefore, askFact, askQuestion } from "./askable";
import { ConditionEditor } from "./ConditionEditor";

interface Needs<F extends "skills" | "parts" | "tools"> {
  step: Step;
  onChange: (make: (now: Step[F]) => Step[F]) => void;
}

/** The skills that a step asks for, each at a level. */
export function SkillNeeds({ step, onChange }: Needs<"skills">) {
  const skills = useCatalogue().data?.skills ?? [];
  const choices = useChoices().data;
  return (
    <>
      {step.skills.map((need) => (
        <NeedRow
          key={need.skill}
          name={nameOf(skills, need.skill)}
          onRemove={() => onChange((now) => now.filter((n) => n.skill !== need.skill))}
        >
          <Select
            aria-label={`Level of ${need.skill}`}
            w={110}
            data={choices?.levels ?? []}
            value={need.level}
            allowDeselect={false}
            onChange={(level) =>
              onChange((now) =>
                now.map((n) => (n.skill === need.skill ? { ...n, level: level as typeof need.level } : n)),
              )
            }
          />
        </NeedRow>
      ))}
      <AddNeed
        label="Add a skill"
        free={skills.filter((s) => !step.skills.some((need) => need.skill === s.code))}
        words={(s) => s.name}
        onAdd={(skill) => choices && onChange((now) => [...now, { skill, level: choices.usual_level }])}
      />
    </>
  );
}

/** The parts that a step takes, each always or under a condition. */
export function PartNeeds({ plan, step, onChange }: Needs<"parts"> & { plan: PlanView }) {
  const parts = useCatalogue().data?.parts ?? [];
  const facts = useFacts().data ?? [];
  const asked = [
    ...askableBefore(plan, step.id, null, []),
    ...step.questions
      .filter((q) => q.kind !== "instruction")
      .map((q: Question) => askQuestion(plan, q, "this step")),
    ...facts.map(askFact),
  ];
  return (
    <>
      {step.parts.map((need) => {
        const name = nameOf(parts, need.part);
        const change = (with_: Partial<typeof need>) =>
          onChange((now) => now.map((n) => (n.part === need.part ? { ...n, ...with_ } : n)));
        return (
          <div key={need.part}>
            <NeedRow name={name} onRemove={() => onChange((now) => now.filter((n) => n.part !== need.part))}>
              <Quantity
                label={`Quantity of ${name}`}
                value={need.quantity}
                onSave={(quantity) => change({ quantity })}
              />
              <span>{parts.find((p) => p.code === need.part)?.unit}</span>
            </NeedRow>
            <ConditionEditor
              condition={need.condition as Condition | null}
              asked={asked}
              empty="Taken whenever the step is done. "
              placeholder="Or only when…"
              onChange={(condition) => change({ condition } as Partial<typeof need>)}
            />
          </div>
        );
      })}
      <AddNeed
        label="Add a part"
        free={parts.filter((p) => !step.parts.some((need) => need.part === p.code))}
        onAdd={(part) => onChange((now) => [...now, { part, quantity: 1, condition: null }])}
      />
    </>
  );
}

/** The tools that a step is done with, each with how many at once. */
export function ToolNeeds({ step, onChange }: Needs<"tools">) {
  const tools = useCatalogue().data?.tools ?? [];
  return (
    <>
      {step.tools.map((need) => {
        const name = nameOf(tools, need.tool);
        return (
          <NeedRow
            key={need.tool}
            name={name}
            onRemove={() => onChange((now) => now.filter((n) => n.tool !== need.tool))}
          >
            <Quantity
              whole
              label={`How many: ${name}`}
              value={need.quantity}
              onSave={(quantity) =>
                onChange((now) => now.map((n) => (n.tool === need.tool ? { ...n, quantity } : n)))
              }
            />
          </NeedRow>
        );
      })}
      <AddNeed
        label="Add a tool"
        free={tools.filter((t) => !step.tools.some((need) => need.tool === t.code))}
        onAdd={(tool) => onChange((now) => [...now, { tool, quantity: 1 }])}
      />
    </>
  );
}

interface Entry {
  code: string;
  name: string;
}

const nameOf = (list: Entry[], code: string) => list.find((one) => one.code === code)?.name ?? code;

function NeedRow({ name, children, onRemove }: { name: string; children: ReactNode; onRemove: () => void }) {
  return (
    <div className="clause">
      <span>{name}</span>
      {children}
      <Button variant="subtle" color="slate" onClick={onRemove}>
        Remove
      </Button>
    </div>
  );
}

/** Saved when it is left. */
function Quantity({
  label,
  value,
  whole = false,
  onSave,
}: {
  label: string;
  value: number;
  whole?: boolean;
  onSave: (value: number) => void;
}) {
  return (
    <NumberInput
      aria-label={label}
      w={70}
      min={whole ? 1 : 0}
      allowDecimal={!whole}
      value={value}
      onBlur={(e) => {
        const typed = Number(e.currentTarget.value);
        if (typed !== value) onSave(typed);
      }}
    />
  );
}

function AddNeed({
  label,
  free,
  words = (one) => `${one.name}, ${one.code}`,
  onAdd,
}: {
  label: string;
  free: Entry[];
  words?: (one: Entry) => string;
  onAdd: (code: string) => void;
}) {
  return (
    <Select
      placeholder={label}
      aria-label={label}
      w={230}
      searchable
      data={free.map((one) => ({ value: one.code, label: words(one) }))}
      value={null}
      onChange={(code) => code && onAdd(code)}
    />
  );
}
