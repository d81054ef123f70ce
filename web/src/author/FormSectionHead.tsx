import { useDroppable } from "@dnd-kit/core";
import { Button } from "@mantine/core";
import { useState } from "react";
import { useFacts } from "../api/queries";
import type { Condition, PlanEdit, PlanView, Step, StepView } from "../api/types";
import { EditableText } from "../draft/EditableText";
import { SavedNumber, SavedTextarea } from "../draft/saved-fields";
import { type Draft, reworkStep, setStep } from "../draft/use-draft";
import { askableBefore } from "./askable";
import { ConditionEditor } from "./ConditionEditor";
import { RepeatField } from "./RepeatField";

/** What a section is known by among the things that a question may be dropped on. */
export const sectionId = (step: string) => `section ${step}`;

/** The head of a section: its words and minutes, and the rest of it where that is opened. A question dropped on it comes first. */
export function FormSectionHead({
  plan,
  step,
  view,
  draft,
  editable,
  naming,
  onNamed,
  onChoose,
  edit,
}: {
  plan: PlanView;
  step: Step;
  view: StepView | undefined;
  draft: Draft;
  editable: boolean;
  naming: boolean;
  onNamed: () => void;
  onChoose: () => void;
  edit: (change: PlanEdit) => void;
}) {
  const facts = useFacts().data ?? [];
  const [open, setOpen] = useState(false);
  const { setNodeRef, isOver } = useDroppable({ id: sectionId(step.id), disabled: !editable });
  const set = <F extends keyof Step>(field: F, value: Step[F]) =>
    draft.change(setStep(step.id, field, value));
  const notes = [view?.when && `when ${view.when}`, view?.repeats].filter(Boolean).join(". ");
  return (
    <>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: a click beside its buttons chooses the section; keys reach the buttons. */}
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: as above. */}
      <div ref={setNodeRef} className="fsection-head" data-over={isOver || undefined} onClick={onChoose}>
        <h2>
          <EditableText
            label="Section"
            placeholder="Name the section"
            value={step.text}
            editable={editable}
            startOpen={naming}
            onDone={onNamed}
            onSave={(text) => set("text", text)}
          />
        </h2>
        <span className="stem-sub">{notes}</span>
        <span className="mono soft">{step.minutes.likely} min</span>
        <button
          type="button"
          className="tool"
          aria-expanded={open}
          aria-label={`${open ? "Close" : "Edit"} section “${step.text}”`}
          onClick={() => setOpen(!open)}
        >
          {open ? "Close" : editable ? "Edit" : "More"}
        </button>
      </div>
      {open && (
        <fieldset className="details fdetails plain-group" disabled={!editable}>
          <legend className="skip">Section {step.text}</legend>
          <div className="details-row">
            <SavedNumber
              label="Minutes"
              width={90}
              value={step.minutes.likely}
              onSave={(likely) =>
                draft.change(reworkStep(step.id, "minutes", (now) => ({ ...now, likely: likely ?? 0 })))
              }
            />
            <Button
              variant="default"
              onClick={() => edit({ kind: "move step", step: step.id, direction: "up" })}
            >
              Up
            </Button>
            <Button
              variant="default"
              onClick={() => edit({ kind: "move step", step: step.id, direction: "down" })}
            >
              Down
            </Button>
            <Button variant="default" onClick={() => edit({ kind: "branch step", step: step.id })}>
              Under the section above
            </Button>
            {step.under && (
              <Button variant="default" onClick={() => edit({ kind: "unbranch step", step: step.id })}>
                By itself
              </Button>
            )}
            <Button variant="default" onClick={() => edit({ kind: "remove step", step: step.id })}>
              Remove section
            </Button>
          </div>
          <SavedTextarea label="Detail" value={step.detail} onSave={(detail) => set("detail", detail)} />
          <SavedTextarea
            label="Safety note, acknowledged first"
            value={step.safety}
            onSave={(safety) => set("safety", safety)}
          />
          <fieldset>
            <legend>Done once per</legend>
            <RepeatField
              repeat={step.repeat}
              onChange={(rework) => draft.change(reworkStep(step.id, "repeat", rework))}
            />
          </fieldset>
          <fieldset>
            <legend>Wanted when</legend>
            <ConditionEditor
              condition={step.condition as Condition | null}
              asked={askableBefore(plan, step.id, null, facts)}
              onChange={(condition) => set("condition", condition)}
            />
          </fieldset>
        </fieldset>
      )}
    </>
  );
}
