import type { FieldEvent, LooseLine } from "../api/types";
import type { CarriedOrder } from "./carried-order";
import type { KeptPicture, Parcel } from "./device-store";
import type { Outbox } from "./outbox";

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
      ...line.proofs.map((q) => [q.id, q.label] as const),
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
  if (lines.length === 0) return null;
  return (
    <section className="unsent" aria-label="Kept beside the order">
      <h2>Kept beside the order</h2>
      <ul>
        {lines.map((line) => (
          <li key={line.submission} className="pconsequence">
            <b>{line.order}. </b>
            {line.events.map((event) => eventWords(event, new Map())).join("; ")}
            <div>{line.why}</div>
            <div>
              {line.decision
                ? `The office decided: ${line.decision}${line.reason ? `, ${line.reason}` : ""}.`
                : "The office has it and decides what becomes of it."}
            </div>
          </li>
        ))}
      </ul>
    </section>
  );
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

function eventWords(event: FieldEvent, names: Map<string, string>): string {
  const named = (id: string | null | undefined) => (id ? (names.get(id) ?? id) : "");
  switch (event.kind) {
    case "answered":
      return `${named(event.question)}: ${typeof event.value === "object" ? JSON.stringify(event.value) : String(event.value)}`;
    case "step started":
    case "step done":
      return `${event.kind}: ${named(event.line)}`;
    case "step skipped":
      return `left out: ${named(event.line)}, because ${event.reason}`;
    case "part used":
      return `part used: ${event.quantity} × ${event.part}`;
    case "note written":
      return `note: “${event.text}”`;
    case "coded":
      return `cause ${event.cause}, remedy ${event.remedy}`;
    case "left site":
      return `left, ${event.outcome}${event.reason ? `: ${event.reason}` : ""}`;
    default:
      return event.kind;
  }
}

function save(parcel: Parcel) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([JSON.stringify(parcel, null, 1)], { type: "application/json" }));
  link.download = `${parcel.order}-${parcel.id.slice(0, 8)}.json`;
  link.click();
  URL.revokeObjectURL(link.href);
}
