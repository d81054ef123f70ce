import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  PointerSensor,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import { SortableContext, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { Button, TextInput } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";
import { IconPlus } from "@tabler/icons-react";
import { useRef, useState } from "react";
import type { PlanEdit, PlanView, QuestionKind } from "../api/types";
import { type Draft, reworkQuestion } from "../draft/use-draft";
import { Empty } from "../ui/Empty";
import { useFocusAtOnce, watchFocus } from "../ui/focus";
import { QUESTION_KINDS } from "../ui/questions";
import { FormQuestionRow } from "./FormQuestionRow";
import { FormSectionHead, sectionId } from "./FormSectionHead";
import { QuestionEditor } from "./QuestionEditor";
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
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
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

  function dropped({ active, over }: DragEndEvent) {
    if (!over || over.id === active.id) return;
    const question = String(active.id);
    const onto = steps.find((step) => sectionId(step.id) === over.id);
    if (onto) {
      const before = onto.questions.find((q) => q.id !== question)?.id ?? null;
      void edit({ kind: "place question", question, step: onto.id, before }, question);
      return;
    }
    const places = flat.map((one) => one.question.id);
    const target = flat.find((one) => one.question.id === over.id);
    if (!target) return;
    const { questions } = target.step;
    // Drawn downwards it comes to stand below the row it is dropped on, upwards above it.
    const isBelow = places.indexOf(question) < places.indexOf(target.question.id);
    const next = questions[questions.findIndex((q) => q.id === target.question.id) + 1];
    const before = isBelow ? (next?.id ?? null) : target.question.id;
    void edit({ kind: "place question", question, step: target.step.id, before }, question);
  }

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
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
        <SortableContext items={flat.map((one) => one.question.id)} strategy={verticalListSortingStrategy}>
          <div ref={list}>
            {steps.map((step, i) => (
              <div
                key={step.id}
                className="fsection"
                data-chosen={step.id === section?.id || undefined}
                style={{ marginLeft: 22 * (plan.steps[i]?.depth ?? 0) }}
              >
                <FormSectionHead
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
                    <FormQuestionRow
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
        </SortableContext>
      </DndContext>
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
