import type { LooseLine } from "../api/types";
import { eventWords } from "../ui/event-words";
import { count } from "../ui/format";
import { groupsOf } from "../ui/loose-groups";
import type { CarriedOrder } from "./carried-order";
import type { KeptPicture, Parcel } from "./device-store";
import type { Outbox } from "./outbox";
import "../ui/pocket-step.css";
import "./pocket.css";

/** What the server refused: what it is, why, and what can be done. Nothing is thrown away. */
export function Unsent({
  parcels,
  pictures,
  box,
  page,
}: {
  /** Those that were refused. */
  parcels: Parcel[];
  pictures: KeptPicture[];
  box: Outbox;
  /** The order they are of, where it is open: its steps and questions are then named. */
  page?: CarriedOrder;
}) {
  if (parcels.length + pictures.length === 0) return null;
  const names = new Map(
    (page?.run.runsheet.lines ?? []).flatMap((line) => [
      [line.id, line.text] as const,
      ...line.questions.map((q) => [q.id, q.label] as const),
    ]),
  );
  return (
    <section className="unsent" aria-label="Kept on this phone">
      <h2>Kept on this phone</h2>
      <ul>
        {parcels.map((parcel) => (
          <li key={parcel.id} className="pconsequence out">
            {!page && <b>{parcel.order}. </b>}
            {parcel.events.map((event) => eventWords(event, names)).join("; ")}
            <div role="alert">Not taken in: {parcel.refusal?.detail}</div>
            <div className="pocket-two">
              <button type="button" className="pocket-other" onClick={() => box.again(parcel)}>
                Send again
              </button>
              <button type="button" className="pocket-other" onClick={() => box.settle(parcel)}>
                I recorded it another way
              </button>
            </div>
            <button type="button" className="pocket-link" onClick={() => save(parcel)}>
              Save as a file
            </button>
          </li>
        ))}
        {pictures.map((picture) => (
          <li key={picture.id} className="pconsequence out">
            {!page && <b>{picture.order}. </b>}
            Picture: {names.get(picture.question) ?? picture.question}
            <div role="alert">Not taken in: {picture.refusal?.detail}</div>
            <button type="button" className="pocket-other" onClick={() => box.pictureAgain(picture)}>
              Send again
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What the server has and the job could not take in: kept beside the order, for the office to decide. */
export function Loose({ lines }: { lines: LooseLine[] }) {
  return groupsOf(lines).map((group) => {
    const decided = group.lines[0]?.decision;
    const reason = group.lines[0]?.reason;
    return (
      <section key={group.key} className="unsent pconsequence" aria-label="Kept beside the order">
        {group.order}: {count(group.lines.length, "record")} kept beside the order, because {group.why}{" "}
        {decided
          ? `The office decided: ${decided}${reason ? `, ${reason}` : ""}.`
          : "The office has them and decides what becomes of them."}
        <details>
          <summary>What was recorded</summary>
          <ul>
            {group.lines.map((line) => (
              <li key={line.submission}>
                {line.events.map((event) => eventWords(event, new Map())).join("; ")}
              </li>
            ))}
          </ul>
        </details>
      </section>
    );
  });
}

/** Records on this phone that need nothing done, folded away. */
export function Folded({ title, parcels }: { title: string; parcels: Parcel[] }) {
  if (parcels.length === 0) return null;
  return (
    <details className="unsent">
      <summary>{title}</summary>
      <ul>
        {parcels.map((parcel) => (
          <li key={parcel.id} className="pconsequence">
            <b>{parcel.order}. </b>
            {parcel.events.map((event) => eventWords(event, new Map())).join("; ")}
            <button type="button" className="pocket-link" onClick={() => save(parcel)}>
              Save as a file
            </button>
          </li>
        ))}
      </ul>
    </details>
  );
}

function save(parcel: Parcel) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([JSON.stringify(parcel, null, 1)], { type: "application/json" }));
  link.download = `${parcel.order}-${parcel.id.slice(0, 8)}.json`;
  link.click();
  URL.revokeObjectURL(link.href);
}
