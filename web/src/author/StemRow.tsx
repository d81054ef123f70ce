import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { IconGripVertical } from "@tabler/icons-react";
import { useEffect, useState } from "react";
import type { Step, StepRow, StepView } from "../api/types";
import { EditableText } from "../draft/EditableText";
import { type Draft, reworkStep, setStep } from "../draft/use-draft";
import { DotRange } from "../ui/DotRange";
import { count, number } from "../ui/format";
import { PHASE_COLOUR, phaseWord } from "../ui/phases";

/** One step on the stem. */
export function StemRow({
  step,
  view,
  first,
  last,
  evidence,
  scale,
  editable,
  chosen,
  picked,
  open,
  naming,
  onChoose,
  onPick,
  onOpen,
  onNamed,
  draft,
}: {
  step: Step;
  view: StepView | undefined;
  first: boolean;
  last: boolean;
  evidence: StepRow["evidence"] | undefined;
  scale: number;
  editable: boolean;
  chosen: boolean;
  picked: boolean;
  open: boolean;
  naming: boolean;
  onChoose: () => void;
  onPick: () => void;
  onOpen: () => void;
  onNamed: () => void;
  draft: Draft;
}) {
  const drag = useSortable({ id: step.id, disabled: !editable });
  const depth = view?.depth ?? 0;
  const text = step.text || view?.text || "";
  const minutes = step.standard === null ? step.minutes.likely : (view?.minutes ?? step.minutes.likely);
  const colour = PHASE_COLOUR[step.phase];
  const gap = evidence?.taken ? evidence.taken.median - minutes : 0;
  const toolWord = open ? "Close" : editable ? "Edit" : "More";
  const telling = Math.abs(gap) >= 5;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a row that keys work on; a fieldset cannot be laid out as one.
    <div
      ref={drag.setNodeRef}
      className="stem-row"
      data-step={step.id}
      data-chosen={chosen || undefined}
      data-picked={picked || undefined}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: the row has the focus, so that keys change it.
      tabIndex={0}
      role="group"
      aria-label={`${step.phase}: ${text || "unnamed step"}${picked ? ", picked" : ""}`}
      style={{ transform: CSS.Translate.toString(drag.transform), transition: drag.transition }}
      onClickCapture={(e) => {
        if (!(e.ctrlKey || e.metaKey || e.shiftKey)) return;
        e.preventDefault();
        e.stopPropagation();
        onPick();
      }}
      onClick={onChoose}
      onFocus={(e) => e.target === e.currentTarget && onChoose()}
      onKeyDown={(e) => {
        if (e.key === "Enter" && e.target === e.currentTarget) onOpen();
      }}
    >
      <span className="stem-phase" style={{ color: phaseWord(step.phase) }}>
        {first ? step.phase : ""}
      </span>
      <span className="stem-line" aria-hidden="true">
        <svg width={30 + depth * 26} height="100%">
          <title>{step.phase}</title>
          <line x1={12} x2={12} y1={0} y2={last ? "50%" : "100%"} stroke={colour} strokeWidth={3} />
          {depth > 0 && (
            <line x1={12} x2={12 + depth * 26} y1="50%" y2="50%" stroke={colour} strokeWidth={2} />
          )}
          <circle
            cx={12 + depth * 26}
            cy="50%"
            r={depth ? 5.5 : 7}
            fill={chosen ? colour : "var(--card)"}
            stroke={colour}
            strokeWidth={2}
          />
        </svg>
      </span>
      <span className="stem-cell stem-text" style={{ paddingLeft: depth * 26 }}>
        <EditableText
          label="Step"
          placeholder="Say what to do, verb first"
          value={text}
          editable={editable && step.standard === null}
          startOpen={naming}
          onDone={onNamed}
          onSave={(text) => draft.change(setStep(step.id, "text", text))}
        />
        <span className="stem-sub">
          {[
            view?.reuses && `standard step ${step.standard}`,
            view?.when && `when ${view.when}`,
            view?.repeats,
            view?.proof,
            view?.fills_in && `fills in ${view.fills_in}`,
          ]
            .filter(Boolean)
            .join(". ")}
        </span>
      </span>
      <MinutesField
        step={step}
        minutes={minutes}
        editable={editable && step.standard === null}
        onSave={(likely) => draft.change(reworkStep(step.id, "minutes", (now) => ({ ...now, likely })))}
      />
      <span className="stem-cell stem-plot">
        <DotRange planned={minutes} taken={evidence?.taken} top={scale} width={126} />
        <span className="stem-gap">
          <span className="mono" data-over={gap > 0 || undefined}>
            {telling ? `${gap > 0 ? "+" : "−"}${number(Math.abs(Math.round(gap)))}` : ""}
          </span>
          {evidence?.taken && <small>{count(evidence.taken.count, "job")}</small>}
        </span>
      </span>
      <span className="stem-cell stem-tools">
        <button
          type="button"
          className="tool"
          aria-expanded={open}
          aria-label={`${toolWord} “${text}”`}
          onClick={(e) => {
            e.stopPropagation();
            onOpen();
          }}
        >
          {toolWord}
        </button>
        {editable && (
          <span className="grip" title="Drag to move" {...drag.listeners}>
            <IconGripVertical size={16} />
          </span>
        )}
      </span>
    </div>
  );
}

function MinutesField({
  step,
  minutes,
  editable,
  onSave,
}: {
  step: Step;
  minutes: number;
  editable: boolean;
  onSave: (likely: number) => void;
}) {
  const [text, setText] = useState(String(step.minutes.likely));
  useEffect(() => setText(String(step.minutes.likely)), [step.minutes.likely]);
  if (!editable) return <span className="stem-cell stem-minutes mono">{number(minutes)}</span>;
  const value = Number(text.replace(",", "."));
  const fits = text.trim() !== "" && Number.isFinite(value) && value >= 0;
  return (
    <input
      className="stem-cell stem-minutes mono"
      aria-label={`Minutes planned for “${step.text}”`}
      aria-invalid={!fits}
      inputMode="decimal"
      value={text}
      onClick={(e) => e.stopPropagation()}
      onChange={(e) => setText(e.currentTarget.value)}
      onBlur={() => {
        if (fits && value !== step.minutes.likely) onSave(value);
        else setText(String(step.minutes.likely));
      }}
      onKeyDown={(e) => {
        if (e.key === "Enter") e.currentTarget.blur();
        if (e.key === "Escape") setText(String(step.minutes.likely));
        e.stopPropagation();
      }}
    />
  );
}
