import { Button, TextInput } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";
import { IconPlus } from "@tabler/icons-react";
import { useEffect, useRef, useState } from "react";
import { useFacts } from "../api/queries";
import type { Condition, PlanEdit, PlanView, Question, QuestionKind, Step, StepView } from "../api/types";
import { EditableText } from "../draft/EditableText";
import { SavedNumber, SavedTextarea } from "../draft/saved-fields";
import { type Draft, reworkQuestion, reworkStep, setStep } from "../draft/use-draft";
import { Empty } from "../ui/Empty";
import { useFocusAtOnce, watchFocus } from "../ui/focus";
import { kindName, QUESTION_KINDS, unitOf } from "../ui/questions";
import { askableBefore } from "./askable";
import { ConditionEditor } from "./ConditionEditor";
import { QuestionEditor } from "./QuestionEditor";
import { RepeatField } from "./StepDetails";
import "./form-sheet.css";

interface Props {
  plan: PlanView;
  draft: Draft;
  editable: boolean;
  chosen: string | null;
  onChoose: (step: string | null) => void;
}

/**
 * A form drawn as the sheet a technician would meet: sections of questions, each question indented
 * under the answer that opens it. Questions come from the palette or by keyboard.
 */
export function FormSheet({ plan, draft, editable, chosen, onChoose }: Props) {
  const { steps } = plan.content;
  const [at, setAt] = useState<string | null>(null);
  const [open, setOpen] = useState<string | null>(null);
  const [naming, setNaming] = useState<string | null>(null);
  const [picking, setPicking] = useState(false);
  const list = useRef<HTMLDivElement>(null);
  const flat = steps.flatMap((s) => s.questions.map((question) => ({ step: s, question })));
  const here = flat.find(({ question }) => question.id === at);
  const section = here?.step ?? steps.find((s) => s.id === chosen) ?? steps.at(-1);

  const row = (id: string) => list.current?.querySelector<HTMLElement>(`[data-question="${CSS.escape(id)}"]`);

  const focusRow = useFocusAtOnce(row);
  function focus(id: string) {
    setAt(id);
    focusRow(id);
  }

  async function edit(change: PlanEdit, keep: string | null = at) {
    const stayed = watchFocus();
    const saved = await draft.change({ edit: change });
    // Whoever has gone on to another question or field meanwhile stays there.
    if (keep && stayed()) focus(keep);
    return saved;
  }

  async function add(kind: QuestionKind) {
    if (!section) return;
    setPicking(false);
    const before = new Set(flat.map(({ question }) => question.id));
    const saved = await draft.change({
      edit: {
        kind: "add question",
        step: section.id,
        question_kind: kind,
        label: "",
        after: here?.step.id === section.id ? at : null,
      },
    });
    const made = saved?.plan?.content.steps.flatMap((s) => s.questions).find((q) => !before.has(q.id));
    if (made) {
      setAt(made.id);
      setNaming(made.id);
    }
  }

  async function addSection() {
    const before = new Set(steps.map((s) => s.id));
    const saved = await draft.change({
      edit: { kind: "add step", text: "", after: section?.id ?? null, phase: "Diagnose" },
    });
    const made = saved?.plan?.content.steps.find((s) => !before.has(s.id));
    if (!made) return;
    setAt(null);
    onChoose(made.id);
    setNaming(made.id);
  }

  const meant = () => document.activeElement?.closest<HTMLElement>("[data-question]")?.dataset.question ?? at;
  const writing = (act: (question: string) => void) => () => {
    const question = meant();
    if (editable && !naming && question) act(question);
  };
  function go(by: number) {
    const now = flat.findIndex(({ question }) => question.id === meant());
    const next = flat[Math.min(flat.length - 1, Math.max(0, now < 0 ? 0 : now + by))];
    if (next) focus(next.question.id);
  }
  useHotkeys([
    ["j", () => !naming && go(1)],
    ["k", () => !naming && go(-1)],
    ["n", () => editable && !naming && setPicking(true)],
    ["e", writing((question) => setOpen(open === question ? null : question))],
    [
      "alt+ArrowUp",
      writing((question) => edit({ kind: "move question", question, direction: "up" }, question)),
    ],
    [
      "alt+ArrowDown",
      writing((question) => edit({ kind: "move question", question, direction: "down" }, question)),
    ],
    ["alt+ArrowRight", writing((question) => edit({ kind: "branch question", question }, question))],
    ["alt+ArrowLeft", writing((question) => draft.change(reworkQuestion(question, { condition: null })))],
    ["Delete", writing((question) => edit({ kind: "remove question", question }, null))],
  ]);

  return (
    <section className="fsheet" aria-label="The form, question by question">
      {editable && (
        <div className="palette" role="toolbar" aria-label="Add a question">
          {QUESTION_KINDS.map(({ kind, name, icon: Icon }) => (
            <button key={kind} type="button" onClick={() => add(kind)} title={`Add: ${name}`}>
              <Icon size={16} aria-hidden="true" />
              {name}
            </button>
          ))}
        </div>
      )}
      {picking && <KindPicker onPick={add} onClose={() => setPicking(false)} />}
      <div ref={list}>
        {steps.map((step, i) => (
          <div
            key={step.id}
            className="fsection"
            data-chosen={step.id === section?.id || undefined}
            style={{ marginLeft: 22 * (plan.steps[i]?.depth ?? 0) }}
          >
            <SectionHead
              plan={plan}
              step={step}
              view={plan.steps[i]}
              draft={draft}
              editable={editable}
              naming={naming === step.id}
              onNamed={() => setNaming(null)}
              onChoose={() => {
                setAt(null);
                onChoose(step.id);
              }}
              edit={edit}
            />
            {step.questions.map((question) => (
              <div key={question.id}>
                <QuestionRow
                  question={question}
                  when={plan.steps[i]?.questions[question.id]}
                  depth={plan.steps[i]?.depths[question.id] ?? 0}
                  draft={draft}
                  editable={editable}
                  chosen={question.id === at}
                  open={open === question.id}
                  naming={naming === question.id}
                  onNamed={() => {
                    setNaming(null);
                    focus(question.id);
                  }}
                  onChoose={() => {
                    setAt(question.id);
                    onChoose(step.id);
                  }}
                  onOpen={() => setOpen(open === question.id ? null : question.id)}
                />
                {open === question.id && (
                  <div className="details fdetails">
                    <QuestionEditor
                      plan={plan}
                      step={step.id}
                      question={question}
                      draft={draft}
                      edit={(change) => edit(change, question.id)}
                    />
                  </div>
                )}
              </div>
            ))}
            {step.questions.length === 0 && (
              <p className="soft fempty">
                {editable ? "Choose a kind above, or press n." : "This section asks nothing."}
              </p>
            )}
          </div>
        ))}
      </div>
      {steps.length === 0 && <Empty title="The form has no sections yet">Begin with the first.</Empty>}
      {editable && (
        <div className="stem-add" style={{ paddingLeft: 0 }}>
          <Button variant="default" leftSection={<IconPlus size={15} />} onClick={addSection}>
            Section
          </Button>
        </div>
      )}
    </section>
  );
}

/** The kind of the next question, by typing: the first that fits is taken with Enter. */
function KindPicker({ onPick, onClose }: { onPick: (kind: QuestionKind) => void; onClose: () => void }) {
  const [text, setText] = useState("");
  const fit = QUESTION_KINDS.filter((k) => k.name.toLowerCase().includes(text.trim().toLowerCase()));
  return (
    <div className="kind-picker">
      <TextInput
        aria-label="Kind of the next question"
        placeholder="Kind, such as reading"
        autoFocus
        value={text}
        onChange={(e) => setText(e.currentTarget.value)}
        onBlur={onClose}
        onKeyDown={(e) => {
          if (e.key === "Escape") onClose();
          if (e.key === "Enter" && fit[0]) onPick(fit[0].kind);
          e.stopPropagation();
        }}
      />
      <span className="soft">{fit.map((k) => k.name).join(", ") || "There is no such kind."}</span>
    </div>
  );
}

function SectionHead({
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
  const set = <F extends keyof Step>(field: F, value: Step[F]) =>
    draft.change(setStep(step.id, field, value));
  const notes = [view?.when && `when ${view.when}`, view?.repeats].filter(Boolean).join(". ");
  return (
    <>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: a click beside its buttons chooses the section; keys reach the buttons. */}
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: as above. */}
      <div className="fsection-head" onClick={onChoose}>
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
        <fieldset className="details fdetails" disabled={!editable} style={{ border: 0, minWidth: 0 }}>
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

function QuestionRow({
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
  useEffect(() => {
    if (chosen) self.current?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  const Icon = QUESTION_KINDS.find((k) => k.kind === question.kind)?.icon;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a row that keys work on; a fieldset cannot be laid out as one.
    <div
      ref={self}
      className="fquestion"
      data-question={question.id}
      data-chosen={chosen || undefined}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: the row has the focus, so that keys change it.
      tabIndex={0}
      role="group"
      aria-label={`${kindName(question.kind)}: ${question.label || "without words"}`}
      style={{ paddingLeft: 10 + 26 * depth }}
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
