import { Button, Popover, Select, TextInput } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";
import { IconPlus } from "@tabler/icons-react";
import { useMemo, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { client, need } from "../api/client";
import {
  guidanceChanged,
  keys,
  useCache,
  useEvidence,
  useIncidentTypePage,
  useSharedDocuments,
} from "../api/queries";
import { mayWrite } from "../api/roles";
import type { IncidentTypePage, Person, PlanView } from "../api/types";
import { EditableText } from "../draft/EditableText";
import { ReleaseBar } from "../draft/ReleaseBar";
import { SheetHead } from "../draft/SheetHead";
import { useDiscard } from "../draft/use-discard";
import { setPlan, useDraft } from "../draft/use-draft";
import { DotRangeKey } from "../ui/DotRange";
import { placeOf } from "../ui/places";
import { Trouble } from "../ui/Trouble";
import { useAct } from "../ui/use-act";
import { AppliesWhenLine } from "./AppliesWhenLine";
import { ByTables } from "./ByTables";
import { FindReplace } from "./FindReplace";
import { OrderTerms } from "./OrderTerms";
import { PlanExtras } from "./PlanExtras";
import { PlanFacts } from "./PlanFacts";
import { PlanStem } from "./PlanStem";
import { useChosen } from "./use-chosen";
import { WorkMargin } from "./WorkMargin";

/** An incident type on one page: its plan as a stem, what the field made of it, preview, checks. */
export function IncidentTypeBench({ incident, person }: { incident: string; person: Person }) {
  const page = useIncidentTypePage(incident);
  if (page.error)
    return (
      <main className="sheet" id="sheet">
        <Trouble error={page.error} />
      </main>
    );
  if (!page.data) return <main className="sheet" id="sheet" aria-busy="true" />;
  return <Bench page={page.data} person={person} />;
}

function Bench({ page, person }: { page: IncidentTypePage; person: Person }) {
  const incident = page.incident_type;
  const [search, setSearch] = useSearchParams();
  const plan = page.plans.find((p) => p.document === search.get("plan")) ?? page.plans[0];
  const evidence = useEvidence(incident.document);
  const cache = useCache();
  const { act } = useAct(guidanceChanged);
  const keeper = useMemo(
    () => ({
      put: (view: PlanView) =>
        cache.setQueryData<IncidentTypePage>(
          keys.page(incident.document),
          (held) =>
            held && { ...held, plans: held.plans.map((p) => (p.document === view.document ? view : p)) },
        ),
      again: () => cache.refetchQueries({ queryKey: keys.page(incident.document) }),
    }),
    [cache, incident.document],
  );
  const draft = useDraft(plan, keeper);
  const writes = mayWrite(person);
  const editable = writes && plan?.state === "Draft";
  const [chosen, choose] = useChosen();

  useHotkeys([
    ["mod+z", () => editable && draft.undo()],
    ["mod+shift+z", () => editable && draft.redo()],
    ["p", () => document.getElementById("preview")?.focus()],
    ["c", () => document.getElementById("checks")?.focus()],
  ]);

  /** The title belongs to the incident type, which gets a draft of its own when it has none. */
  async function rename(title: string): Promise<true | undefined> {
    const saved = await act(() =>
      need(
        client.PATCH("/api/v1/documents/{document}/draft", {
          params: {
            path: { document: incident.document },
            query: { begin: true },
            header: { "if-match": incident.etag },
          },
          body: [{ op: "replace", path: "/title", value: title }],
        }),
      ),
    );
    return saved ? true : undefined;
  }

  const discard = useDiscard(plan ? [incident, plan] : [], {
    only: plan?.history.length === 1,
    all: "Throw this incident type and its plan away? Nothing of it was released.",
    home: "/author",
  });

  const sharing = (plan?.used_in ?? []).filter(
    (link) => link.document !== incident.document && link.kind !== "decision table",
  );

  return (
    <>
      <main className="sheet" id="sheet">
        <div className="inner">
          <SheetHead
            line={incident.document}
            plan={plan}
            title={incident.content.title}
            titleEditable={editable && incident.state !== "In review"}
            editable={editable}
            draft={draft}
            compareTo={`/refine/${incident.document}/${plan?.document}`}
            onRename={rename}
          >
            {plan && (
              <ReleaseBar
                document={incident.document}
                plan={plan}
                openStates={page.open_states}
                person={person}
                historyBase={`/refine/${incident.document}/${plan.document}`}
                discard={discard}
              />
            )}
          </SheetHead>
          {(page.plans.length > 1 || writes) && (
            <div className="plan-tabs">
              {page.plans.length > 1 &&
                page.plans.map((p) => (
                  <Button
                    key={p.document}
                    variant={p === plan ? "filled" : "default"}
                    color="slate"
                    onClick={() => setSearch({ plan: p.document })}
                  >
                    {p.content.title || p.document}
                  </Button>
                ))}
              {writes && <AddPlan incident={incident.document} used={page.plans} />}
            </div>
          )}
          {plan && (
            <>
              <div className="plan-summary">
                <EditableText
                  label="Summary of the plan"
                  placeholder="What the plan is for, in a sentence"
                  value={plan.content.summary}
                  editable={editable}
                  onSave={(value) => draft.change(setPlan("summary", value))}
                />
              </div>
              <AppliesWhenLine
                plan={plan}
                editable={editable}
                draft={draft}
                otherwise={
                  <ByTables
                    plan={plan}
                    otherwise="No row of a table names it, so it comes with every order of the incident type."
                  />
                }
              />
              {sharing.length > 0 && (
                <p className="soft near">
                  Shared with{" "}
                  {sharing.map((link, i) => (
                    <span key={link.document}>
                      {i > 0 && ", "}
                      <Link to={placeOf(link)}>{link.title}</Link>
                    </span>
                  ))}
                  : a change touches all of them.
                </p>
              )}
              <PlanFacts totals={plan.totals} evidence={evidence.data} />
              <OrderTerms view={incident} writes={writes} />
              {editable && <FindReplace plan={plan} draft={draft} onOpen={choose} />}
              <PlanStem
                plan={plan}
                evidence={evidence.data}
                draft={draft}
                editable={editable}
                chosen={chosen}
                onChoose={choose}
              />
              <PlanExtras plan={plan} draft={draft} editable={editable} />
              {(evidence.data?.n_jobs ?? 0) > 0 && (
                <div className="actions" style={{ justifyContent: "space-between" }}>
                  <DotRangeKey />
                  <Link to={`/refine/${incident.document}/guide`}>Fault guide</Link>
                  {plan.in_force && plan.in_force !== plan.letter && (
                    <Link to={`/refine/${incident.document}/${plan.document}/replay`}>
                      Replay the draft on past jobs
                    </Link>
                  )}
                  <Link to={`/review/${incident.document}`}>
                    What its {evidence.data?.n_jobs} finished jobs say
                  </Link>
                </div>
              )}
            </>
          )}
        </div>
      </main>
      {plan && (
        <WorkMargin
          plan={plan}
          problems={incident.problems}
          chosen={chosen}
          editable={editable}
          writes={writes}
          draft={draft}
          onChoose={choose}
        />
      )}
    </>
  );
}

/** One more plan for the incident type: one that is there already, or a new one. */
function AddPlan({ incident, used }: { incident: string; used: PlanView[] }) {
  const plans = (useSharedDocuments().data ?? []).filter(
    (row) => row.link.kind === "plan" && !used.some((p) => p.document === row.link.document),
  );
  const { act } = useAct(guidanceChanged);
  const [, setSearch] = useSearchParams();
  const [open, setOpen] = useState(false);
  const [plan, setPlanChosen] = useState<string | null>(null);
  const [title, setTitle] = useState("");

  async function add() {
    const made = await act(() =>
      need(
        client.POST("/api/v1/incident-types/{document}/plans", {
          params: { path: { document: incident } },
          body: { plan, title },
        }),
      ),
    );
    if (!made) return;
    setOpen(false);
    setSearch({ plan: made.id });
  }

  return (
    <Popover opened={open} onChange={setOpen} position="bottom-start" width={330} trapFocus>
      <Popover.Target>
        <Button
          variant="subtle"
          color="slate"
          size="compact-sm"
          leftSection={<IconPlus size={14} />}
          onClick={() => setOpen(!open)}
        >
          Another plan
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Select
          label="A plan that is written already"
          searchable
          clearable
          comboboxProps={{ withinPortal: false }}
          data={plans.map(({ link }) => ({ value: link.document, label: `${link.title}, ${link.document}` }))}
          value={plan}
          onChange={setPlanChosen}
        />
        <TextInput
          label="or a new one, by its title"
          mt={6}
          disabled={plan !== null}
          value={title}
          onChange={(e) => setTitle(e.currentTarget.value)}
        />
        <Button mt="xs" disabled={!plan && !title.trim()} onClick={add}>
          Use it
        </Button>
      </Popover.Dropdown>
    </Popover>
  );
}
