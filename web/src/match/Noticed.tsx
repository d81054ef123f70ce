import { Drawer } from "@mantine/core";
import { Link } from "react-router";
import { useNoticed } from "../api/queries";
import { count } from "../ui/format";
import { Trouble } from "../ui/Trouble";

/** Who would notice a draft's release: past and open orders that would get something different. */
export function NoticedDrawer({
  document,
  etag,
  shown,
  onClose,
}: {
  document: string;
  etag: string;
  shown: boolean;
  onClose: () => void;
}) {
  const noticed = useNoticed(document, etag);
  return (
    <Drawer opened={shown} onClose={onClose} title="Who would notice" position="right" size="lg">
      <Trouble error={noticed.error} />
      {noticed.data && (
        <>
          <p>
            {noticed.data.n_changed === 0
              ? `None of ${count(noticed.data.n_orders, "past and open order")} would get something different.`
              : `${noticed.data.n_changed} of ${count(noticed.data.n_orders, "past and open order")} would get something different, ${noticed.data.n_open_changed} of them open. Open orders keep what they were issued with.`}
          </p>
          {noticed.data.groups.map((group) => (
            <details key={group.change.sentence} open={noticed.data.groups.length < 4}>
              <summary>
                <b>
                  {count(group.n_orders, "order")}
                  {group.n_open > 0 && `, ${group.n_open} open`}
                </b>{" "}
                {group.change.sentence}
              </summary>
              <ul className="plain-list">
                {group.orders.slice(0, 50).map((o) => (
                  <li key={o.order}>
                    <Link to={`/match/tables/${document}?order=${o.order}`}>{o.order}</Link> {o.asset},{" "}
                    {o.symptom.toLowerCase()}
                    {o.is_open && <b> open</b>}
                  </li>
                ))}
              </ul>
              {group.n_orders > 50 && <p className="soft">and {group.n_orders - 50} more.</p>}
            </details>
          ))}
        </>
      )}
    </Drawer>
  );
}
