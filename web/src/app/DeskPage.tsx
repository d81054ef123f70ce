import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, need } from "../api/client";
import type { Person } from "../api/types";
import { Empty } from "../ui/Empty";
import { count, dayTime, dayYear } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import "./desk.css";

/** What waits for an engineer today, in the order of what it costs to wait, each one press away. */
export function DeskPage({ person }: { person: Person }) {
  const desk = useQuery({
    queryKey: ["desk"],
    queryFn: () => need(client.GET("/api/v1/desk")),
    refetchInterval: 30_000,
  });
  const lines = desk.data?.lines ?? [];
  const costs = [...new Set(lines.map((line) => line.cost))];
  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet">
        <div className="inner">
          <h1>{person.name.split(" ")[0]}'s desk</h1>
          <Trouble error={desk.error} />
          {desk.data && lines.length === 0 && (
            <Empty title="Nothing waits for you">
              Questions from site, completions to read, revisions to approve and what the evidence suggests
              appear here.
            </Empty>
          )}
          {costs.map((cost) => (
            <section key={cost} aria-label={cost} className="desk-cost">
              <h2>{cost.charAt(0).toUpperCase() + cost.slice(1)}</h2>
              {lines
                .filter((line) => line.cost === cost)
                .map((line) => (
                  <p key={`${line.to} ${line.what}`} className="desk-line">
                    <Link to={line.to}>{line.what}</Link>
                    <br />
                    <span className="soft">
                      {line.detail}
                      {line.since &&
                        `${/[.?]$/.test(line.detail) ? " Since" : ", since"} ${dayTime(line.since)}.`}
                    </span>
                  </p>
                ))}
            </section>
          ))}
          {(desk.data?.incident_types.length ?? 0) > 0 && (
            <>
              <h2 className="desk-evidence">Evidence</h2>
              <table className="rows">
                <thead>
                  <tr>
                    <th>Incident type</th>
                    <th className="num">Jobs since it was read</th>
                    <th>Last read</th>
                    <th className="num">Proposals</th>
                    <th>What the last change did</th>
                    <th />
                  </tr>
                </thead>
                <tbody>
                  {desk.data?.incident_types.map((row) => (
                    <tr key={row.document}>
                      <td>
                        <Link to={`/review/${row.document}`}>{row.title}</Link>{" "}
                        <span className="mono soft">{row.document}</span>
                      </td>
                      <td className="num">
                        {row.n_since} of {count(row.n_jobs, "job")}
                      </td>
                      <td>{row.read_at ? `${dayYear(row.read_at)}, ${row.read_by}` : "never"}</td>
                      <td className="num">{row.n_proposals || ""}</td>
                      <td>{row.last_change}</td>
                      <td>
                        <Link to={`/review/${row.document}/together`}>All jobs together</Link>
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </>
          )}
        </div>
      </main>
    </div>
  );
}
