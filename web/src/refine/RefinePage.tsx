import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, need } from "../api/client";
import { useDiscarded, useSignInPage } from "../api/queries";
import { mayWrite } from "../api/roles";
import type { ChangesDone as Done, Person } from "../api/types";
import { ChangeList } from "../ui/ChangeList";
import { dayTime } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import { ChangesDone } from "./ChangesDone";
import { LetWeeksPass } from "./LetWeeksPass";
import { Proposals } from "./Proposals";
import { Trials } from "./Trials";

/** Refine: what changes did, what the evidence suggests, and what is being written. */
export function RefinePage({ person }: { person: Person }) {
  const discarded = useDiscarded();
  const found = useQuery({
    queryKey: ["changes-done"],
    queryFn: () => need(client.GET("/api/v1/changes-done")),
  });
  const done = found.data;
  const isDemo = useSignInPage().data?.stand_ins ?? false;
  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet">
        <div className="inner">
          <h1>Refine</h1>
          <Trouble error={found.error} />
          {done && <ChangesDone done={done} person={person} />}
          {isDemo && mayWrite(person) && <LetWeeksPass />}
          <Trials />
          <h2 className="far">Being refined</h2>
          {!done ? null : done.being_refined.length === 0 ? (
            <p className="soft">
              No revision is being written. Draft one of the proposals below, or open an incident type in{" "}
              <Link to="/review">Review</Link>, see which steps drift from their plan, and begin there.
            </p>
          ) : (
            <Rows rows={done.being_refined} person={person} />
          )}
          <Proposals person={person} />
          {(discarded.data?.changes.length ?? 0) > 0 && (
            <>
              <h2 className="far">Drafts thrown away</h2>
              <ChangeList changes={discarded.data?.changes} empty="" />
            </>
          )}
        </div>
      </main>
    </div>
  );
}

function Rows({ rows, person }: { rows: Done["being_refined"]; person: Person }) {
  return (
    <table className="rows under in-thirds">
      <tbody>
        {rows.map((row) => (
          <tr key={`${row.incident_type}${row.document}`}>
            <td>
              <Link to={`/author/${row.incident_type}?plan=${row.document}`}>{row.title}</Link>{" "}
              <span className="mono soft">{row.document}</span>
            </td>
            <td>
              Revision {row.letter}, {row.state.toLowerCase()}, changed {dayTime(row.changed_at)}
              {row.state === "In review" &&
                person.role === "approver" &&
                ". Open it to release it or give it back."}
            </td>
            <td>
              <Link
                to={`/refine/${row.incident_type}/${row.document}?older=${row.in_force}&newer=${row.letter}`}
              >
                Compare with {row.in_force}
              </Link>
              , <Link to={`/refine/${row.incident_type}/${row.document}/replay`}>replay on past jobs</Link>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
