import { Button, Select, TextInput } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";
import { IconPlus } from "@tabler/icons-react";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { useOrders } from "../api/queries";
import type { OrderLine, Person } from "../api/types";
import { Empty } from "../ui/Empty";
import { count, dayTime, minutes } from "../ui/format";
import { Trouble } from "../ui/Trouble";
import { LogOrder } from "./LogOrder";

const STATES = [
  "Logged",
  "Planned",
  "Heading out",
  "On site",
  "Return needed",
  "Finished",
  "Reviewed",
  "Cancelled",
];
const OPEN = new Set(["Logged", "Planned", "Heading out", "On site", "Return needed"]);

/** Run: the orders, newest first; those that wait stand on top. */
export function OrdersPage({ person }: { person: Person }) {
  const orders = useOrders();
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const [logging, setLogging] = useState(false);
  const [row, setRow] = useState(-1);
  const text = (search.get("q") ?? "").toLowerCase();
  const state = search.get("state");
  const plans = person.role === "planner" || person.role === "approver";
  const shown = (orders.data ?? []).filter(
    (o) =>
      (!state || o.state === state) &&
      `${o.id} ${o.asset.name} ${o.asset.site.name} ${o.symptom_label} ${o.technician_name} ${o.report}`
        .toLowerCase()
        .includes(text),
  );
  const open = shown.filter((o) => OPEN.has(o.state));
  const closed = shown.filter((o) => !OPEN.has(o.state));
  const inOrder = [...open, ...closed];
  const set = (key: string, value: string | null) =>
    setSearch((before) => {
      const next = new URLSearchParams(before);
      if (value) next.set(key, value);
      else next.delete(key);
      return next;
    });
  useHotkeys([
    ["j", () => setRow((n) => Math.min(inOrder.length - 1, n + 1))],
    ["k", () => setRow((n) => Math.max(0, n - 1))],
    ["Enter", () => inOrder[row] && navigate(`/run/${inOrder[row].id}`)],
    ["n", () => plans && setLogging(true)],
  ]);

  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet">
        <div className="inner">
          <div className="head">
            <h1>Orders</h1>
            <div className="actions">
              <TextInput
                aria-label="Filter orders"
                placeholder="Filter by site, asset, symptom, technician"
                w={300}
                value={search.get("q") ?? ""}
                onChange={(e) => set("q", e.currentTarget.value || null)}
              />
              <Select
                aria-label="State"
                placeholder="Every state"
                clearable
                w={150}
                data={STATES}
                value={state}
                onChange={(value) => set("state", value)}
              />
              {plans && (
                <Button leftSection={<IconPlus size={15} />} onClick={() => setLogging(true)}>
                  Log an order
                </Button>
              )}
            </div>
          </div>
          <Trouble error={orders.error} />
          <OrderRows title={`Open, ${open.length}`} rows={open} chosen={inOrder[row]?.id} />
          <OrderRows title={`Closed, ${closed.length}`} rows={closed} chosen={inOrder[row]?.id} />
          {orders.data?.length === 0 && (
            <Empty title="No orders yet">Log the first one: an asset and what the caller sees.</Empty>
          )}
          {(orders.data?.length ?? 0) > 0 && shown.length === 0 && (
            <Empty title="Nothing fits the filter">
              {count(orders.data?.length ?? 0, "order")} are hidden by it.
            </Empty>
          )}
        </div>
        <LogOrder shown={logging} onClose={() => setLogging(false)} />
      </main>
    </div>
  );
}

function OrderRows({ title, rows, chosen }: { title: string; rows: OrderLine[]; chosen?: string }) {
  if (rows.length === 0) return null;
  return (
    <>
      <h2 style={{ margin: "16px 0 4px" }}>{title}</h2>
      <table className="rows even">
        <thead>
          <tr>
            <th>Order</th>
            <th>Asset</th>
            <th>Symptom</th>
            <th>State</th>
            <th>Technician</th>
            <th>Planned for, or finished</th>
            <th className="num">Planned</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((order) => (
            <tr key={order.id} className={chosen === order.id ? "chosen" : undefined}>
              <td className="mono">
                <Link to={`/run/${order.id}`}>{order.id}</Link>
              </td>
              <td>
                {order.asset.name}, {order.asset.site.name}
                <div className="soft">{order.asset.site.district}</div>
              </td>
              <td>
                {order.symptom_label}
                {order.plans.length === 0 && <div className="soft">no plan applies</div>}
              </td>
              <td>{order.state}</td>
              <td>{order.technician_name || <span className="soft">nobody yet</span>}</td>
              <td>
                {order.finished_at
                  ? dayTime(order.finished_at)
                  : order.planned_for
                    ? dayTime(order.planned_for)
                    : `logged ${dayTime(order.logged_at)}`}
              </td>
              <td className="num">{order.planned_minutes ? minutes(order.planned_minutes) : "–"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
