import { v4 as newId } from "uuid";
import type { FieldEvent } from "../api/types";

/**
 * What was recorded and not yet sent, kept on the device: a parcel an entry, so that two tabs never
 * write over each other. A parcel belongs to the person who recorded it and to an order; it leaves the
 * device only once the server says that it has it.
 */
export interface Parcel {
  id: string;
  person: string;
  order: string;
  events: FieldEvent[];
  /** When it was kept, in milliseconds, with its place among those kept in the same one. */
  at: number;
  n: number;
  /** Why the server did not take it in; it stays here and can be sent again. */
  refusal?: { code: string; detail: string; at: number };
  /** Its writer has recorded it another way: it is no longer told of, and still kept here. */
  settled?: boolean;
}

const PREFIX = "reedling-parcel ";
const OLD = "reedling-outbox";
let nKept = 0;

/** The parcels of a person, in the order they were recorded. */
export function parcelsOf(person: string): Parcel[] {
  adoptOld(person);
  const found: Parcel[] = [];
  for (let i = 0; i < localStorage.length; i++) {
    const key = localStorage.key(i);
    if (!key?.startsWith(`${PREFIX}${person} `)) continue;
    const parcel = read(localStorage.getItem(key));
    if (parcel) found.push(parcel);
  }
  return found.sort((one, other) => one.at - other.at || one.n - other.n);
}

/**
 * Keep what was recorded. Throws when the browser cannot keep it: then it is not recorded, and whoever
 * records is told so.
 */
export function keepParcel(person: string, order: string, events: FieldEvent[]): Parcel {
  nKept += 1;
  const parcel: Parcel = { id: newId(), person, order, events, at: Date.now(), n: nKept };
  put(parcel);
  return parcel;
}

/** Write why a parcel was not taken in; where the browser cannot, the parcel stays as it is. */
export function noteRefusal(parcel: Parcel, refusal: Parcel["refusal"]) {
  try {
    put({ ...parcel, refusal });
  } catch {
    // The device is full: the parcel itself is kept, and will be refused again when it is sent again.
  }
}

/** Note that what was refused was recorded another way. It stays on the device. */
export function settleParcel(parcel: Parcel) {
  put({ ...parcel, settled: true });
}

/** Take a parcel off the device: the server has it. */
export function dropParcel(parcel: Parcel) {
  localStorage.removeItem(keyOf(parcel));
}

function put(parcel: Parcel) {
  localStorage.setItem(keyOf(parcel), JSON.stringify(parcel));
}

const keyOf = (parcel: Parcel) => `${PREFIX}${parcel.person} ${parcel.id}`;

function read(text: string | null): Parcel | null {
  try {
    return text ? (JSON.parse(text) as Parcel) : null;
  } catch {
    return null;
  }
}

/** Parcels as an earlier version kept them, in one list and without a person, become this person's. */
function adoptOld(person: string) {
  const text = localStorage.getItem(OLD);
  if (!text) return;
  try {
    const old = JSON.parse(text) as Pick<Parcel, "id" | "order" | "events">[];
    for (const [n, parcel] of old.entries()) put({ ...parcel, person, at: 0, n });
    localStorage.removeItem(OLD);
  } catch {
    // Not to be read: it stays for somebody who can.
  }
}

/** Every person who has something unsent on this device. */
export function peopleWithParcels(): string[] {
  const people = new Set<string>();
  for (let i = 0; i < localStorage.length; i++) {
    const key = localStorage.key(i);
    if (key?.startsWith(PREFIX)) people.add(key.slice(PREFIX.length).split(" ")[0] ?? "");
  }
  return [...people];
}
