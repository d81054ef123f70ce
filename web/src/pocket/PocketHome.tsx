import { useEffect, useState } from "react";
import { Link, useNavigate } from "react-router";
import { forgetPerson } from "../api/kept-person";
import { useSignOut } from "../api/queries";
import type { OrderLine, Person } from "../api/types";
import { count, dayTime } from "../ui/format";
import { Mark } from "../ui/Mark";
import { OrderCardInList } from "../ui/OrderCard";
import { opened } from "../ui/opened";
import { Trouble } from "../ui/Trouble";
import type { OwnDay } from "./day";
import { leaveDevice, peopleWithUnsent } from "./device-store";
import { useStandIns } from "./devices";
import { standingWords, useOutbox } from "./outbox";
import { megabytes, useRoom } from "./room";
import { Folded, Loose, Unsent } from "./Unsent";
import "./pocket.css";

const AskedByOffice = opened(() => import("./AskedByOffice").then((m) => m.AskedByOffice), null);
const AskedForParts = opened(() => import("./AskedForParts").then((m) => m.AskedForParts), null);
const ToCarry = opened(() => import("./ToCarry").then((m) => m.ToCarry), null);

/** A technician's orders, in the order they are planned. */
export function PocketHome({ person, own }: { person: Person; own: OwnDay }) {
  const leave = useSignOut();
  const navigate = useNavigate();
  const { box, ...outbox } = useOutbox(person.id);
  const [leaving, setLeaving] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const [others, setOthers] = useState(0);
  useEffect(() => {
    void peopleWithUnsent().then((people) => setOthers(people.filter((p) => p !== person.id).length));
  }, [person.id]);
  const nUnsent = outbox.parcels.length + outbox.pictures.length;
  const nWaiting = outbox.parcels.filter((p) => !p.refusal).length;
  const orders = own.day?.orders;
  useStandIns();
  /** How an order stands with what was recorded here, whether or not it is sent. */
  function stateHere(order: OrderLine) {
    const isOurs = outbox.kept.some((parcel) => parcel.order === order.id && !parcel.refusal);
    return (isOurs && own.here.get(order.id)) || order.state;
  }
  async function signOut() {
    try {
      await leave();
      // What is of the office goes from the phone with its person; what is not sent stays, and the orders it is of.
      await leaveDevice(person.id);
      forgetPerson();
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
            onClick={() => (nUnsent ? setLeaving(true) : signOut())}
          >
            Sign out
          </button>
        </div>
        <div className="pocket-bar-row">
          <span role="status">{standingWords(outbox, outbox.parcels, outbox.pictures)}</span>
          <Link to="/pocket/times" className="pocket-quiet light">
            Your times
          </Link>
          <Link to="/password" className="pocket-quiet light">
            Your password
          </Link>
        </div>
      </header>
      <main className="pocket-body">
        <h1>Your orders</h1>
        <Trouble error={own.error ?? error} />
        <WhatIsHere own={own} />
        <Room />
        {leaving && (
          <div role="alertdialog" aria-label="Not everything is sent" className="pconsequence out">
            <p className="flush">
              {count(nUnsent, "record")} of yours {nUnsent === 1 ? "is" : "are"} not with the server. What is
              here stays on this phone, for you alone, and is sent when you sign in here again.
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
        <Unsent
          parcels={outbox.parcels.filter((p) => p.refusal)}
          pictures={outbox.pictures.filter((p) => p.refusal)}
          box={box}
        />
        <Loose lines={own.day?.loose ?? []} />
        <Folded
          title={`${count(nWaiting, "record")} not sent yet`}
          parcels={outbox.parcels.filter((p) => !p.refusal)}
        />
        <Folded
          title={`${outbox.settled.length} refused and recorded another way`}
          parcels={outbox.settled}
        />
        {others > 0 && (
          <p>
            {count(others, "colleague")} {others === 1 ? "has" : "have"} records on this phone that are not
            sent. They go when {others === 1 ? "that person signs" : "those people sign"} in here.
          </p>
        )}
        <AskedByOffice />
        <AskedForParts />
        <ToCarry person={person.id} />
        {orders?.length === 0 && <p>Nothing is planned for you. New orders appear here.</p>}
        <ul className="pocket-orders">
          {(orders ?? []).map(({ line: order, card, way }) => (
            <li key={order.id}>
              <button
                type="button"
                data-state={stateHere(order)}
                onClick={() => navigate(`/pocket/${order.id}`)}
              >
                <OrderCardInList
                  order={order}
                  state={stateHere(order)}
                  where={own.here.has(order.id) ? "on this phone" : "needs a connection"}
                  way={way}
                  lines={card ?? []}
                />
              </button>
            </li>
          ))}
        </ul>
      </main>
    </div>
  );
}

/** How far the day is on the phone, and from when it is where there is no connection. */
function WhatIsHere({ own }: { own: OwnDay }) {
  if (own.taking)
    return (
      <p role="status">
        Taking along {own.taking.done + 1} of {own.taking.of}.
      </p>
    );
  if (own.day && own.asOf)
    return <p role="status">No connection. Your orders as of {dayTime(new Date(own.asOf).toISOString())}.</p>;
  return null;
}

/** Says when the device is nearly full, before anything is refused. */
function Room() {
  const room = useRoom();
  if (!room?.isLow) return null;
  return (
    <p role="alert" className="pconsequence out">
      This phone has {megabytes(room.free)} left for Reedling, of {megabytes(room.quota)}. Send what waits, or
      free some room, before you take more pictures.
    </p>
  );
}
