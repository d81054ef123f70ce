import { Button, MultiSelect, Select, Switch } from "@mantine/core";
import { useState } from "react";
import { useCatalogue, useUnits } from "../api/queries";
import type { PlanEdit, PlanView, Question } from "../api/types";
import { SavedLines, SavedNumber, SavedText } from "../draft/saved-fields";
import type { Draft, QuestionPart } from "../draft/use-draft";
import { FormulaField } from "./FormulaField";
import { PicturesField } from "./PicturesField";

export interface QuestionProps {
  plan: PlanView;
  step: string;
  question: Question;
  draft: Draft;
  edit: (change: PlanEdit) => void;
  set: (part: QuestionPart) => unknown;
}

type Option = { id: string; label: string };

/** Identities made here are new by chance: 50 random bits; the server refuses one used twice. */
function newId(prefix: string): string {
  const bytes = crypto.getRandomValues(new Uint8Array(7));
  return `${prefix}-${Array.from(bytes, (b) => (b % 36).toString(36)).join("")}${Date.now().toString(36).slice(-4)}`;
}

/** What belongs to the kind of a question: its unit and limits, its answers, its formula. */
export function QuestionOfKind({ plan, step, question, set }: QuestionProps) {
  const meters = useCatalogue().data?.meters ?? [];
  switch (question.kind) {
    case "reading":
      return (
        <div className="clause" style={{ alignItems: "flex-end" }}>
          <UnitSelect value={question.unit} onChange={(unit) => set({ unit, units: [] })} />
          <OtherUnits unit={question.unit} chosen={question.units} onChange={(units) => set({ units })} />
          <LimitFields question={question} set={set} />
          {(
            [
              ["lowest", "Shows from"],
              ["highest", "Shows to"],
            ] as const
          ).map(([key, label]) => (
            <SavedNumber
              key={key}
              label={label}
              width={78}
              value={question[key]}
              onSave={(value) => set({ [key]: value })}
            />
          ))}
        </div>
      );
    case "computed":
      return (
        <>
          <FormulaField plan={plan} step={step} question={question} set={set} />
          <div className="clause" style={{ alignItems: "flex-end" }}>
            <UnitSelect value={question.unit} onChange={(unit) => set({ unit })} />
            <SavedNumber
              label="Places"
              width={70}
              value={question.decimals}
              onSave={(decimals) => set({ decimals: decimals ?? 2 })}
            />
            <LimitFields question={question} set={set} />
          </div>
        </>
      );
    case "meter":
      return (
        <div className="clause">
          <Select
            label="Meter"
            w={190}
            searchable
            allowDeselect={false}
            data={meters.map((m) => ({ value: m.code, label: `${m.name}, ${m.unit}` }))}
            value={question.meter}
            onChange={(code) => {
              const meter = meters.find((m) => m.code === code);
              if (meter) set({ meter: meter.code, unit: meter.unit });
            }}
          />
          <span className="soft">Below the last reading, the technician says why.</span>
        </div>
      );
    case "photo":
      return (
        <div className="clause">
          <Select
            label="When"
            w={130}
            allowDeselect={false}
            data={["any", "before", "nameplate", "after"]}
            value={question.moment}
            onChange={(moment) => set({ moment: moment as typeof question.moment })}
          />
          <Switch
            size="xs"
            label="Keep the place it was taken, if the camera wrote it down"
            checked={question.keep_place}
            onChange={(e) => set({ keep_place: e.currentTarget.checked })}
          />
        </div>
      );
    case "one_of":
    case "any_of":
      return <Options question={question} set={set} />;
    case "text":
      return (
        <SavedLines
          label="Ready answers, one a line"
          lines={question.ready}
          onSave={(ready) => set({ ready })}
        />
      );
    case "date":
      return (
        <label className="clause">
          <input
            type="checkbox"
            checked={question.with_time}
            onChange={(e) => set({ with_time: e.currentTarget.checked })}
          />
          with the time of day
        </label>
      );
    case "signature":
      return (
        <div className="clause">
          <Select
            label="Signed by"
            w={150}
            allowDeselect={false}
            data={["keeper", "technician"]}
            value={question.by}
            onChange={(by) => set({ by: by as typeof question.by })}
          />
        </div>
      );
    case "scan":
      return (
        <div className="clause">
          <SavedText
            shown
            label="Must equal (the asset's serial, if empty)"
            width={290}
            value={question.equals ?? ""}
            onSave={(equals) => set({ equals: equals || null })}
          />
        </div>
      );
    case "instruction":
      return (
        <PicturesField
          chosen={question.pictures}
          onChange={(make) => set((now) => ("pictures" in now ? { pictures: make(now.pictures) } : {}))}
        />
      );
    default:
      return null;
  }
}

function LimitFields({
  question,
  set,
}: {
  question: Extract<Question, { kind: "reading" | "computed" }>;
  set: (part: QuestionPart) => unknown;
}) {
  const { limits } = question;
  return (
    <>
      {(
        [
          ["low_low", "Stop below"],
          ["low", "Low"],
          ["high", "High"],
          ["high_high", "Stop above"],
        ] as const
      ).map(([key, label]) => (
        <SavedNumber
          key={key}
          label={label}
          width={78}
          value={limits[key]}
          onSave={(value) =>
            set((now) => ("limits" in now ? { limits: { ...now.limits, [key]: value } } : {}))
          }
        />
      ))}
    </>
  );
}

function UnitSelect({ value, onChange }: { value: string; onChange: (unit: string) => void }) {
  const menu = (useUnits().data ?? []).flat();
  const [typed, setTyped] = useState("");
  const data = [...new Set([...(value ? [value] : []), ...menu, ...(typed.trim() ? [typed.trim()] : [])])];
  return (
    <Select
      label="Unit"
      w={92}
      searchable
      clearable
      data={data}
      value={value || null}
      onSearchChange={setTyped}
      onChange={(unit) => onChange(unit ?? "")}
    />
  );
}

/** The other units of the same dimension that a reading may be entered in. */
function OtherUnits({
  unit,
  chosen,
  onChange,
}: {
  unit: string;
  chosen: string[];
  onChange: (units: string[]) => void;
}) {
  const group = (useUnits().data ?? []).find((units) => units.includes(unit));
  if (!group || group.length < 2) return null;
  return (
    <MultiSelect
      label="or entered in"
      w={118 + 40 * chosen.length}
      data={group.filter((u) => u !== unit)}
      value={chosen}
      onChange={onChange}
    />
  );
}

function Options({
  question,
  set,
}: {
  question: Extract<Question, { kind: "one_of" | "any_of" }>;
  set: (part: QuestionPart) => unknown;
}) {
  const { options } = question;
  const rework = (change: (now: Option[]) => Option[]) =>
    set((now) => ("options" in now ? { options: change(now.options) } : {}));
  return (
    <div className="clause">
      {options.map((option, j) => (
        <span key={option.id} className="clause">
          <SavedText
            label={`Answer ${j + 1}`}
            placeholder={`answer ${j + 1}`}
            width={130}
            value={option.label}
            onSave={(label) => rework((now) => now.map((o) => (o.id === option.id ? { ...o, label } : o)))}
          />
          <button
            type="button"
            className="linklike"
            aria-label={`Remove answer ${j + 1}`}
            onClick={() => rework((now) => now.filter((o) => o.id !== option.id))}
          >
            remove
          </button>
        </span>
      ))}
      <Button
        variant="subtle"
        color="slate"
        onClick={() => rework((now) => [...now, { id: newId("o"), label: "" }])}
      >
        Add answer
      </Button>
    </div>
  );
}
