import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { IconGripVertical } from "@tabler/icons-react";
import { useEffect, useRef } from "react";
import type { Question } from "../api/types";
import { EditableText } from "../draft/EditableText";
import { type Draft, reworkQuestion } from "../draft/use-draft";
import { kindName, QUESTION_KINDS, unitOf } from "../ui/questions";

/** A question of a form as its row: when it is asked, its kind, its words, what it is answered with. */
export function FormQuestionRow({
  question,
  when,
  depth,
  draft,
  editable,
  chosen,
  open,
  naming,
  onNamed,
  onChoose,
  onOpen,
}: {
  question: Question;
  when: string | undefined;
  depth: number;
  draft: Draft;
  editable: boolean;
  chosen: boolean;
  open: boolean;
  naming: boolean;
  onNamed: () => void;
  onChoose: () => void;
  onOpen: () => void;
}) {
  const self = useRef<HTMLDivElement>(null);
  const drag = useSortable({ id: question.id, disabled: !editable });
  useEffect(() => {
    if (chosen) self.current?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  const Icon = QUESTION_KINDS.find((k) => k.kind === question.kind)?.icon;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a row that keys work on; a fieldset cannot be laid out as one.
    <div
      ref={(element) => {
        self.current = element;
        drag.setNodeRef(element);
      }}
      className="fquestion"
      data-question={question.id}
      data-chosen={chosen || undefined}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: the row has the focus, so that keys change it.
      tabIndex={0}
      role="group"
      aria-label={`${kindName(question.kind)}: ${question.label || "without words"}`}
      style={{
        paddingLeft: 10 + 26 * depth,
        transform: CSS.Translate.toString(drag.transform),
        transition: drag.transition,
      }}
      onClick={onChoose}
      onFocus={(e) => e.target === e.currentTarget && onChoose()}
      onKeyDown={(e) => {
        if (e.key === "Enter" && e.target === e.currentTarget) onOpen();
      }}
    >
      <span className="fwhen">{when && `when ${when}`}</span>
      <span className="fmark" title={kindName(question.kind)}>
        {Icon && <Icon size={16} aria-hidden="true" />}
      </span>
      <span className="flabel">
        <EditableText
          label="Question"
          placeholder="What is asked"
          value={question.label}
          editable={editable}
          startOpen={naming}
          onDone={onNamed}
          onSave={(label) => draft.change(reworkQuestion(question.id, { label }))}
        />
      </span>
      <span className="fanswer">{answerLook(question)}</span>
      <button
        type="button"
        className="tool"
        aria-expanded={open}
        aria-label={`${open ? "Close" : editable ? "Edit" : "More"} “${question.label}”`}
        onClick={(e) => {
          e.stopPropagation();
          onOpen();
        }}
      >
        {open ? "Close" : editable ? "Edit" : "More"}
      </button>
      {editable && (
        <span className="grip" title="Drag to move" {...drag.listeners}>
          <IconGripVertical size={16} />
        </span>
      )}
    </div>
  );
}

/** What the technician will answer with, drawn small: boxes, a line, the unit with its limits. */
function answerLook(question: Question) {
  switch (question.kind) {
    case "yes_no":
      return "Yes ○  No ○";
    case "one_of":
      return question.options.map((o) => `${o.label || "…"} ○`).join("  ");
    case "any_of":
      return question.options.map((o) => `${o.label || "…"} ☐`).join("  ");
    case "tick":
      return "☐";
    case "reading":
    case "computed": {
      const { low_low, low, high, high_high } = question.limits;
      const [from, to] = [low ?? low_low, high ?? high_high];
      const limits =
        from !== null && to !== null
          ? `, ${from} to ${to}`
          : from !== null
            ? `, ${from} or more`
            : to !== null
              ? `, ${to} or less`
              : "";
      const value = question.kind === "computed" ? `= ${question.formula || "no formula yet"}` : "____";
      return `${value} ${unitOf(question)}${limits}`;
    }
    case "meter":
      return `____ ${question.unit}`;
    case "date":
      return question.with_time ? "day, time" : "day";
    case "instruction":
      return question.pictures.length ? `${question.pictures.length} pictures` : "";
    default:
      return "________";
  }
}
