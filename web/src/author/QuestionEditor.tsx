import { Button, Menu, MultiSelect, Select } from "@mantine/core";
import { IconPlus } from "@tabler/icons-react";
import { useState } from "react";
import { useCatalogue, useFacts, useUnits } from "../api/queries";
import type { Condition, PlanEdit, PlanView, Question, QuestionKind, Raise } from "../api/types";
import { QUESTION_KINDS, unitOf } from "../ui/questions";
import { askableBefore, askQuestion } from "./askable";
import { ConditionEditor } from "./ConditionEditor";
import { FormulaField } from "./FormulaField";
import { PicturesField } from "./PicturesField";
import { SavedLines, SavedNumber, SavedText, SavedTextarea } from "./saved-fields";
import { type Draft, type QuestionPart, reworkQuestion } from "./use-draft";

type Option = { id: string; label: string };

const OWNERS = ["technician", "planner", "engineer", "keeper"];
const SEVERITIES = ["Note", "Watch", "Act", "Stop"];

/** Identities made here are new by chance: 50 random bits; the server refuses one used twice. */
function newId(prefix: string): string {
  const bytes = crypto.getRandomValues(new Uint8Array(7));
  return `${prefix}-${Array.from(bytes, (b) => (b % 36).toString(36)).join("")}${Date.now().toString(36).slice(-4)}`;
}

interface Props {
  plan: PlanView;
  step: string;
  question: Question;
  draft: Draft;
  edit: (change: PlanEdit) => void;
}

/** One question with all that can be said of it: first what every kind needs, the rest on demand. */
export function QuestionEditor(props: Props) {
  const { question, draft, edit } = props;
  const [more, setMore] = useState(false);
  const set = (part: QuestionPart) => draft.change(reworkQuestion(question.id, part));
  const told = notable(question);
  return (
    <div className="proof-row">
      <div className="clause">
        <Select
          aria-label="Kind of question"
          w={126}
          allowDeselect={false}
          data={QUESTION_KINDS.map((k) => ({ value: k.kind, label: k.name }))}
          value={question.kind}
          onChange={(kind) =>
            kind && edit({ kind: "change kind", question: question.id, question_kind: kind as QuestionKind })
          }
        />
        <SavedText
          label={question.kind === "photo" ? "Photo of" : "Question"}
          placeholder={question.kind === "photo" ? "what" : "what is asked"}
          width={280}
          value={question.label}
          onSave={(label) => set({ label })}
        />
        <Button variant="subtle" color="slate" aria-expanded={more} onClick={() => setMore(!more)}>
          {more ? "Less" : told ? `More: ${told}` : "More"}
        </Button>
        <Button
          variant="subtle"
          color="slate"
          aria-label={`Remove “${question.label}”`}
          onClick={() => edit({ kind: "remove question", question: question.id })}
        >
          Remove
        </Button>
      </div>
      <OfKind {...props} set={set} />
      {more && <Rest {...props} set={set} />}
    </div>
  );
}

/** What is said of a question beyond its kind, in a few words, so that nothing hides behind More. */
function notable(question: Question): string {
  return [
    question.condition && "condition",
    question.required !== "always" && question.kind !== "instruction" && "not always required",
    question.prefill && "filled in",
    question.write_back && "written back",
    question.raises.length > 0 && "findings",
  ]
    .filter(Boolean)
    .join(", ");
}

function OfKind({ plan, step, question, set }: Props & { set: (part: QuestionPart) => void }) {
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
      return <PicturesField chosen={question.pictures} onChange={(pictures) => set({ pictures })} />;
    default:
      return null;
  }
}

function LimitFields({
  question,
  set,
}: {
  question: Extract<Question, { kind: "reading" | "computed" }>;
  set: (part: QuestionPart) => void;
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
  set: (part: QuestionPart) => void;
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

function Rest({ plan, step, question, set }: Props & { set: (part: QuestionPart) => void }) {
  const facts = useFacts().data ?? [];
  const asked = askableBefore(plan, step, question.id, facts);
  const answered = !["computed", "instruction"].includes(question.kind);
  return (
    <div className="question-rest">
      <SavedTextarea
        label="Detail, for the one who wants to know how"
        value={question.detail}
        onSave={(detail) => set({ detail })}
      />
      <fieldset>
        <legend>Asked when</legend>
        <ConditionEditor
          condition={question.condition as Condition | null}
          asked={asked}
          onChange={(condition) => set({ condition } as Partial<Question>)}
        />
      </fieldset>
      {answered && (
        <div className="details-row">
          <Select
            label="Required"
            w={120}
            allowDeselect={false}
            data={["always", "never", "when"]}
            value={question.required}
            onChange={(required) => set({ required: required as Question["required"] })}
          />
          <Select
            label="Filled in from"
            w={210}
            searchable
            clearable
            placeholder="nothing"
            data={[
              { value: "last", label: "the last visit" },
              ...facts.map((f) => ({ value: f.name, label: f.label })),
            ]}
            value={question.prefill}
            onChange={(prefill) => set({ prefill })}
          />
          <Select
            label="Written back to"
            w={190}
            searchable
            clearable
            placeholder="nothing"
            data={facts.filter((f) => f.writable).map((f) => ({ value: f.name, label: f.label }))}
            value={question.write_back}
            onChange={(write_back) => set({ write_back })}
          />
        </div>
      )}
      {unitOf(question) !== undefined && (
        <SavedText
          shown
          label="Name in formulas"
          width={140}
          mono
          value={question.name}
          onSave={(name) => set({ name })}
        />
      )}
      {question.required === "when" && (
        <fieldset>
          <legend>Required when</legend>
          <ConditionEditor
            condition={question.required_when as Condition | null}
            asked={asked}
            empty="Nothing says when yet. "
            onChange={(required_when) => set({ required_when } as Partial<Question>)}
          />
        </fieldset>
      )}
      {(question.kind === "reading" || question.kind === "computed") && (
        <div className="details-row">
          <Select
            label="Outside a limit, seen to by"
            w={190}
            allowDeselect={false}
            data={OWNERS}
            value={question.limits.owner}
            onChange={(owner) =>
              set((now) =>
                "limits" in now ? { limits: { ...now.limits, owner: owner as Raise["owner"] } } : {},
              )
            }
          />
          <SavedNumber
            label="within days"
            width={90}
            value={question.limits.due_days}
            onSave={(due_days) =>
              set((now) => ("limits" in now ? { limits: { ...now.limits, due_days } } : {}))
            }
          />
        </div>
      )}
      <Findings question={question} asked={[askQuestion(question, "this question"), ...asked]} set={set} />
    </div>
  );
}

/** The findings that answers raise, each with when, how serious, whose and by when. */
function Findings({
  question,
  asked,
  set,
}: {
  question: Question;
  asked: ReturnType<typeof askableBefore>;
  set: (part: QuestionPart) => void;
}) {
  const { raises } = question;
  const put = (next: (now: Raise[]) => Raise[]) =>
    set((now) => ({ raises: next(now.raises) }) as Partial<Question>);
  const change = (i: number, part: Partial<Raise>) =>
    put((now) => now.map((r, j) => (j === i ? { ...r, ...part } : r)));
  if (question.kind === "instruction") return null;
  return (
    <fieldset>
      <legend>Raises a finding</legend>
      {raises.map((raised, i) => (
        <div key={i} className="finding-row">
          <ConditionEditor
            condition={raised.when as Condition}
            asked={asked}
            onChange={(when) => when && change(i, { when } as Partial<Raise>)}
          />
          <div className="details-row">
            <Select
              label="Severity"
              w={100}
              allowDeselect={false}
              data={SEVERITIES}
              value={raised.severity}
              onChange={(severity) => change(i, { severity: severity as Raise["severity"] })}
            />
            <SavedText
              shown
              label="What it says"
              width={240}
              value={raised.says}
              onSave={(says) => change(i, { says })}
            />
            <Select
              label="Seen to by"
              w={120}
              allowDeselect={false}
              data={OWNERS}
              value={raised.owner}
              onChange={(owner) => change(i, { owner: owner as Raise["owner"] })}
            />
            <SavedNumber
              label="within days"
              width={90}
              value={raised.due_days}
              onSave={(due_days) => change(i, { due_days })}
            />
            <Button
              variant="subtle"
              color="slate"
              onClick={() => put((now) => now.filter((_, j) => j !== i))}
            >
              Remove finding
            </Button>
          </div>
        </div>
      ))}
      <Button
        variant="subtle"
        color="slate"
        leftSection={<IconPlus size={14} />}
        onClick={() =>
          put((now) => [
            ...now,
            {
              when: {
                kind: "comparison",
                question: question.id,
                operator: question.kind === "yes_no" ? "is" : "answered",
                value: question.kind === "yes_no" ? false : null,
                upper: null,
                against: null,
              },
              severity: "Act",
              says: "",
              owner: "planner",
              due_days: null,
            },
          ])
        }
      >
        Add a finding
      </Button>
    </fieldset>
  );
}

/** The kinds to add, as a menu; a form's builder has them as a palette too. */
export function AddQuestionMenu({
  label,
  onAdd,
  onPhotoSet,
}: {
  label: string;
  onAdd: (kind: QuestionKind) => void;
  onPhotoSet?: () => void;
}) {
  return (
    <Menu position="bottom-start">
      <Menu.Target>
        <Button variant="default" leftSection={<IconPlus size={15} />}>
          {label}
        </Button>
      </Menu.Target>
      <Menu.Dropdown mah={360} style={{ overflowY: "auto" }}>
        {QUESTION_KINDS.map(({ kind, name, icon: Icon }) => (
          <Menu.Item key={kind} leftSection={<Icon size={15} />} onClick={() => onAdd(kind)}>
            {name}
          </Menu.Item>
        ))}
        {onPhotoSet && <Menu.Item onClick={onPhotoSet}>Photos: before, nameplate, finished</Menu.Item>}
      </Menu.Dropdown>
    </Menu>
  );
}
