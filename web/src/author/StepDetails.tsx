import { Button, NumberInput, Select } from "@mantine/core";
import {
  IconArrowDown,
  IconArrowLeft,
  IconArrowRight,
  IconArrowUp,
  IconPlus,
  IconTrash,
} from "@tabler/icons-react";
import { Link } from "react-router";
import { useCatalogue, useChoices, useFacts, useSharedDocuments } from "../api/queries";
import type { Condition, PlanEdit, PlanView, Question, Repeat, Step } from "../api/types";
import { SavedLines, SavedNumber, SavedText, SavedTextarea } from "../draft/saved-fields";
import { type Draft, reworkStep, setStep } from "../draft/use-draft";
import { askableBefore, askFact, askQuestion } from "./askable";
import { ConditionEditor } from "./ConditionEditor";
import { PicturesField } from "./PicturesField";
import { AddQuestionMenu, QuestionEditor } from "./QuestionEditor";

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
  const facts = useFacts().data ?? [];
  const phases = useChoices().data?.phases ?? [];
  const set = <F extends keyof Step>(field: F, value: Step[F]) =>
    draft.change(setStep(step.id, field, value));
  const view = plan.steps.find((v) => v.step === step.id);
  return (
    <fieldset className="details plain-group" disabled={!editable}>
      <legend className="skip">Details of {step.text}</legend>
      {editable && (
        <div className="details-row">
          <Select
            label="Phase"
            w={130}
            data={phases}
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
      <fieldset>
        <legend>Wanted when</legend>
        <ConditionEditor
          condition={step.condition as Condition | null}
          asked={askableBefore(plan, step.id, null, facts)}
          onChange={(condition) => set("condition", condition)}
        />
        {step.condition && (
          <SavedNumber
            label="Wanted in % of jobs"
            value={step.chance === null ? null : Math.round(step.chance * 100)}
            max={100}
            onSave={(percent) => set("chance", percent === null ? null : percent / 100)}
          />
        )}
      </fieldset>
      {step.standard !== null ? (
        <p className="soft flat">
          This is the standard step {view?.reuses}. What it does is written there:{" "}
          <Link to={`/author/documents/${step.standard}`}>open it</Link>.
        </p>
      ) : (
        <StepBody plan={plan} step={step} draft={draft} edit={edit} />
      )}
      {plan.kind === "plan" && (
        <fieldset>
          <legend>Form filled in with it</legend>
          <FormField step={step} onChange={(form) => set("form", form)} />
        </fieldset>
      )}
      <fieldset>
        <legend>Done once per</legend>
        <RepeatField
          repeat={step.repeat}
          onChange={(make) => draft.change(reworkStep(step.id, "repeat", make))}
        />
      </fieldset>
    </fieldset>
  );
}

/** What the step itself says and asks; a standard step keeps this in its own document. */
function StepBody({
  plan,
  step,
  draft,
  edit,
}: {
  plan: PlanView;
  step: Step;
  draft: Draft;
  edit: (change: PlanEdit) => void;
}) {
  const set = <F extends keyof Step>(field: F, value: Step[F]) =>
    draft.change(setStep(step.id, field, value));
  const rework = <F extends keyof Step>(field: F, make: (now: Step[F]) => Step[F]) =>
    draft.change(reworkStep(step.id, field, make));
  return (
    <>
      <SavedTextarea
        label="Detail, for the one who wants to know how"
        value={step.detail}
        onSave={(detail) => set("detail", detail)}
      />
      <SavedTextarea
        label="Safety note, acknowledged before the step"
        value={step.safety}
        onSave={(safety) => set("safety", safety)}
      />
      <div className="details-row">
        <SavedNumber
          label="Minutes at the least"
          value={step.minutes.low}
          onSave={(low) => draft.change(reworkStep(step.id, "minutes", (now) => ({ ...now, low })))}
        />
        <SavedNumber
          label="Minutes at the most"
          value={step.minutes.high}
          onSave={(high) => draft.change(reworkStep(step.id, "minutes", (now) => ({ ...now, high })))}
        />
      </div>
      <fieldset>
        <legend>Proof</legend>
        {step.questions.map((question) => (
          <QuestionEditor
            key={question.id}
            plan={plan}
            step={step.id}
            question={question}
            draft={draft}
            edit={edit}
          />
        ))}
        <AddQuestionMenu
          label="Add proof"
          onAdd={(kind) => edit({ kind: "add question", step: step.id, question_kind: kind, label: "" })}
          onPhotoSet={() => edit({ kind: "add photo set", step: step.id })}
        />
      </fieldset>
      <fieldset>
        <legend>Skills</legend>
        <SkillNeeds step={step} onChange={(make) => rework("skills", make)} />
      </fieldset>
      <fieldset>
        <legend>Parts</legend>
        <PartNeeds plan={plan} step={step} onChange={(make) => rework("parts", make)} />
      </fieldset>
      <fieldset>
        <legend>Tools</legend>
        <ToolNeeds step={step} onChange={(make) => rework("tools", make)} />
      </fieldset>
      <fieldset>
        <legend>Pictures and links</legend>
        <PicturesField chosen={step.pictures} onChange={(make) => rework("pictures", make)} />
        <LinksField links={step.links} onChange={(links) => set("links", links)} />
      </fieldset>
    </>
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

function FormField({ step, onChange }: { step: Step; onChange: (form: string | null) => void }) {
  const forms = (useSharedDocuments().data ?? []).filter((row) => row.link.kind === "form");
  return (
    <div className="clause">
      <Select
        aria-label="Form filled in with it"
        w={290}
        searchable
        clearable
        placeholder={forms.length ? "None" : "No form is written yet"}
        data={forms.map(({ link }) => ({ value: link.document, label: `${link.title}, ${link.document}` }))}
        value={step.form}
        onChange={onChange}
      />
      {step.form && <Link to={`/author/documents/${step.form}`}>Open the form</Link>}
    </div>
  );
}

/** Once per pump, phase or door: over names, a field of the asset, or what is found on site. */
export function RepeatField({
  repeat,
  onChange,
}: {
  repeat: Repeat | null;
  onChange: (rework: (now: Repeat | null) => Repeat | null) => void;
}) {
  const facts = useFacts().data ?? [];
  const set = (part: Partial<Repeat>) => onChange((now) => now && { ...now, ...part });
  if (repeat === null)
    return (
      <Button
        variant="subtle"
        color="slate"
        onClick={() => onChange(() => ({ per: "", over: "named", names: [], field: "" }))}
      >
        Repeat it
      </Button>
    );
  return (
    <div className="details-row">
      <SavedText
        shown
        label="Each"
        width={110}
        placeholder="pump"
        value={repeat.per}
        onSave={(per) => set({ per })}
      />
      <Select
        label="Which there are"
        w={170}
        allowDeselect={false}
        data={[
          { value: "named", label: "named here" },
          { value: "asset field", label: "by an asset field" },
          { value: "on site", label: "found on site" },
        ]}
        value={repeat.over}
        onChange={(over) => set({ over: over as Repeat["over"] })}
      />
      {repeat.over === "named" && (
        <SavedText
          shown
          label="Names, with commas between"
          width={230}
          value={repeat.names.join(", ")}
          onSave={(text) =>
            set({
              names: text
                .split(",")
                .map((n) => n.trim())
                .filter(Boolean),
            })
          }
        />
      )}
      {repeat.over === "asset field" && (
        <Select
          label="Field"
          w={210}
          searchable
          data={facts
            .filter((f) => f.name.startsWith("asset.") && f.writable)
            .map((f) => ({ value: f.name, label: f.label }))}
          value={repeat.field || null}
          onChange={(field) => set({ field: field ?? "" })}
        />
      )}
      <Button variant="subtle" color="slate" onClick={() => onChange(() => null)}>
        Once only
      </Button>
    </div>
  );
}

function SkillNeeds({
  step,
  onChange,
}: {
  step: Step;
  onChange: (make: (now: Step["skills"]) => Step["skills"]) => void;
}) {
  const skills = useCatalogue().data?.skills ?? [];
  const choices = useChoices().data;
  const free = skills.filter((s) => !step.skills.some((need) => need.skill === s.code));
  return (
    <>
      {step.skills.map((need) => (
        <div className="clause" key={need.skill}>
          <span>{skills.find((s) => s.code === need.skill)?.name ?? need.skill}</span>
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
          <Button
            variant="subtle"
            color="slate"
            onClick={() => onChange((now) => now.filter((n) => n.skill !== need.skill))}
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
        onChange={(skill) =>
          skill && choices && onChange((now) => [...now, { skill, level: choices.usual_level }])
        }
      />
    </>
  );
}

function PartNeeds({
  plan,
  step,
  onChange,
}: {
  plan: PlanView;
  step: Step;
  onChange: (make: (now: Step["parts"]) => Step["parts"]) => void;
}) {
  const parts = useCatalogue().data?.parts ?? [];
  const facts = useFacts().data ?? [];
  const free = parts.filter((p) => !step.parts.some((need) => need.part === p.code));
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
        const part = parts.find((p) => p.code === need.part);
        const change = (with_: Partial<typeof need>) =>
          onChange((now) => now.map((n) => (n.part === need.part ? { ...n, ...with_ } : n)));
        return (
          <div key={need.part}>
            <div className="clause">
              <span>{part?.name ?? need.part}</span>
              <NumberInput
                aria-label={`Quantity of ${part?.name ?? need.part}`}
                w={70}
                min={0}
                value={need.quantity}
                onBlur={(e) => {
                  const quantity = Number(e.currentTarget.value);
                  if (quantity !== need.quantity) change({ quantity });
                }}
              />
              <span>{part?.unit}</span>
              <Button
                variant="subtle"
                color="slate"
                onClick={() => onChange((now) => now.filter((n) => n.part !== need.part))}
              >
                Remove
              </Button>
            </div>
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
      <Select
        placeholder="Add a part"
        aria-label="Add a part"
        w={230}
        searchable
        data={free.map((p) => ({ value: p.code, label: `${p.name}, ${p.code}` }))}
        value={null}
        onChange={(part) => part && onChange((now) => [...now, { part, quantity: 1, condition: null }])}
      />
    </>
  );
}

function ToolNeeds({
  step,
  onChange,
}: {
  step: Step;
  onChange: (make: (now: Step["tools"]) => Step["tools"]) => void;
}) {
  const tools = useCatalogue().data?.tools ?? [];
  const free = tools.filter((t) => !step.tools.some((need) => need.tool === t.code));
  return (
    <>
      {step.tools.map((need) => {
        const name = tools.find((t) => t.code === need.tool)?.name ?? need.tool;
        return (
          <div className="clause" key={need.tool}>
            <span>{name}</span>
            <NumberInput
              aria-label={`How many: ${name}`}
              w={70}
              min={1}
              allowDecimal={false}
              value={need.quantity}
              onBlur={(e) => {
                const quantity = Number(e.currentTarget.value);
                if (quantity !== need.quantity)
                  onChange((now) => now.map((n) => (n.tool === need.tool ? { ...n, quantity } : n)));
              }}
            />
            <Button
              variant="subtle"
              color="slate"
              onClick={() => onChange((now) => now.filter((n) => n.tool !== need.tool))}
            >
              Remove
            </Button>
          </div>
        );
      })}
      <Select
        placeholder="Add a tool"
        aria-label="Add a tool"
        w={230}
        searchable
        data={free.map((t) => ({ value: t.code, label: `${t.name}, ${t.code}` }))}
        value={null}
        onChange={(tool) => tool && onChange((now) => [...now, { tool, quantity: 1 }])}
      />
    </>
  );
}

/** Documents and pages worth having at hand: a title and an address, one a line. */
export function LinksField({
  links,
  onChange,
}: {
  links: Step["links"];
  onChange: (links: Step["links"]) => void;
}) {
  return (
    <SavedLines
      label="Documents and links, one a line: title | address"
      placeholder="Power pack drawing | https://…"
      lines={links.map((l) => `${l.title} | ${l.address}`)}
      onSave={(lines) =>
        onChange(
          lines.map((line) => {
            const [title = "", address = title] = line.split("|").map((part) => part.trim());
            return { title, address };
          }),
        )
      }
    />
  );
}
