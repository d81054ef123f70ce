import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  PointerSensor,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import { SortableContext, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { Button, Popover, Textarea } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";
import { IconPlus } from "@tabler/icons-react";
import { useEffect, useRef, useState } from "react";
import { useChoices } from "../api/queries";
import type { Evidence, PlanEdit, PlanView, Step } from "../api/types";
import type { Draft } from "../draft/use-draft";
import { Empty } from "../ui/Empty";
import { useFocusAtOnce, watchFocus } from "../ui/focus";
import { copiedSteps, copySteps, SelectionBar, UseMenu } from "./SelectionBar";
import { StemRow } from "./StemRow";
import { StepDetails } from "./StepDetails";
import "./stem.css";

/** The plan as a stem: phases down the left, branches as offshoots, planned and taken beside. */
export function PlanStem({
  plan,
  evidence,
  draft,
  editable,
  chosen,
  onChoose,
}: {
  plan: PlanView;
  evidence: Evidence | undefined;
  draft: Draft;
  editable: boolean;
  chosen: string | null;
  onChoose: (step: string | null) => void;
}) {
  const phases = useChoices().data?.phases ?? [];
  const steps = plan.content.steps;
  const [naming, setNaming] = useState<string | null>(null);
  const [open, setOpen] = useState<string | null>(null);
  const [picked, setPicked] = useState<string[]>([]);
  const list = useRef<HTMLDivElement>(null);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
  const found = new Map(
    (evidence?.steps ?? []).filter((r) => r.document === plan.document).map((r) => [r.step, r.evidence]),
  );
  const top = Math.max(
    20,
    ...steps.map((s) => Math.max(s.minutes.likely, found.get(s.id)?.taken?.high_quartile ?? 0)),
  );
  const scale = Math.ceil(top / 15) * 15;
  const here = steps.findIndex((s) => s.id === chosen);

  useEffect(() => {
    if (chosen)
      list.current
        ?.querySelector(`[data-step="${CSS.escape(chosen)}"]`)
        ?.scrollIntoView({ block: "nearest" });
  }, [chosen]);

  function go(by: number) {
    const at = steps.findIndex((s) => s.id === meant());
    const next = steps[Math.min(steps.length - 1, Math.max(0, at < 0 ? 0 : at + by))];
    if (next) focusStep(next.id);
  }

  const focusRow = useFocusAtOnce((id) =>
    list.current?.querySelector<HTMLElement>(`[data-step="${CSS.escape(id)}"]`),
  );
  function focusStep(id: string) {
    focusRow(id);
    onChoose(id);
  }

  async function edit(change: PlanEdit, keep: string | null = chosen) {
    const stayed = watchFocus();
    await draft.change({ edit: change });
    // Whoever has gone on to another step or field meanwhile stays there.
    if (keep && stayed()) focusStep(keep);
  }

  async function pasteSteps(after: string | null) {
    const held = copiedSteps();
    if (held) await edit({ kind: "copy steps", ...held, after }, after);
  }

  async function use(document: string, what: "standard" | "form", text: string) {
    const phase = chosen ? null : what === "form" ? "Prove" : "Diagnose";
    await edit({ kind: "use document", document, what, text, after: chosen, phase });
  }

  async function add(after: string | null, phase?: Step["phase"]) {
    const before = new Set(steps.map((s) => s.id));
    const stayed = watchFocus();
    const saved = await draft.change({ edit: { kind: "add step", text: "", after, phase: phase ?? null } });
    const made = saved?.plan?.content.steps.find((s) => !before.has(s.id));
    if (made && stayed()) {
      onChoose(made.id);
      setNaming(made.id);
    }
  }

  async function remove(step: string) {
    const at = steps.findIndex((s) => s.id === step);
    const next = steps[at + 1] ?? steps[at - 1];
    await edit({ kind: "remove step", step }, next?.id ?? null);
  }

  function dropped(event: DragEndEvent) {
    const moved = String(event.active.id);
    const over = event.over ? String(event.over.id) : null;
    if (!over || over === moved) return;
    const from = steps.findIndex((s) => s.id === moved);
    const to = steps.findIndex((s) => s.id === over);
    const target = steps[to];
    if (!target) return;
    const after = from < to;
    const before = after
      ? steps.slice(to + 1).find((s) => s.under === null && s.phase === target.phase)
      : target;
    const root = before && rootOf(before, steps);
    void edit({ kind: "place step", step: moved, phase: target.phase, before: root?.id ?? null }, moved);
  }

  const pick = (step: string) =>
    setPicked((all) => (all.includes(step) ? all.filter((s) => s !== step) : [...all, step]));
  const still = picked.filter((id) => steps.some((s) => s.id === id));

  /** The step a key is meant for: the one that has the focus, else the one chosen. */
  const meant = () =>
    document.activeElement?.closest<HTMLElement>("[data-step]")?.dataset.step ?? chosen ?? undefined;
  const writing = (act: (step: string) => void) => () => {
    const step = meant();
    if (editable && !naming && step) act(step);
  };
  useHotkeys([
    ["j", () => !naming && go(1)],
    ["k", () => !naming && go(-1)],
    ["n", () => editable && !naming && add(meant() ?? null)],
    ["e", writing((step) => setOpen(open === step ? null : step))],
    ["alt+ArrowUp", writing((step) => edit({ kind: "move step", step, direction: "up" }, step))],
    ["alt+ArrowDown", writing((step) => edit({ kind: "move step", step, direction: "down" }, step))],
    ["alt+ArrowRight", writing((step) => edit({ kind: "branch step", step }, step))],
    ["alt+ArrowLeft", writing((step) => edit({ kind: "unbranch step", step }, step))],
    ["x", writing(pick)],
    ["Escape", () => setPicked([])],
    [
      "Delete",
      writing((step) =>
        still.length > 0 ? edit({ kind: "remove steps", steps: still }, null) : remove(step),
      ),
    ],
    ["mod+c", writing((step) => copySteps(plan, still.length > 0 ? still : [step]))],
    ["mod+v", writing((step) => pasteSteps(step))],
  ]);

  if (steps.length === 0)
    return (
      <Empty title="The plan has no steps yet">
        <p>Begin with what the technician does on arrival. Press n for the next step below.</p>
        {editable && (
          <div className="actions" style={{ justifyContent: "center" }}>
            <Button leftSection={<IconPlus size={15} />} onClick={() => add(null, "Arrive")}>
              First step
            </Button>
            <PasteLines onAdd={(text) => edit({ kind: "add lines", text, after: null, phase: "Diagnose" })} />
            <UseMenu onUse={use} onPaste={() => pasteSteps(null)} />
          </div>
        )}
      </Empty>
    );

  return (
    <section className="stem" aria-label="The plan, step by step">
      <div className="stem-head" aria-hidden="true">
        <span />
        <span />
        <span>Step</span>
        <span className="num">Plan</span>
        <span className="stem-plot">Field, 0–{scale} min</span>
      </div>
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={dropped}>
        <SortableContext items={steps.map((s) => s.id)} strategy={verticalListSortingStrategy}>
          <div ref={list}>
            {steps.map((step, i) => (
              <div key={step.id}>
                <StemRow
                  step={step}
                  view={plan.steps[i]}
                  first={steps[i - 1]?.phase !== step.phase}
                  last={i === steps.length - 1}
                  evidence={found.get(step.id)}
                  scale={scale}
                  editable={editable}
                  chosen={step.id === chosen}
                  picked={still.includes(step.id)}
                  open={open === step.id}
                  naming={naming === step.id}
                  onChoose={() => onChoose(step.id)}
                  onPick={() => editable && pick(step.id)}
                  onOpen={() => {
                    onChoose(step.id);
                    setOpen(open === step.id ? null : step.id);
                  }}
                  onNamed={() => setNaming(null)}
                  draft={draft}
                />
                {open === step.id && (
                  <StepDetails
                    plan={plan}
                    step={step}
                    editable={editable}
                    draft={draft}
                    edit={edit}
                    onAdd={() => add(step.id)}
                    onRemove={() => remove(step.id)}
                    onClose={() => setOpen(null)}
                  />
                )}
              </div>
            ))}
          </div>
        </SortableContext>
      </DndContext>
      {editable && still.length > 0 && (
        <SelectionBar
          n={still.length}
          onMove={(phase) => edit({ kind: "place steps", steps: still, phase, before: null }, null)}
          onCopy={() => copySteps(plan, still)}
          onRemove={() => edit({ kind: "remove steps", steps: still }, null)}
          onClear={() => setPicked([])}
        />
      )}
      {editable && plan.kind === "plan" && (
        <div className="stem-add">
          <Button variant="default" leftSection={<IconPlus size={15} />} onClick={() => add(chosen)}>
            {here >= 0
              ? `Step below “${steps[here]?.text.slice(0, 34) || "this one"}”`
              : "Step at the end of Diagnose"}
          </Button>
          <PasteLines
            onAdd={(text) =>
              edit({ kind: "add lines", text, after: chosen, phase: chosen ? null : "Diagnose" })
            }
          />
          <UseMenu onUse={use} onPaste={() => pasteSteps(chosen)} />
          {phases
            .filter((phase) => !steps.some((s) => s.phase === phase))
            .map((phase) => (
              <Button key={phase} variant="subtle" color="slate" onClick={() => add(null, phase)}>
                First step of {phase}
              </Button>
            ))}
        </div>
      )}
    </section>
  );
}

/** A list from elsewhere becomes steps, a line each. */
function PasteLines({ onAdd }: { onAdd: (text: string) => void }) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  return (
    <Popover opened={open} onChange={setOpen} position="top-start" width={380} trapFocus>
      <Popover.Target>
        <Button variant="default" onClick={() => setOpen(!open)}>
          Paste lines
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Textarea
          label="One step a line; numbers and bullets are dropped"
          autosize
          minRows={5}
          maxRows={14}
          value={text}
          onChange={(e) => setText(e.currentTarget.value)}
        />
        <Button
          mt="xs"
          disabled={!text.trim()}
          onClick={() => {
            setOpen(false);
            onAdd(text);
            setText("");
          }}
        >
          Add as steps
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}

function rootOf(step: Step, steps: Step[]): Step {
  let at = step;
  for (let above = step.under; above; above = at.under) {
    const next = steps.find((s) => s.id === above);
    if (!next) break;
    at = next;
  }
  return at;
}
