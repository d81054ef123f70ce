import { Button, Select } from "@mantine/core";
import {
  IconArrowDown,
  IconArrowLeft,
  IconArrowRight,
  IconArrowUp,
  IconPlus,
  IconTrash,
} from "@tabler/icons-react";
import { Link } from "react-router";
import { useChoices, useFacts, useSharedDocuments } from "../api/queries";
import type { Condition, PlanEdit, PlanView, Step } from "../api/types";
import { SavedNumber, SavedTextarea } from "../draft/saved-fields";
import { type Draft, reworkStep, setStep } from "../draft/use-draft";
import { askableBefore } from "./askable";
import { ConditionEditor } from "./ConditionEditor";
import { LinksField } from "./LinksField";
import { PicturesField } from "./PicturesField";
import { AddQuestionMenu, QuestionEditor } from "./QuestionEditor";
import { RepeatField } from "./RepeatField";
import { PartNeeds, SkillNeeds, ToolNeeds } from "./StepNeeds";

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
