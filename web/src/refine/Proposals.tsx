import { Button, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import { client, need } from "../api/client";
import { guidanceChanged } from "../api/queries";
import { mayWrite } from "../api/roles";
import type { Person, ProposalView } from "../api/types";
import { whatDiffers } from "../ui/differences";
import { count, dayYear } from "../ui/format";
import { placeOf } from "../ui/places";
import { Trouble } from "../ui/Trouble";
import { useAct } from "../ui/use-act";
import "./proposals.css";

/** Jobs behind a proposal that are named at once. */
const NAMED = 6;

/** What the evidence suggests changing: each with its size, its doubt, the jobs behind it and the drafted change. */
export function Proposals({ person, incident = "" }: { person: Person; incident?: string }) {
  const found = useQuery({
    queryKey: ["proposals", incident],
    queryFn: () => need(client.GET("/api/v1/proposals", { params: { query: { incident_type: incident } } })),
  });
  const [all, setAll] = useState(false);
  const open = found.data?.proposals.filter((p) => p.state === "Open") ?? [];
  const others = found.data?.proposals.filter((p) => p.state !== "Open") ?? [];
  const writes = mayWrite(person);
  const { hash } = useLocation();
  const isHere = found.isSuccess;
  // A link to one proposal leads to it once it is drawn.
  useEffect(() => {
    if (isHere && hash) document.getElementById(decodeURIComponent(hash.slice(1)))?.scrollIntoView();
  }, [isHere, hash]);
  return (
    <section aria-label="What the evidence suggests">
      <h2 className="far">
        What the evidence suggests{found.data && `, ${open.length}`}
        {found.isPending && <span className="soft"> reading the jobs</span>}
      </h2>
      <Trouble error={found.error} />
      {found.data && open.length === 0 && (
        <p className="soft">
          Nothing now. Proposals appear once jobs show that a step takes other minutes, draws help, never
          finds anything or stands in the wrong place, that notes at it say the same, that parts are used or
          fetched that nobody planned, or that reports use words that no symptom has.
        </p>
      )}
      {open.map((view) => (
        <ProposalCard key={view.key} view={view} writes={writes} />
      ))}
      {others.length > 0 && (
        <p>
          <button type="button" className="linklike" aria-expanded={all} onClick={() => setAll(!all)}>
            {all ? "Hide" : "Show"} {count(others.length, "decided proposal")}
          </button>
        </p>
      )}
      {all && others.map((view) => <ProposalCard key={view.key} view={view} writes={writes} />)}
      {(found.data?.taken.length ?? 0) > 0 && (
        <>
          <h2>What became of those taken</h2>
          <table className="rows">
            <tbody>
              {found.data?.taken.map((taken) => (
                <tr key={taken.key}>
                  <td>
                    {taken.title} <span className="mono soft">{taken.letter}</span>
                  </td>
                  <td>
                    Promised: {taken.promised}
                    {taken.came && <div className="slate">Came: {taken.came}</div>}
                  </td>
                  <td className="soft">
                    {taken.by_name}, {dayYear(taken.drafted_at)}.{" "}
                    {!taken.is_in_force
                      ? "Not released yet."
                      : taken.is_made_still
                        ? "In force, and the evidence still suggests it."
                        : "In force; the evidence suggests it no more."}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </section>
  );
}

function ProposalCard({ view, writes }: { view: ProposalView; writes: boolean }) {
  const { proposal } = view;
  const { act, isBusy: busy } = useAct((cache) => {
    void cache.invalidateQueries({ queryKey: ["proposals"] });
    void cache.invalidateQueries({ queryKey: ["waiting"] });
    guidanceChanged(cache);
  });
  const navigate = useNavigate();
  const [why, setWhy] = useState(false);
  const [refusing, setRefusing] = useState(false);
  const [reason, setReason] = useState("");
  const path = { key: view.key };
  const isOfList = proposal.revision === "";

  async function draft() {
    const made = await act(() => need(client.POST("/api/v1/proposals/{key}/draft", { params: { path } })));
    if (!made) return;
    void navigate(
      made.kind !== "plan"
        ? placeOf(made)
        : `/author/${view.incident_type}?plan=${made.document}&step=${proposal.step}`,
    );
  }

  return (
    <article className="proposal" id={view.key} data-state={view.state}>
      <p className="soft proposal-kind">
        {proposal.kind.charAt(0).toUpperCase() + proposal.kind.slice(1)}: {view.title}{" "}
        {!isOfList && <span className="mono">{proposal.document}</span>}
      </p>
      <p className="proposal-sentence">{proposal.sentence}</p>
      <p>{proposal.effect}</p>
      <ul className="proposal-change">
        {view.differences.map((d) => (
          <li key={`${d.change} ${d.place} ${d.aspect}`}>
            {d.change} {whatDiffers(d)}
            {(d.before || d.after) && (
              <>
                : {d.before && <s>{d.before}</s>} <b>{d.after}</b>
              </>
            )}
          </li>
        ))}
      </ul>
      {view.state !== "Open" && (
        <p className="soft">
          {view.state === "Drafted" && (isOfList ? "Added" : `Drafted in revision ${view.letter}`)}
          {view.state === "Declined" && `Declined: ${view.reason}`}
          {view.state === "Later" && view.until && `Put off until ${dayYear(view.until)}`},{" "}
          {view.decided_by_name}
          {view.decided_at && `, ${dayYear(view.decided_at)}`}.
        </p>
      )}
      <div className="actions">
        {writes && view.state === "Open" && (
          <>
            <Button variant="outline" disabled={busy} onClick={draft}>
              {isOfList ? "Add it to the list" : "Draft it"}
            </Button>
            <Button
              variant="default"
              disabled={busy}
              aria-expanded={refusing}
              onClick={() => setRefusing(!refusing)}
            >
              Decline
            </Button>
            <Button
              variant="default"
              disabled={busy}
              onClick={() =>
                act(() =>
                  need(client.PUT("/api/v1/proposals/{key}/delay", { params: { path }, body: { days: 30 } })),
                )
              }
            >
              In 30 days
            </Button>
          </>
        )}
        {writes && view.state !== "Open" && (
          <Button
            variant="default"
            disabled={busy}
            onClick={() =>
              act(() => need(client.DELETE("/api/v1/proposals/{key}/decision", { params: { path } })))
            }
          >
            Open it again
          </Button>
        )}
        <Button variant="subtle" aria-expanded={why} onClick={() => setWhy(!why)}>
          Why, and {count(proposal.orders.length, isOfList ? "order" : "job")}
        </Button>
      </div>
      {refusing && view.state === "Open" && (
        <div className="actions under">
          <TextInput
            aria-label="Why it is declined"
            placeholder="Why it is declined"
            w={330}
            value={reason}
            onChange={(e) => setReason(e.currentTarget.value)}
          />
          <Button
            variant="default"
            disabled={busy || !reason.trim()}
            onClick={() =>
              act(() =>
                need(client.PUT("/api/v1/proposals/{key}/refusal", { params: { path }, body: { reason } })),
              )
            }
          >
            Decline it
          </Button>
        </div>
      )}
      {why && (
        <div className="proposal-why">
          <p>{proposal.rule}</p>
          <p>{proposal.goes_away}</p>
          {proposal.p_value < 1 && (
            <p>
              Among all that was tested with it, it counts as a signal at a false-discovery rate of{" "}
              {proposal.p_value < 0.001 ? "below 0.1" : (proposal.p_value * 100).toFixed(1)} %.
            </p>
          )}
          <p>
            {proposal.orders.slice(0, NAMED).map((order) => (
              <span key={order}>
                <Link className="mono" to={isOfList ? `/run/${order}` : `/review/jobs/${order}`}>
                  {order}
                </Link>{" "}
              </span>
            ))}
            {proposal.orders.length > NAMED && `and ${proposal.orders.length - NAMED} more. `}
            {view.incident_type && (
              <Link
                to={`/review/${view.incident_type}${proposal.step ? `?step=${proposal.document}:${proposal.step}` : ""}`}
              >
                The evidence
              </Link>
            )}
          </p>
        </div>
      )}
    </article>
  );
}
