import { useQueries } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, need } from "../api/client";
import { keys, useDiscarded, useShelf } from "../api/queries";
import type { Person, PlanView } from "../api/types";
import { ChangeList } from "../ui/ChangeList";
import { Empty } from "../ui/Empty";
import { dayTime } from "../ui/format";
import { ChangesDone } from "./ChangesDone";
import { Proposals } from "./Proposals";

/** Refine: revisions being written of what is in force, and the latest changes to compare. */
export function RefinePage({ person }: { person: Person }) {
  const shelf = useShelf();
  const discarded = useDiscarded();
  const incidents = shelf.data ?? [];
  const pages = useQueries({
    queries: incidents.map((row) => ({
      queryKey: keys.page(row.document),
      queryFn: () =>
        need(
          client.GET("/api/v1/incident-types/{document}", { params: { path: { document: row.document } } }),
        ),
    })),
  });
  const plans = pages.flatMap((page, i) =>
    (page.data?.plans ?? []).map((plan) => ({ plan, incident: incidents[i]?.document ?? "" })),
  );
  const open = plans.filter(({ plan }) => plan.in_force && plan.in_force !== plan.letter);
  const waiting = shelf.isPending || pages.some((page) => page.isPending);
  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet">
        <div className="inner">
          <h1>Refine</h1>
          <Proposals person={person} />
          <h2 style={{ marginTop: 22 }}>Being refined</h2>
          {waiting ? null : open.length === 0 ? (
            <Empty title="No revision is being written">
              <p>
                Open an incident type in <Link to="/review">Review</Link>, see which steps drift from their
                plan, and draft the next revision from there.
              </p>
            </Empty>
          ) : (
            <Rows rows={open} person={person} />
          )}
          <ChangesDone person={person} />
          {(discarded.data?.changes.length ?? 0) > 0 && (
            <>
              <h2 style={{ marginTop: 20 }}>Drafts thrown away</h2>
              <ChangeList changes={discarded.data?.changes} empty="" />
            </>
          )}
        </div>
      </main>
    </div>
  );
}

function Rows({ rows, person }: { rows: { plan: PlanView; incident: string }[]; person: Person }) {
  return (
    <table className="rows" style={{ marginTop: 8 }}>
      <tbody>
        {rows.map(({ plan, incident }) => (
          <tr key={plan.document}>
            <td>
              <Link to={`/author/${incident}?plan=${plan.document}`}>{plan.content.title}</Link>{" "}
              <span className="mono soft">{plan.document}</span>
            </td>
            <td>
              Revision {plan.letter}, {plan.state.toLowerCase()}, changed {dayTime(plan.changed_at)}
              {plan.state === "In review" &&
                person.role === "approver" &&
                ". Open it to release it or give it back."}
            </td>
            <td>
              <Link to={`/refine/${incident}/${plan.document}?older=${plan.in_force}&newer=${plan.letter}`}>
                Compare with {plan.in_force}
              </Link>
              , <Link to={`/refine/${incident}/${plan.document}/replay`}>replay on past jobs</Link>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
