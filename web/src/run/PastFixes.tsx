import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, need } from "../api/client";
import { PastFixList } from "../ui/PastFixList";

/** Past fixes of an order that is not closed, at the desk. */
export function PastFixes({ order }: { order: string }) {
  const found = useQuery({
    queryKey: ["past-fixes", order],
    queryFn: () =>
      need(client.GET("/api/v1/orders/{order_id}/past-fixes", { params: { path: { order_id: order } } })),
  });
  if (!found.data || found.data.length === 0) return null;
  return (
    <section aria-label="Past fixes">
      <h2>Past fixes</h2>
      <PastFixList
        fixes={found.data}
        linked={(solved) => <Link to={`/review/jobs/${solved}`}>{solved}</Link>}
      />
    </section>
  );
}
