import { Button, Select, TextInput } from "@mantine/core";
import { useDebouncedValue, useHotkeys } from "@mantine/hooks";
import { IconPlus } from "@tabler/icons-react";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { useLooseRecords, useOrders } from "../api/queries";
import type { OrderLine, Person } from "../api/types";
import { Empty } from "../ui/Empty";
import { calendarDay, dayTime, minutes } from "../ui/format";
import { More } from "../ui/More";
import { Trouble } from "../ui/Trouble";
import { useAddress } from "../ui/use-address";
import { LogOrder } from "./LogOrder";
import { LooseRecords } from "./LooseRecords";
import { SiteRecords } from "./SiteRecords";

const OPEN: OrderLine["state"][] = ["Logged", "Planned", "Heading out", "On site", "Return needed"];
const CLOSED: OrderLine["state"][] = ["Finished", "Reviewed", "Cancelled"];

/** The orders of some states, as far as they were asked for, and how many there are. */
function usePart(states: OrderLine["state"][], words: string) {
  const none = states.length === 0;
  const going = useOrders({ states, words }, !none);
  return {
    going,
    rows: none ? [] : (going.data?.pages.flatMap((p) => p.rows) ?? []),
    total: none ? 0 : (going.data?.pages[0]?.total ?? 0),
  };
}

/** Run: the orders, newest first; those that wait stand on top. */
export function OrdersPage({ person }: { person: Person }) {
  const navigate = useNavigate();
  const [search, put, putAll] = useAddress();
  const [logging, setLogging] = useState(false);
  const [row, setRow] = useState(-1);
  const [words] = useDebouncedValue(search.get("q") ?? "", 200);
  const state = search.get("state") as OrderLine["state"] | null;
  const plans = person.role === "planner" || person.role === "approver";
  const wanted = (all: OrderLine["state"][]) => (state ? all.filter((s) => s === state) : all);
  const open = usePart(wanted(OPEN), words);
  const closed = usePart(wanted(CLOSED), words);
  const loose = useLooseRecords();
  const inOrder = [...open.rows, ...closed.rows];
  const nShown = open.total + closed.total;
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
                placeholder="Site, asset, symptom"
                w={190}
                value={search.get("q") ?? ""}
                onChange={(e) => put("q", e.currentTarget.value || null)}
              />
              <Select
                aria-label="State"
                placeholder="Every state"
                clearable
                w={130}
                data={[...OPEN, ...CLOSED]}
                value={state}
                onChange={(value) => put("state", value)}
              />
              <Button variant="default" component={Link} to="/run/time-sheets">
                Time sheets
              </Button>
              <Button variant="default" component={Link} to="/run/taking-along">
                What phones take
              </Button>
              <Button variant="default" component={Link} to="/run/order-card">
                Order's card
              </Button>
              {plans && (
                <Button leftSection={<IconPlus size={15} />} onClick={() => setLogging(true)}>
                  Log an order
                </Button>
              )}
            </div>
          </div>
          <Trouble error={open.going.error ?? closed.going.error} />
          <LooseRecords lines={loose.data ?? []} />
          <SiteRecords />
          <OrderRows title={`Open, ${open.total}`} rows={open.rows} chosen={inOrder[row]?.id} />
          <More shown={open.rows.length} total={open.total} what="order" going={open.going} />
          <OrderRows title={`Closed, ${closed.total}`} rows={closed.rows} chosen={inOrder[row]?.id} />
          <More shown={closed.rows.length} total={closed.total} what="order" going={closed.going} />
          {!open.going.isLoading &&
            !closed.going.isLoading &&
            nShown === 0 &&
            (words || state ? (
              <Empty title="Nothing fits the filter">
                <button type="button" className="linklike" onClick={() => putAll({ q: null, state: null })}>
                  Show every order
                </button>
              </Empty>
            ) : (
              <Empty title="No orders yet">Log the first one: an asset and what the caller sees.</Empty>
            ))}
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
                {order.asset.name}, {order.site.name}
                <div className="soft">{order.site.district}</div>
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
                {order.due_on && !order.finished_at && (
                  <div className={order.is_overdue ? "bad" : "soft"}>
                    {order.is_overdue ? "overdue since" : "to be made by"} {calendarDay(order.due_on)}
                  </div>
                )}
              </td>
              <td className="num">{order.planned_minutes ? minutes(order.planned_minutes) : "–"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
