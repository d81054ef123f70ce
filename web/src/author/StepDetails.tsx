import { Button, NumberInput, Select, Textarea } from "@mantine/core";
import {
  IconArrowDown,
  IconArrowLeft,
  IconArrowRight,
  IconArrowUp,
  IconPlus,
  IconTrash,
} from "@tabler/icons-react";
import { useEffect, useState } from "react";
import { useCatalogue } from "../api/queries";
import type { PlanEdit, PlanView, Step } from "../api/types";
import { PHASES } from "../ui/phases";
import { ConditionEditor } from "./ConditionEditor";
import { ProofsEditor } from "./ProofsEditor";
import { type Draft, reworkStep, setStep } from "./use-draft";

const LEVELS = ["Shadow", "Assisted", "Solo", "Coach"];

/** All of a step that is not on its row, edited in place below it. */
export function StepDetails({
  plan,
  step,
  editable,
  draft,
  edit,
  onAdd,
  onRemove,
  onClose,
}: {
  plan: PlanView;
  step: Step;
  editable: boolean;
  draft: Draft;
  edit: (change: PlanEdit) => void;
  onAdd: () => void;
  onRemove: () => void;
  onClose: () => void;
}) {
  const set = (field: string, value: unknown) => draft.change(setStep(step.id, field, value));
  return (
    <fieldset className="details" disabled={!editable} style={{ border: 0, minWidth: 0 }}>
      <legend className="skip">Details of {step.text}</legend>
      {editable && (
        <div className="details-row">
          <Select
            label="Phase"
            w={130}
            data={PHASES}
            value={step.phase}
            allowDeselect={false}
            disabled={step.under !== null}
            onChange={(phase) =>
              phase &&
              edit({ kind: "place step", step: step.id, phase: phase as Step["phase"], before: null })
            }
          />
          <Tool
            label="Up"
            icon={<IconArrowUp size={15} />}
            onClick={() => edit({ kind: "move step", step: step.id, direction: "up" })}
          />
          <Tool
            label="Down"
            icon={<IconArrowDown size={15} />}
            onClick={() => edit({ kind: "move step", step: step.id, direction: "down" })}
          />
          <Tool
            label="Branch"
            icon={<IconArrowRight size={15} />}
            onClick={() => edit({ kind: "branch step", step: step.id })}
          />
          <Tool
            label="To the stem"
            icon={<IconArrowLeft size={15} />}
            disabled={step.under === null}
            onClick={() => edit({ kind: "unbranch step", step: step.id })}
          />
          <Tool label="Step below" icon={<IconPlus size={15} />} onClick={onAdd} />
          <Tool label="Remove" icon={<IconTrash size={15} />} onClick={onRemove} />
          <Button variant="subtle" color="slate" onClick={onClose}>
            Close
          </Button>
        </div>
      )}
      <SavedTextarea
        label="Detail, for the one who wants to know how"
        value={step.detail}
        onSave={(detail) => set("detail", detail)}
      />
      <div className="details-row">
        <SavedNumber
          label="Minutes at the least"
          value={step.minutes.low}
          onSave={(low) => set("minutes", { ...step.minutes, low })}
        />
        <SavedNumber
          label="Minutes at the most"
          value={step.minutes.high}
          onSave={(high) => set("minutes", { ...step.minutes, high })}
        />
        {step.condition && (
          <SavedNumber
            label="Wanted in % of jobs"
            value={step.chance === null ? null : Math.round(step.chance * 100)}
            max={100}
            onSave={(percent) => set("chance", percent === null ? null : percent / 100)}
          />
        )}
      </div>
      <fieldset>
        <legend>Wanted when</legend>
        <ConditionEditor plan={plan} step={step} onChange={(condition) => set("condition", condition)} />
      </fieldset>
      <fieldset>
        <legend>Proof</legend>
        <ProofsEditor
          proofs={step.proofs}
          onChange={(rework) => draft.change(reworkStep(step.id, "proofs", rework))}
        />
      </fieldset>
      <fieldset>
        <legend>Skills</legend>
        <SkillNeeds step={step} onChange={(skills) => set("skills", skills)} />
      </fieldset>
      <fieldset>
        <legend>Parts</legend>
        <PartNeeds step={step} onChange={(parts) => set("parts", parts)} />
      </fieldset>
    </fieldset>
  );
}

function Tool({
  label,
  icon,
  disabled,
  onClick,
}: {
  label: string;
  icon: React.ReactNode;
  disabled?: boolean;
  onClick: () => void;
}) {
  return (
    <Button variant="default" leftSection={icon} px={9} disabled={disabled} onClick={onClick}>
      {label}
    </Button>
  );
}

function SavedTextarea({
  label,
  value,
  onSave,
}: {
  label: string;
  value: string;
  onSave: (value: string) => void;
}) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  return (
    <Textarea
      label={label}
      autosize
      minRows={1}
      value={text}
      onChange={(e) => setText(e.currentTarget.value)}
      onBlur={() => text.trim() !== value && onSave(text.trim())}
    />
  );
}

export function SavedNumber({
  label,
  value,
  onSave,
  max,
  width = 130,
}: {
  label: string;
  value: number | null;
  onSave: (value: number | null) => void;
  max?: number;
  width?: number;
}) {
  const [entry, setEntry] = useState<number | string>(value ?? "");
  useEffect(() => setEntry(value ?? ""), [value]);
  return (
    <NumberInput
      label={label}
      w={width}
      max={max}
      value={entry}
      onChange={setEntry}
      onBlur={() => {
        const next = entry === "" ? null : Number(entry);
        if (next !== value) onSave(next);
      }}
    />
  );
}

function SkillNeeds({ step, onChange }: { step: Step; onChange: (skills: Step["skills"]) => void }) {
  const skills = useCatalogue().data?.skills ?? [];
  const free = skills.filter((s) => !step.skills.some((need) => need.skill === s.code));
  return (
    <>
      {step.skills.map((need, i) => (
        <div className="clause" key={need.skill}>
          <span>{skills.find((s) => s.code === need.skill)?.name ?? need.skill}</span>
          <Select
            aria-label={`Level of ${need.skill}`}
            w={110}
            data={LEVELS}
            value={need.level}
            allowDeselect={false}
            onChange={(level) =>
              onChange(step.skills.map((n, j) => (j === i ? { ...n, level: level as typeof need.level } : n)))
            }
          />
          <Button
            variant="subtle"
            color="slate"
            onClick={() => onChange(step.skills.filter((_, j) => j !== i))}
          >
            Remove
          </Button>
        </div>
      ))}
      <Select
        placeholder="Add a skill"
        aria-label="Add a skill"
        w={230}
        searchable
        data={free.map((s) => ({ value: s.code, label: s.name }))}
        value={null}
        onChange={(skill) => skill && onChange([...step.skills, { skill, level: "Solo" }])}
      />
    </>
  );
}

function PartNeeds({ step, onChange }: { step: Step; onChange: (parts: Step["parts"]) => void }) {
  const parts = useCatalogue().data?.parts ?? [];
  const free = parts.filter((p) => !step.parts.some((need) => need.part === p.code));
  return (
    <>
      {step.parts.map((need, i) => {
        const part = parts.find((p) => p.code === need.part);
        return (
          <div className="clause" key={need.part}>
            <span>{part?.name ?? need.part}</span>
            <NumberInput
              aria-label={`Quantity of ${part?.name ?? need.part}`}
              w={70}
              min={0}
              value={need.quantity}
              onBlur={(e) => {
                const quantity = Number(e.currentTarget.value);
                if (quantity !== need.quantity)
                  onChange(step.parts.map((n, j) => (j === i ? { ...n, quantity } : n)));
              }}
            />
            <span>{part?.unit}</span>
            <Button
              variant="subtle"
              color="slate"
              onClick={() => onChange(step.parts.filter((_, j) => j !== i))}
            >
              Remove
            </Button>
          </div>
        );
      })}
      <Select
        placeholder="Add a part"
        aria-label="Add a part"
        w={230}
        searchable
        data={free.map((p) => ({ value: p.code, label: `${p.name}, ${p.code}` }))}
        value={null}
        onChange={(part) => part && onChange([...step.parts, { part, quantity: 1 }])}
      />
    </>
  );
}
