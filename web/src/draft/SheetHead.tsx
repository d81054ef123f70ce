import { Button } from "@mantine/core";
import { IconArrowBackUp, IconArrowForwardUp } from "@tabler/icons-react";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { count, dayTime } from "../ui/format";
import { EditableText } from "./EditableText";
import type { RevisionHead } from "./revision-head";
import type { Draft } from "./use-draft";

const WORDS_OF_STATE: Record<RevisionHead["state"], string> = {
  Draft: "draft, last changed",
  "In review": "in review since",
  "On trial": "on trial since",
  Released: "released",
  Superseded: "superseded",
  Withdrawn: "withdrawn",
};

/** The head of a sheet that is written on: what it is, its title, undo, and what may be done with it. */
export function SheetHead({
  line,
  plan,
  title,
  titleEditable,
  editable,
  draft,
  compareTo,
  onRename,
  children,
}: {
  line: string;
  plan: RevisionHead | undefined;
  title: string;
  titleEditable: boolean;
  editable: boolean;
  draft: Pick<Draft, "saving" | "canUndo" | "canRedo" | "undo" | "redo" | "clash" | "leftOver">;
  compareTo: string;
  onRename: (title: string) => unknown;
  children: ReactNode;
}) {
  return (
    <>
      <div className="sheet-line">
        <span className="mono soft">
          {line}
          {plan && (
            <>
              {" · "}
              {plan.document} revision {plan.letter}, {WORDS_OF_STATE[plan.state]} {dayTime(plan.changed_at)}
            </>
          )}
        </span>
        {editable && (
          <span className="saving" role="status" data-state={draft.saving.state}>
            {draft.saving.words}
          </span>
        )}
      </div>
      <div className="head">
        <h1>
          <EditableText label="Title" value={title} editable={titleEditable} onSave={onRename} />
        </h1>
        <div className="actions">
          {editable && (
            <>
              <Button
                variant="default"
                px={8}
                aria-label="Undo"
                title="Undo, Ctrl+Z"
                disabled={!draft.canUndo}
                onClick={draft.undo}
              >
                <IconArrowBackUp size={17} />
              </Button>
              <Button
                variant="default"
                px={8}
                aria-label="Redo"
                title="Redo, Ctrl+Shift+Z"
                disabled={!draft.canRedo}
                onClick={draft.redo}
              >
                <IconArrowForwardUp size={17} />
              </Button>
            </>
          )}
          {plan?.in_force && plan.in_force !== plan.letter && (
            <Button
              variant="default"
              component={Link}
              to={`${compareTo}?older=${plan.in_force}&newer=${plan.letter}`}
            >
              Compare with {plan.in_force}
            </Button>
          )}
          {children}
        </div>
      </div>
      {draft.clash && (
        <div className="note bad" role="alert">
          <p className="flush">{draft.clash.message}</p>
          <div className="actions">
            <Button onClick={draft.clash.again}>Make my change again</Button>
            <Button variant="default" onClick={draft.clash.drop}>
              Keep theirs
            </Button>
          </div>
        </div>
      )}
      {editable && draft.leftOver && (
        <div className="note bad" role="alert">
          <p className="flush">
            {count(draft.leftOver.n, "change")} made here earlier {draft.leftOver.n === 1 ? "was" : "were"}{" "}
            never saved: {draft.leftOver.words}.
          </p>
          <div className="actions">
            <Button onClick={draft.leftOver.again}>Make {draft.leftOver.n === 1 ? "it" : "them"} now</Button>
            <Button variant="default" onClick={draft.leftOver.drop}>
              Let {draft.leftOver.n === 1 ? "it" : "them"} go
            </Button>
          </div>
        </div>
      )}
      {plan?.note && plan.state !== "Released" && (
        <div className="note">
          {plan.state === "Draft" ? "Given back: " : "Sent with: "}
          {plan.note}
        </div>
      )}
    </>
  );
}
