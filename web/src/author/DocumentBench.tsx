import { useHotkeys } from "@mantine/hooks";
import { useMemo } from "react";
import { Link } from "react-router";
import { keys, useCache, usePlanDocument } from "../api/queries";
import { mayWrite } from "../api/roles";
import type { Person, PlanView } from "../api/types";
import { EditableText } from "../draft/EditableText";
import { ReleaseBar } from "../draft/ReleaseBar";
import { SheetHead } from "../draft/SheetHead";
import { useDiscard } from "../draft/use-discard";
import { setPlan, useDraft } from "../draft/use-draft";
import { placeOf } from "../ui/places";
import { Trouble } from "../ui/Trouble";
import { AppliesWhenLine } from "./AppliesWhenLine";
import { ByTables } from "./ByTables";
import { FindReplace } from "./FindReplace";
import { FormSheet } from "./FormSheet";
import { PlanExtras } from "./PlanExtras";
import { PlanFacts } from "./PlanFacts";
import { PlanStem } from "./PlanStem";
import { useChosen } from "./use-chosen";
import { WorkMargin } from "./WorkMargin";

/** A form, standard step or plan by itself: what it says, where it is used, preview and checks. */
export function DocumentBench({ document, person }: { document: string; person: Person }) {
  const found = usePlanDocument(document);
  if (found.error)
    return (
      <main className="sheet" id="sheet">
        <Trouble error={found.error} />
      </main>
    );
  if (!found.data) return <main className="sheet" id="sheet" aria-busy="true" />;
  return <Bench plan={found.data} person={person} />;
}

function Bench({ plan, person }: { plan: PlanView; person: Person }) {
  const cache = useCache();
  const keeper = useMemo(
    () => ({
      put: (view: PlanView) => cache.setQueryData<PlanView>(keys.document(plan.document), view),
      again: () => cache.refetchQueries({ queryKey: keys.document(plan.document) }),
    }),
    [cache, plan.document],
  );
  const draft = useDraft(plan, keeper);
  const writes = mayWrite(person);
  const editable = writes && plan.state === "Draft";
  const [chosen, choose] = useChosen();

  useHotkeys([
    ["mod+z", () => editable && draft.undo()],
    ["mod+shift+z", () => editable && draft.redo()],
    ["p", () => window.document.getElementById("preview")?.focus()],
    ["c", () => window.document.getElementById("checks")?.focus()],
  ]);

  const discard = useDiscard([plan], {
    only: plan.history.length === 1,
    all: `Throw this ${plan.kind} away? Nothing of it was released.`,
    home: "/author",
  });

  const openState = plan.state === "Draft" || plan.state === "In review" ? [plan.state] : [];
  return (
    <>
      <main className="sheet" id="sheet">
        <div className="inner">
          <SheetHead
            line={plan.kind}
            plan={plan}
            title={plan.content.title}
            titleEditable={editable}
            editable={editable}
            draft={draft}
            compareTo={`/refine/documents/${plan.document}`}
            onRename={(title) => draft.change(setPlan("title", title))}
          >
            <ReleaseBar
              document={plan.document}
              plan={plan}
              openStates={openState}
              person={person}
              historyBase={`/refine/documents/${plan.document}`}
              discard={discard}
            />
          </SheetHead>
          <div className="plan-summary">
            <EditableText
              label="Summary"
              placeholder={`What the ${plan.kind} is for, in a sentence`}
              value={plan.content.summary}
              editable={editable}
              onSave={(value) => draft.change(setPlan("summary", value))}
            />
          </div>
          {plan.kind === "form" && (
            <AppliesWhenLine
              plan={plan}
              editable={editable}
              draft={draft}
              otherwise={
                <ByTables
                  plan={plan}
                  otherwise="Comes with the plans and steps that name it, and with no asset by itself."
                />
              }
            />
          )}
          <UsedIn plan={plan} />
          <PlanFacts totals={plan.totals} evidence={undefined} />
          {editable && <FindReplace plan={plan} draft={draft} onOpen={choose} />}
          {plan.kind === "form" ? (
            <FormSheet plan={plan} draft={draft} editable={editable} chosen={chosen} onChoose={choose} />
          ) : (
            <PlanStem
              plan={plan}
              evidence={undefined}
              draft={draft}
              editable={editable}
              chosen={chosen}
              onChoose={choose}
            />
          )}
          <PlanExtras plan={plan} draft={draft} editable={editable} />
          {plan.in_force && plan.in_force !== plan.letter && (
            <p>
              <Link to={`/refine/replays/${plan.document}`}>Replay the draft on past jobs</Link>
            </p>
          )}
        </div>
      </main>
      <WorkMargin
        plan={plan}
        chosen={chosen}
        editable={editable}
        writes={writes}
        draft={draft}
        onChoose={choose}
      />
    </>
  );
}

/** Where a document is used, so that one knows what a change touches before making it. */
function UsedIn({ plan }: { plan: PlanView }) {
  const users = plan.used_in.filter((link) => link.kind !== "decision table");
  if (plan.used_in.length === 0) return <p className="soft near">Used nowhere yet.</p>;
  if (users.length === 0) return plan.kind === "form" ? null : <PutOn plan={plan} />;
  return (
    <p className="soft near">
      Used in{" "}
      {users.map((link, i) => (
        <span key={link.document}>
          {i > 0 && ", "}
          <Link to={placeOf(link)}>{link.title}</Link>
        </span>
      ))}
      : a change touches {users.length === 1 ? "it" : `all ${users.length}`} once it is released.
      {plan.kind !== "form" && (
        <>
          {" "}
          <ByTables plan={plan} otherwise="" />
        </>
      )}
    </p>
  );
}

function PutOn({ plan }: { plan: PlanView }) {
  return (
    <p className="soft near">
      <ByTables plan={plan} otherwise="" />
    </p>
  );
}
