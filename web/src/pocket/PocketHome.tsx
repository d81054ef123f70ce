import { useNavigate } from "react-router";
import { client } from "../api/client";
import { useCache, useOwnOrders } from "../api/queries";
import type { Person } from "../api/types";
import { dayTime, minutes } from "../ui/format";
import { Mark } from "../ui/Mark";
import { Trouble } from "../ui/Trouble";
import "./pocket.css";

/** A technician's orders, in the order they are planned. */
export function PocketHome({ person }: { person: Person }) {
  const orders = useOwnOrders();
  const cache = useCache();
  const navigate = useNavigate();
  async function signOut() {
    await client.DELETE("/api/session");
    cache.clear();
    navigate("/");
  }
  return (
    <div className="pocket">
      <header className="pocket-bar">
        <div className="pocket-bar-row">
          <span className="brand" style={{ fontSize: 18 }}>
            <Mark /> {person.name}
          </span>
          <button type="button" className="pocket-quiet light" onClick={signOut}>
            Sign out
          </button>
        </div>
      </header>
      <main className="pocket-body">
        <h1>Your orders</h1>
        <Trouble error={orders.error} />
        {orders.data?.length === 0 && <p>Nothing is planned for you. New orders appear here.</p>}
        <ul className="pocket-orders">
          {(orders.data ?? []).map((order) => (
            <li key={order.id}>
              <button type="button" onClick={() => navigate(`/pocket/${order.id}`)}>
                <b>
                  {order.symptom_label}: {order.asset.name}
                </b>
                <span>
                  {order.asset.site.name}, {order.state.toLowerCase()}
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
