import { Button, Menu } from "@mantine/core";
import { notifications } from "@mantine/notifications";
import { useChoices, useSharedDocuments } from "../api/queries";
import type { PlanView, Step } from "../api/types";
import { count } from "../ui/format";

const KEY = "reedling-copied-steps";

interface Copied {
  source: string;
  steps: string[];
}

/** Keep steps to be put into this plan or another; they are read from where they stand when pasted. */
export function copySteps(plan: PlanView, steps: string[]) {
  const inOrder = plan.content.steps.map((s) => s.id).filter((id) => steps.includes(id));
  localStorage.setItem(KEY, JSON.stringify({ source: plan.document, steps: inOrder }));
  notifications.show({ message: `${count(inOrder.length, "step")} copied. Paste with Ctrl+V, in any plan.` });
}

export function copiedSteps(): Copied | null {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? "null") as Copied | null;
  } catch {
    return null;
  }
}

/** What can be done with the steps picked. */
export function SelectionBar({
  n,
  onMove,
  onCopy,
  onRemove,
  onClear,
}: {
  n: number;
  onMove: (phase: Step["phase"]) => void;
  onCopy: () => void;
  onRemove: () => void;
  onClear: () => void;
}) {
  const phases = useChoices().data?.phases ?? [];
  return (
    <div className="selection" role="toolbar" aria-label="Steps picked">
      <b>{count(n, "step")} picked</b>
      <Menu position="top-start">
        <Menu.Target>
          <Button variant="default">Move to a phase</Button>
        </Menu.Target>
        <Menu.Dropdown>
          {phases.map((phase) => (
            <Menu.Item key={phase} onClick={() => onMove(phase)}>
              {phase}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
      <Button variant="default" onClick={onCopy}>
        Copy
      </Button>
      <Button variant="default" onClick={onRemove}>
        Remove
      </Button>
      <Button variant="subtle" color="slate" onClick={onClear}>
        None
      </Button>
    </div>
  );
}

/** Reuse what is written already: a standard step, a form, or steps copied elsewhere. */
export function UseMenu({
  onUse,
  onPaste,
}: {
  onUse: (document: string, what: "standard" | "form", text: string) => void;
  onPaste: () => void;
}) {
  const shared = useSharedDocuments().data ?? [];
  const standards = shared.filter((row) => row.link.kind === "standard step");
  const forms = shared.filter((row) => row.link.kind === "form");
  const held = copiedSteps();
  return (
    <Menu position="top-start" width={300}>
      <Menu.Target>
        <Button variant="default">Reuse</Button>
      </Menu.Target>
      <Menu.Dropdown mah={380} style={{ overflowY: "auto" }}>
        {held && (
          <Menu.Item onClick={onPaste}>
            Paste {count(held.steps.length, "step")} from {held.source}
          </Menu.Item>
        )}
        <Menu.Label>Standard steps</Menu.Label>
        {standards.map(({ link }) => (
          <Menu.Item key={link.document} onClick={() => onUse(link.document, "standard", "")}>
            {link.title}
          </Menu.Item>
        ))}
        {standards.length === 0 && <Menu.Item disabled>None is written yet</Menu.Item>}
        <Menu.Label>A step that fills in a form</Menu.Label>
        {forms.map(({ link }) => (
          <Menu.Item
            key={link.document}
            onClick={() => onUse(link.document, "form", `Fill in ${link.title}`)}
          >
            {link.title}
          </Menu.Item>
        ))}
        {forms.length === 0 && <Menu.Item disabled>None is written yet</Menu.Item>}
      </Menu.Dropdown>
    </Menu>
  );
}
