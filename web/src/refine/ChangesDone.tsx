import { Button } from "@mantine/core";
import { Link, useNavigate } from "react-router";
import { client, need } from "../api/client";
import { guidanceChanged, useCache } from "../api/queries";
import { mayWrite } from "../api/roles";
import type { ChangeDone, ChangesDone as Done, Person } from "../api/types";
import { useChange } from "../api/use-change";
import { Figure } from "../ui/Figure";
import { count, dayYear, number } from "../ui/format";
import { tellRefusal } from "../ui/use-act";

/** What released changes did to the minutes of a job, and what all of them saved over a year. */
export function ChangesDone({ done, person }: { done: Done; person: Person }) {
  const { year, changes } = done;
  return (
    <section aria-label="What changes did">
      <h2 className="apart">What changes did</h2>
      {changes.length === 0 && <p className="soft">No plan has a second released revision yet.</p>}
      {year && (
        <div className="figures">
          <Figure
            label={year.hours >= 0 ? "Saved on site in a year" : "Lost on site in a year"}
            value={`${number(Math.round(Math.abs(year.hours)))} h`}
            beside={`${hours(year.low)} to ${hours(year.high)}, ${count(year.n_changes, "change")}, ${count(year.n_jobs, "job")}`}
            title="Minutes on site of each change against the revision before it, jobs of the same model, symptom and cause compared, over its jobs of the last year. Below 0 is lost."
          />
        </div>
      )}
      {changes.length > 0 && (
        <table className="rows in-thirds">
          <tbody>
            {changes.map((change) => (
              <tr key={`${change.incident_type}${change.document}${change.newer}`}>
                <td>
                  <Link to={`/author/${change.incident_type}?plan=${change.document}`}>{change.title}</Link>{" "}
                  <span className="mono soft">{change.document}</span>
                  <div className="soft">
                    {change.released_at && dayYear(change.released_at)}
                    {change.released_by && `, ${change.released_by}`}
                    {change.note && `: ${change.note}`}
                  </div>
                </td>
                <td>
                  {change.gain.verdict === "made it worse" && <b>Made it worse. </b>}
                  {change.gain.sentence}
                </td>
                <td>
                  <Link
                    to={`/refine/${change.incident_type}/${change.document}?older=${change.older}&newer=${change.newer}`}
                  >
                    Compare {change.older} and {change.newer}
                  </Link>
                </td>
                <td>
                  {change.returns_to && mayWrite(person) && <GoBack change={change} to={change.returns_to} />}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function hours(value: number): string {
  return `${number(Math.round(value)).replace("-", "−")} h`;
}

/** Draft what the revision before said as the next one. */
function GoBack({ change, to }: { change: ChangeDone; to: string }) {
  const cache = useCache();
  const navigate = useNavigate();
  const back = useChange(
    () =>
      need(
        client.POST("/api/v1/documents/{document}/revisions/{letter}/return", {
          params: { path: { document: change.document, letter: to } },
        }),
      ),
    [],
  );
  return (
    <Button
      variant="default"
      loading={back.isPending}
      onClick={() =>
        back.mutate(undefined, {
          onSuccess: () => {
            guidanceChanged(cache);
            void navigate(`/author/${change.incident_type}?plan=${change.document}`);
          },
          onError: tellRefusal,
        })
      }
    >
      Draft a return to {to}
    </Button>
  );
}
