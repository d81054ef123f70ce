import { Button, Select } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";
import { notifications } from "@mantine/notifications";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { v4 as newId } from "uuid";
import { client, need } from "../api/client";
import { guidanceChanged, keys, useCache, useCatalogue } from "../api/queries";
import { mayWrite } from "../api/roles";
import type { GuideView, Person } from "../api/types";
import { useChange } from "../api/use-change";
import { EditableText } from "../draft/EditableText";
import { ReleaseBar } from "../draft/ReleaseBar";
import { SheetHead } from "../draft/SheetHead";
import { SavedNumber } from "../draft/saved-fields";
import { useDiscard } from "../draft/use-discard";
import { setPlan, useDraft } from "../draft/use-draft";
import { Trouble } from "../ui/Trouble";
import { tellRefusal } from "../ui/use-act";
import { useAddress } from "../ui/use-address";
import { WaitingSheet } from "../ui/WaitingSheet";
import { GuideChecks } from "./GuideChecks";
import { GuideSheet } from "./GuideSheet";
import { addEntry, type GuideChange } from "./guide-patches";
import { OrderOfWork } from "./OrderOfWork";
import { OrderTree } from "./OrderTree";
import { TurningPoints } from "./TurningPoints";
import "./guide.css";

/** What holds for the whole guide. */
const TERMS = [
  { field: "weight", label: "The typed figures count for", unit: "jobs", usual: 5 },
  { field: "prove_minutes", label: "Proving after a remedy takes", unit: "min", usual: 10 },
  { field: "last_resort_minutes", label: "Sending for a specialist costs", unit: "min", usual: 240 },
] as const;

/** A fault guide: the sheet of causes, checks and remedies, and the order of work that follows. */
export function GuideBench({ person }: { person: Person }) {
  const { document = "" } = useParams();
  const found = useQuery({
    queryKey: keys.guide(document),
    queryFn: () => need(client.GET("/api/v1/documents/{document}/guide", { params: { path: { document } } })),
  });
  if (!found.data) return <WaitingSheet error={found.error} />;
  return <Bench key={document} view={found.data} person={person} />;
}

function Bench({ view, person }: { view: GuideView; person: Person }) {
  const cache = useCache();
  const [search, , putAll] = useAddress();
  const yes = search.get("yes")?.split("|").filter(Boolean) ?? [];
  const no = search.get("no")?.split("|").filter(Boolean) ?? [];
  const keeper = useMemo(
    () => ({
      put: (next: GuideView) => cache.setQueryData(keys.guide(view.document), next),
      again: () => cache.refetchQueries({ queryKey: keys.guide(view.document) }),
    }),
    [cache, view.document],
  );
  const draft = useDraft<GuideView>(view, keeper);
  const writes = mayWrite(person);
  const editable = writes && view.state === "Draft";
  const isOpen = view.state === "Draft" || view.state === "In review";
  const figures = useQuery({
    queryKey: [...keys.guide(view.document), "figures", view.etag, yes, no],
    queryFn: () =>
      need(
        client.GET("/api/v1/documents/{document}/guide/figures", {
          params: { path: { document: view.document }, query: { yes, no } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const change = (made: GuideChange) => draft.change(made);

  useHotkeys([
    ["mod+z", () => editable && draft.undo()],
    ["mod+shift+z", () => editable && draft.redo()],
    ["c", () => document.getElementById("checks")?.focus()],
  ]);

  function say(check: string, value: boolean | null) {
    const without = (list: string[]) => list.filter((id) => id !== check);
    const next = { yes: without(yes), no: without(no) };
    if (value === true) next.yes.push(check);
    if (value === false) next.no.push(check);
    putAll({ yes: next.yes.join("|") || null, no: next.no.join("|") || null });
  }

  const discard = useDiscard([view], {
    only: view.history.length === 1,
    all: "Throw this fault guide away? Nothing of it was released.",
    home: "/refine",
  });
  const guide = view.content;
  // As the figures have it, which may be a moment behind what was pressed.
  const said = figures.data?.checks.filter((check) => check.said !== null).length ?? 0;
  return (
    <div className="bench no-shelf">
      <main className="sheet" id="sheet">
        <div className="inner">
          <SheetHead
            line="fault guide"
            plan={view}
            title={guide.title}
            titleEditable={editable}
            editable={editable}
            draft={draft}
            compareTo={`/refine/documents/${view.document}`}
            onRename={(title) => draft.change(setPlan("title", title))}
          >
            <ReleaseBar
              document={view.document}
              plan={view}
              openStates={isOpen ? [view.state] : []}
              person={person}
              historyBase={`/refine/documents/${view.document}`}
              discard={discard}
            />
          </SheetHead>
          <div className="plan-summary">
            <EditableText
              label="Summary"
              placeholder="What to know before using it, in a sentence"
              value={guide.summary ?? ""}
              editable={editable}
              onSave={(value) => draft.change(setPlan("summary", value))}
            />
          </div>
          {isOpen && view.in_force && (
            <p>
              <Link to={`/refine/replays/${view.document}`}>Replay the draft on past jobs</Link>
            </p>
          )}
          <p className="soft">
            For orders of <Link to={`/author/${guide.incident_type}`}>{guide.incident_type}</Link>. Figures
            are in percent; under each stands what closed jobs make of it, and of how many.{" "}
            {editable && "A sheet of figures may be pasted into a cell."}
          </p>
          <GuideSheet view={view} figures={figures.data} editable={editable} change={change} onSay={say} />
          {editable && <AddEntries view={view} change={change} />}
          {figures.data && <OrderTree work={figures.data.work} />}
          <div className="guide-terms">
            {TERMS.map(({ field, label, unit, usual }) => (
              <Term
                key={field}
                label={label}
                unit={unit}
                value={guide[field] ?? usual}
                editable={editable}
                onSave={(value) => draft.change(setPlan(field, value))}
              />
            ))}
          </div>
        </div>
      </main>
      <aside className="margin" aria-label="Order of work and checks">
        {figures.data ? (
          <>
            <OrderOfWork
              work={figures.data.work}
              said={said}
              onForget={() => putAll({ yes: null, no: null })}
            />
            <TurningPoints document={view.document} etag={view.etag} />
            {writes && <PutInDraft document={view.document} incident={guide.incident_type ?? ""} />}
          </>
        ) : (
          <section aria-label="Order of work">
            <h2>Order of work</h2>
            <Trouble error={figures.error} />
            <p className="soft" role="status">
              {figures.isPending
                ? "Working it out."
                : "With two causes and a chance above 0 it is worked out here."}
            </p>
          </section>
        )}
        <GuideChecks problems={view.problems} state={view.state} />
      </aside>
    </div>
  );
}

/** Put the best order of checks in the draft of their plan, and go there. */
function PutInDraft({ document, incident }: { document: string; incident: string }) {
  const cache = useCache();
  const navigate = useNavigate();
  const put = useChange(
    () =>
      need(
        client.POST("/api/v1/documents/{document}/guide/order-in-draft", { params: { path: { document } } }),
      ),
    [],
  );
  return (
    <div className="actions">
      <Button
        loading={put.isPending}
        onClick={() =>
          put.mutate(undefined, {
            onSuccess: (done) => {
              guidanceChanged(cache);
              notifications.show({
                message:
                  done.n_moved > 0
                    ? `The checks stand in this order in ${done.document} ${done.letter}.`
                    : `${done.document} ${done.letter} has this order already.`,
              });
              void navigate(`/author/${incident}?plan=${done.document}`);
            },
            onError: tellRefusal,
          })
        }
      >
        Put this order in the draft
      </Button>
    </div>
  );
}

function Term({
  label,
  unit,
  value,
  editable,
  onSave,
}: {
  label: string;
  unit: string;
  value: number;
  editable: boolean;
  onSave: (value: number) => unknown;
}) {
  return (
    <span className="guide-term">
      {label}{" "}
      {editable ? (
        <SavedNumber
          label={label}
          shown={false}
          width={80}
          value={value}
          onSave={(now) => onSave(now ?? value)}
        />
      ) : (
        <b>{value}</b>
      )}{" "}
      {unit}
    </span>
  );
}

/** One more cause, check or remedy. */
function AddEntries({ view, change }: { view: GuideView; change: (change: GuideChange) => unknown }) {
  const lists = useCatalogue().data;
  const guide = view.content;
  const causes = new Set(guide.causes.map((c) => c.cause));
  const looks = new Set(guide.checks.map((c) => c.look));
  const id = (kind: string) => `${kind}-${newId().slice(0, 8)}`;
  return (
    <div className="guide-add">
      <Select
        aria-label="Add a cause"
        placeholder="Add a cause"
        searchable
        data={(lists?.causes ?? [])
          .filter((c) => !causes.has(c.code))
          .map((c) => ({ value: c.code, label: c.label }))}
        value={null}
        onChange={(cause) => cause && change(addEntry("causes", { cause, chance: 0.1 }))}
      />
      <Select
        aria-label="Add a check"
        placeholder="Add a check"
        searchable
        data={[
          { value: "own", label: "In your own words, linked to no plan" },
          ...view.looks
            .filter((look) => !looks.has(look.link))
            .map((look) => ({ value: look.link, label: `${look.words}, ${look.link.split(":")[0]}` })),
        ]}
        value={null}
        onChange={(look) =>
          look &&
          change(
            addEntry(
              "checks",
              look === "own" ? { id: id("k"), label: "Look at something" } : { id: id("k"), look },
            ),
          )
        }
      />
      <Select
        aria-label="Add a remedy"
        placeholder="Add a remedy"
        searchable
        data={(lists?.remedies ?? []).map((r) => ({ value: r.code, label: r.label }))}
        value={null}
        onChange={(remedy) => remedy && change(addEntry("remedies", { id: id("r"), remedy }))}
      />
    </div>
  );
}
