import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { useOwnOrders, useSignOut } from "../api/queries";
import type { Person } from "../api/types";
import { count, dayTime, minutes } from "../ui/format";
import { Mark } from "../ui/Mark";
import { Trouble } from "../ui/Trouble";
import { standingWords, useOutbox } from "./outbox";
import { peopleWithParcels } from "./parcels";
import { Settled, Unsent } from "./Unsent";
import "./pocket.css";

/** A technician's orders, in the order they are planned. */
export function PocketHome({ person }: { person: Person }) {
  const orders = useOwnOrders();
  const leave = useSignOut();
  const navigate = useNavigate();
  const outbox = useOutbox(person.id);
  const [leaving, setLeaving] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const others = peopleWithParcels().filter((p) => p !== person.id).length;
  async function signOut() {
    try {
      await leave();
      void navigate("/");
    } catch (refusal) {
      setError(refusal);
    }
  }
  return (
    <div className="pocket">
      <header className="pocket-bar">
        <div className="pocket-bar-row">
          <span className="brand" style={{ fontSize: 18 }}>
            <Mark /> {person.name}
          </span>
          <button
            type="button"
            className="pocket-quiet light"
            onClick={() => (outbox.parcels.length ? setLeaving(true) : signOut())}
          >
            Sign out
          </button>
        </div>
        <div className="pocket-bar-row">
          <span role="status">{standingWords(outbox.parcels, outbox.held)}</span>
          <Link to="/password" className="pocket-quiet light">
            Your password
          </Link>
        </div>
      </header>
      <main className="pocket-body">
        <h1>Your orders</h1>
        <Trouble error={orders.error ?? error} />
        {leaving && (
          <div role="alertdialog" aria-label="Not everything is sent" className="pconsequence out">
            <p style={{ marginTop: 0 }}>
              {count(outbox.parcels.length, "record")} of yours {outbox.parcels.length === 1 ? "is" : "are"}{" "}
              not with the server. What is here stays on this phone, for you alone, and is sent when you sign
              in here again.
            </p>
            <div className="pocket-two">
              <button type="button" className="pocket-other" onClick={() => setLeaving(false)}>
                Stay
              </button>
              <button type="button" className="pocket-other" onClick={signOut}>
                Sign out, keep them here
              </button>
            </div>
          </div>
        )}
        <Unsent parcels={outbox.parcels} again={outbox.again} settle={outbox.settle} />
        <Settled parcels={outbox.settled} />
        {others > 0 && (
          <p>
            {count(others, "colleague")} {others === 1 ? "has" : "have"} records on this phone that are not
            sent. They go when {others === 1 ? "that person signs" : "those people sign"} in here.
          </p>
        )}
        {orders.data?.length === 0 && <p>Nothing is planned for you. New orders appear here.</p>}
        <ul className="pocket-orders">
          {(orders.data ?? []).map((order) => (
            <li key={order.id}>
              <button type="button" onClick={() => navigate(`/pocket/${order.id}`)}>
                <b>
                  {order.symptom_label}: {order.asset.name}
                </b>
                <span>
                  {order.site.name}, {order.state.toLowerCase()}
                </span>
                <span>
                  {order.planned_for && dayTime(order.planned_for)}, about {minutes(order.planned_minutes)}
                </span>
              </button>
            </li>
          ))}
        </ul>
      </main>
    </div>
  );
}
