import type { CardLine, OrderLine } from "../api/types";
import { calendarDay, dayTime, minutes } from "./format";
import "./order-card.css";

/** Facts of an order, each behind its label; it may stand in a button. */
function CardLines({ lines }: { lines: CardLine[] }) {
  return lines.map(({ label, text }) => (
    <span key={`${label} ${text}`} className="card-line">
      <span>{label}</span> <span>{text}</span>
    </span>
  ));
}

/** What the list of a technician's orders shows of one of them. */
export function OrderCardInList({
  order,
  state,
  where,
  way = "",
  lines,
}: {
  order: OrderLine;
  state: string;
  /** How far it is from the order before it, in words. */
  way?: string;
  /** Whether it can be carried out without a network, in words. */
  where: string;
  lines: CardLine[];
}) {
  return (
    <>
      <b>
        {order.symptom_label}: {order.asset.name}
      </b>
      <span>
        {order.site.name}
        {way && `, ${way}`}, {state.toLowerCase()}
      </span>
      <span>
        {order.planned_for && dayTime(order.planned_for)}, about {minutes(order.planned_minutes)}, {where}
      </span>
      {order.due_on && <span>to be made by {calendarDay(order.due_on)}</span>}
      <CardLines lines={lines} />
    </>
  );
}

/** What the page of an order begins with. */
export function OrderCardHead({
  order,
  state,
  lines,
}: {
  order: OrderLine;
  state: string;
  lines: CardLine[];
}) {
  return (
    <>
      <p className="pstep-place">
        {order.id}, {state.toLowerCase()}
      </p>
      <h1>
        {order.symptom_label}: {order.asset.name}
      </h1>
      <p>{order.site.name}</p>
      <CardLines lines={lines} />
    </>
  );
}
