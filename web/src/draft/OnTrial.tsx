import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, need } from "../api/client";
import { keys } from "../api/queries";

/** That a revision is on trial, and what it has shown so far, one press away. */
export function OnTrial({ document }: { document: string }) {
  const found = useQuery({
    queryKey: [...keys.trials, document],
    queryFn: () => need(client.GET("/api/v1/trials", { params: { query: { document } } })),
  });
  const view = found.data?.find((one) => !one.trial.ended_at);
  if (!view) return null;
  return (
    <Link to={`/refine/trials/${view.trial.id}`} title={view.reading.sentence}>
      Revision {view.trial.letter} is on trial
    </Link>
  );
}
