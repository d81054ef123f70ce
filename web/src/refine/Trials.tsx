import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, need } from "../api/client";
import { keys } from "../api/queries";
import { dayYear } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import { howItEnded, toWhom } from "./trial-words";

/** The revisions that are tried on some of the orders, and those that were. */
export function Trials() {
  const found = useQuery({
    queryKey: keys.trials,
    queryFn: () => need(client.GET("/api/v1/trials")),
  });
  if (!found.error && !found.data?.length) return null;
  return (
    <section aria-label="Trials">
      <h2 className="far">Trials</h2>
      <Trouble error={found.error} />
      <table className="rows in-thirds">
        <tbody>
          {found.data?.map((view) => (
            <tr key={view.trial.id}>
              <td>
                <Link to={`/refine/trials/${view.trial.id}`}>{view.title}</Link>{" "}
                <span className="mono soft">
                  {view.trial.document} {view.trial.letter}
                </span>
                <div className="soft">
                  {toWhom(view)}, since {dayYear(view.trial.began_at)}
                </div>
              </td>
              <td>{view.reading.sentence}</td>
              <td>{howItEnded(view) || (view.has_answer ? "Has its answer" : "Under way")}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
