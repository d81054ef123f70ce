import { Button } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";
import { notifications } from "@mantine/notifications";
import { IconArrowBackUp, IconArrowForwardUp } from "@tabler/icons-react";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { client, need } from "../api/client";
import { guidanceChanged, useCache, useEvidence, useIncidentTypePage } from "../api/queries";
import type { Answers, IncidentTypePage, Person } from "../api/types";
import { DotRangeKey } from "../ui/DotRange";
import { dayTime } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import { AppliesWhenLine } from "./AppliesWhenLine";
import { ChecksPane } from "./ChecksPane";
import { EditableText } from "./EditableText";
import { PlanFacts } from "./PlanFacts";
import { PlanStem } from "./PlanStem";
import { PreviewPane } from "./PreviewPane";
import { ReleaseBar } from "./ReleaseBar";
import { setPlan, useDraft } from "./use-draft";

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
  const draft = useDraft(incident.document, plan);
  const cache = useCache();
  const navigate = useNavigate();
  const writes = person.role === "engineer" || person.role === "approver";
  const editable = writes && plan?.state === "Draft";
  const [preview, setPreview] = useState(0);
  const [witness, setWitness] = useState<Answers>({});
  const chosen = search.get("step");
  const choose = (step: string | null) =>
    setSearch(
      (before) => {
        const next = new URLSearchParams(before);
        if (step) next.set("step", step);
        else next.delete("step");
        return next;
      },
      { replace: true },
    );

  useHotkeys([
    ["mod+z", () => editable && draft.undo()],
    ["mod+shift+z", () => editable && draft.redo()],
    ["p", () => document.getElementById("preview")?.focus()],
    ["c", () => document.getElementById("checks")?.focus()],
  ]);

  /** The title belongs to the incident type, which gets a draft of its own when it has none. */
  async function rename(title: string) {
    const at = { params: { path: { document: incident.document } } };
    try {
      let { etag } = incident;
      if (incident.state !== "Draft") {
        await need(client.POST("/api/documents/{document}/draft", at));
        etag = (await need(client.GET("/api/incident-types/{document}", at))).incident_type.etag;
      }
      await need(
        client.PATCH("/api/documents/{document}/draft", {
          params: { path: { document: incident.document }, header: { "if-match": etag } },
          body: [{ op: "replace", path: "/title", value: title }],
        }),
      );
    } catch (error) {
      notifications.show({ color: "bad", message: (error as Error).message });
    }
    guidanceChanged(cache);
  }

  async function begin() {
    if (!plan) return;
    try {
      await need(
        client.POST("/api/documents/{document}/draft", { params: { path: { document: plan.document } } }),
      );
    } catch (error) {
      notifications.show({ color: "bad", message: (error as Error).message });
    }
    guidanceChanged(cache);
  }

  async function discard() {
    if (!plan) return;
    const only = plan.history.length === 1;
    const words = only
      ? "Throw this incident type and its plan away? Nothing of it was released."
      : `Throw draft ${plan.letter} away? What was released stays.`;
    if (!window.confirm(words)) return;
    const views = [incident, plan].filter((view) => view.state === "Draft");
    try {
      for (const view of views) {
        await need(
          client.DELETE("/api/documents/{document}/draft", {
            params: { path: { document: view.document }, header: { "if-match": view.etag } },
          }),
        );
      }
      if (only) navigate("/author");
    } catch (error) {
      notifications.show({ color: "bad", message: (error as Error).message });
    }
    guidanceChanged(cache);
  }

  return (
    <>
      <main className="sheet" id="sheet">
        <div className="inner">
          <div className="sheet-line">
            <span className="mono soft">
              {incident.document}
              {plan && (
                <>
                  {" · "}
                  {plan.document} revision {plan.letter}, {plan.state.toLowerCase()} of{" "}
                  {dayTime(plan.changed_at)}
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
              <EditableText
                label="Title"
                value={incident.content.title}
                editable={editable && incident.state !== "In review"}
                onSave={rename}
              />
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
                  to={`/refine/${incident.document}/${plan.document}?older=${plan.in_force}&newer=${plan.letter}`}
                >
                  Compare with {plan.in_force}
                </Button>
              )}
              <ReleaseBar page={page} plan={plan} person={person} onBegin={begin} onDiscard={discard} />
            </div>
          </div>
          {draft.clash && (
            <div className="note bad" role="alert">
              <p style={{ marginTop: 0 }}>{draft.clash.message}</p>
              <div className="actions">
                <Button onClick={draft.clash.again}>Make my change again</Button>
                <Button variant="default" onClick={draft.clash.drop}>
                  Keep theirs
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
          {page.plans.length > 1 && (
            <div className="actions" style={{ marginTop: 8 }}>
              {page.plans.map((p) => (
                <Button
                  key={p.document}
                  variant={p === plan ? "filled" : "default"}
                  color="slate"
                  onClick={() => setSearch({ plan: p.document })}
                >
                  {p.content.title}
                </Button>
              ))}
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
              <AppliesWhenLine plan={plan} editable={editable} draft={draft} />
              <PlanFacts totals={plan.totals} evidence={evidence.data} />
              <PlanStem
                plan={plan}
                evidence={evidence.data}
                draft={draft}
                editable={editable}
                chosen={chosen}
                onChoose={choose}
              />
              {(evidence.data?.n_jobs ?? 0) > 0 && (
                <div className="actions" style={{ justifyContent: "space-between" }}>
                  <DotRangeKey />
                  <Link to={`/review/${incident.document}`}>
                    What its {evidence.data?.n_jobs} finished jobs say
                  </Link>
                </div>
              )}
            </>
          )}
        </div>
      </main>
      <aside className="margin" aria-label="Preview and checks">
        {plan && (
          <PreviewPane
            key={`${plan.document}${preview}`}
            plan={plan}
            chosen={chosen}
            start={witness}
            onRestart={() => {
              setWitness({});
              setPreview((n) => n + 1);
            }}
          />
        )}
        <ChecksPane
          page={page}
          plan={plan}
          editable={editable}
          onOpen={choose}
          onWitness={(answers) => {
            setWitness(answers);
            setPreview((n) => n + 1);
            choose(null);
          }}
          onFix={({ change }) =>
            draft.change(
              change.kind === "remove step"
                ? { edit: change }
                : { patch: () => [{ op: "replace", path: change.path, value: change.value }] },
            )
          }
        />
      </aside>
    </>
  );
}
