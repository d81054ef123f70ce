import { type DBSchema, type IDBPDatabase, type IDBPTransaction, openDB } from "idb";
import type { FieldEvent, PocketOrder } from "../api/types";
import type { JobView } from "./rules";

/**
 * What was recorded at once, for one order by one person. It leaves the device once the server has it and
 * what is kept of the order here holds it too, and by nothing else.
 */
export interface Parcel {
  /** Its place among all that was recorded on this device. */
  n: number;
  /** The identity under which it is sent: the server takes it in once. */
  id: string;
  person: string;
  order: string;
  events: FieldEvent[];
  at: number;
  /** The page whose rules still look at it: until they have, it is kept and neither sent nor replayed. */
  checkedBy?: string;
  /** The rules could not be asked here when it was recorded. */
  unchecked?: boolean;
  /** Why the server refused it; it stays here and can be sent again. */
  refusal?: Refusal;
  /** Its writer has recorded it another way: it is no longer told of, and still kept here. */
  settled?: boolean;
  /** The server has it: so many events stand on the order by then. */
  recorded?: number;
}

export interface Refusal {
  code: string;
  detail: string;
  at: number;
}

/** A picture that the server does not have yet. */
export interface KeptPicture {
  id: string;
  person: string;
  order: string;
  question: string;
  name: string;
  blob: Blob;
  sha256: string;
  at: number;
  refusal?: Refusal;
}

/** An order as it was fetched last, and where its job stood when it was last looked at on this device. */
export interface TakenOrder {
  person: string;
  id: string;
  order: PocketOrder;
  view: JobView | null;
  fetchedAt: number;
}

interface Kept extends DBSchema {
  parcels: { key: number; value: Parcel; indexes: { person: string } };
  pictures: { key: string; value: KeptPicture; indexes: { person: string } };
  orders: { key: [string, string]; value: Omit<TakenOrder, "view"> };
  /** Where jobs stand, apart from their orders: it changes with every answer, and an order is long. */
  views: { key: [string, string]; value: Pick<TakenOrder, "person" | "id" | "view"> };
  answers: { key: string; value: { name: string; value: unknown; at: number } };
}

type Upgrade = IDBPTransaction<
  Kept,
  ("parcels" | "pictures" | "orders" | "views" | "answers")[],
  "versionchange"
>;

/** Orders fetched by an earlier version say `proofs` for the questions of a step; the rules say `questions`. */
async function nameQuestions(writing: Upgrade): Promise<void> {
  for (let at = await writing.objectStore("orders").openCursor(); at; at = await at.continue())
    await at.update(JSON.parse(JSON.stringify(at.value).replaceAll('"proofs":', '"questions":')));
}

/** Earlier versions kept where a job stands with its order. */
async function moveViews(writing: Upgrade): Promise<void> {
  for (let at = await writing.objectStore("orders").openCursor(); at; at = await at.continue()) {
    const { view, ...order } = at.value as TakenOrder;
    await writing.objectStore("views").put({ person: order.person, id: order.id, view });
    await at.update(order);
  }
}

let opened: Promise<IDBPDatabase<Kept>> | null = null;

function database(): Promise<IDBPDatabase<Kept>> {
  opened ??= openDB<Kept>("reedling", 3, {
    async upgrade(db, before, _now, writing) {
      db.createObjectStore("views", { keyPath: ["person", "id"] });
      if (before === 1) await nameQuestions(writing);
      if (before > 0) return moveViews(writing);
      db.createObjectStore("parcels", { keyPath: "n", autoIncrement: true }).createIndex("person", "person");
      db.createObjectStore("pictures", { keyPath: "id" }).createIndex("person", "person");
      db.createObjectStore("orders", { keyPath: ["person", "id"] });
      db.createObjectStore("answers", { keyPath: "name" });
    },
    // Another tab wants a newer shape: let go, so that it is not held up; this one opens it again when asked.
    blocking: (_now, _wanted, event) => {
      opened = null;
      (event.target as IDBDatabase).close();
    },
    terminated: () => {
      opened = null;
    },
  }).then(async (db) => {
    await adoptOld(db);
    return db;
  });
  opened.catch(() => {
    opened = null;
  });
  return opened;
}

/** Written through to the disk before it is said to be kept. */
const STRICT = { durability: "strict" } as const;

/** Everything of a person that is still on the device, in the order it was recorded. */
export async function parcelsOf(person: string): Promise<Parcel[]> {
  return (await database()).getAllFromIndex("parcels", "person", person);
}

/** Keep parcels, all or none; gives their places. Throws where the device cannot: then nothing of it is recorded. */
export async function keepParcels(parcels: Omit<Parcel, "n">[]): Promise<number[]> {
  const db = await database();
  const writing = db.transaction("parcels", "readwrite", STRICT);
  // The key is given by the database, so that two tabs never give the same.
  const keys = Promise.all(parcels.map((parcel) => writing.store.add(parcel as Parcel)));
  await Promise.all([keys, writing.done]);
  return keys;
}

/** The rules have looked at parcels, or could not be asked: from now on they are sent and replayed. */
export async function releaseParcels(places: number[], { isChecked }: { isChecked: boolean }): Promise<void> {
  // Not written through at once: what is lost of it here is released anew, and the parcel itself is kept.
  const writing = (await database()).transaction("parcels", "readwrite");
  for (const n of places) {
    const held = await writing.store.get(n);
    if (!held?.checkedBy) continue;
    const { checkedBy: _looked, ...parcel } = held;
    await writing.store.put({ ...parcel, unchecked: !isChecked });
  }
  await writing.done;
}

/** Take back what the rules refused; false, and nothing is taken back, where some of it was released already. */
export async function withdrawParcels(places: number[]): Promise<boolean> {
  const writing = (await database()).transaction("parcels", "readwrite");
  const held = await Promise.all(places.map((n) => writing.store.get(n)));
  const mayBe = held.every((parcel) => parcel?.checkedBy);
  if (mayBe) await Promise.all(places.map((n) => writing.store.delete(n)));
  await writing.done;
  return mayBe;
}

/** Change what is noted of a parcel that is still here; its events never change. */
export async function noteParcel(
  n: number,
  note: Partial<Pick<Parcel, "refusal" | "settled" | "recorded">>,
): Promise<void> {
  const writing = (await database()).transaction("parcels", "readwrite", STRICT);
  const held = await writing.store.get(n);
  if (held) await writing.store.put({ ...held, ...note });
  await writing.done;
}

/** Take a parcel off the device: the server has it, on the job or beside the order. */
export async function dropParcel(n: number): Promise<void> {
  await (await database()).delete("parcels", n);
}

/** People who have something on this device that the server does not. */
export async function peopleWithUnsent(): Promise<string[]> {
  const db = await database();
  const parcels = (await db.getAll("parcels")).filter((p) => p.recorded === undefined && !p.settled);
  const pictures = await db.getAll("pictures");
  return [...new Set([...parcels, ...pictures].map((kept) => kept.person))];
}

export async function picturesOf(person: string): Promise<KeptPicture[]> {
  return (await database()).getAllFromIndex("pictures", "person", person);
}

export async function keepPicture(picture: KeptPicture): Promise<void> {
  const writing = (await database()).transaction("pictures", "readwrite", STRICT);
  await Promise.all([writing.store.put(picture), writing.done]);
}

export async function notePicture(id: string, refusal: Refusal | undefined): Promise<void> {
  const writing = (await database()).transaction("pictures", "readwrite");
  const held = await writing.store.get(id);
  if (held) await writing.store.put({ ...held, refusal });
  await writing.done;
}

export async function dropPicture(id: string): Promise<void> {
  await (await database()).delete("pictures", id);
}

export async function takenOrder(person: string, id: string): Promise<TakenOrder | undefined> {
  const reading = (await database()).transaction(["orders", "views"]);
  const [order, kept] = await Promise.all([
    reading.objectStore("orders").get([person, id]),
    reading.objectStore("views").get([person, id]),
  ]);
  return order && { ...order, view: kept?.view ?? null };
}

/**
 * Keep an order as it was fetched; what it holds of what was recorded here need no longer be kept apart. An answer
 * that was asked for at `asked`, in milliseconds, before a newer one came is not kept.
 */
export async function keepOrder(person: string, order: PocketOrder, asked: number): Promise<void> {
  const id = order.line.id;
  const db = await database();
  // Asked for before they signed out, come after it.
  if (left.has(person)) return;
  const writing = db.transaction(["orders", "parcels"], "readwrite", STRICT);
  const held = await writing.objectStore("orders").get([person, id]);
  if (held && held.fetchedAt > asked && held.order.n_recorded > order.n_recorded) return writing.done;
  await writing.objectStore("orders").put({ person, id, order, fetchedAt: Date.now() });
  for (const parcel of await writing.objectStore("parcels").index("person").getAll(person))
    if (parcel.order === id && parcel.recorded !== undefined && parcel.recorded <= order.n_recorded)
      await writing.objectStore("parcels").delete(parcel.n);
  await writing.done;
}

/** Keep where the job stands, so that it is shown at once the next time. */
export async function keepView(person: string, id: string, view: JobView): Promise<void> {
  const writing = (await database()).transaction(["orders", "views"], "readwrite");
  // Of an order that was cleared meanwhile nothing comes back.
  if (await writing.objectStore("orders").getKey([person, id]))
    await writing.objectStore("views").put({ person, id, view });
  await writing.done;
}

export async function takenOrders(person: string): Promise<TakenOrder[]> {
  const reading = (await database()).transaction(["orders", "views"]);
  const [orders, kept] = await Promise.all([
    reading.objectStore("orders").getAll(),
    reading.objectStore("views").getAll(),
  ]);
  const own = kept.filter((one) => one.person === person);
  const views = new Map(own.map((one) => [one.id, one.view]));
  return orders
    .filter((order) => order.person === person)
    .map((order) => ({ ...order, view: views.get(order.id) ?? null }));
}

/** Clear orders that are no longer needed, but none that has something unsent. */
export async function clearOrders(person: string, needed: Set<string>): Promise<void> {
  const db = await database();
  const writing = db.transaction(["orders", "views", "parcels", "pictures"], "readwrite");
  const parcels = await writing.objectStore("parcels").index("person").getAll(person);
  const pictures = await writing.objectStore("pictures").index("person").getAll(person);
  const unsent = new Set([
    ...parcels.filter((p) => p.recorded === undefined && !p.settled).map((p) => p.order),
    ...pictures.map((p) => p.order),
  ]);
  for (const [owner, id] of await writing.objectStore("orders").getAllKeys()) {
    if (owner !== person || needed.has(id) || unsent.has(id)) continue;
    await writing.objectStore("orders").delete([owner, id]);
    await writing.objectStore("views").delete([owner, id]);
    for (const parcel of parcels)
      if (parcel.order === id && parcel.recorded !== undefined)
        await writing.objectStore("parcels").delete(parcel.n);
  }
  await writing.done;
}

/** People who signed out on this page. */
const left = new Set<string>();

/** Somebody works on this device from now on. */
export function takeUp(person: string): void {
  left.delete(person);
}

/**
 * Clear what a person who signs out had of the office: orders, but none that has something unsent, their day and what
 * they carry. What is still on its way to the device is not kept.
 */
export async function leaveDevice(person: string): Promise<void> {
  left.add(person);
  await clearOrders(person, new Set());
  const db = await database();
  await Promise.all([dayName(person), loadName(person)].map((name) => db.delete("answers", name)));
}

/** Keep an answer of the server by a name: lists, the day. */
export async function keepAnswer(name: string, value: unknown): Promise<void> {
  if ([...left].some((person) => name === dayName(person) || name === loadName(person))) return;
  await (await database()).put("answers", { name, value, at: Date.now() });
}

/** An answer that was kept, and when. */
export async function keptAnswer<T>(name: string): Promise<{ value: T; at: number } | undefined> {
  const held = await (await database()).get("answers", name);
  return held && { value: held.value as T, at: held.at };
}

export const dayName = (person: string) => `day of ${person}`;
export const loadName = (person: string) => `to carry ${person}`;

const OLD = "reedling-parcel ";

/** Parcels as an earlier version kept them move over; each leaves its old place once it is in the new one. */
async function adoptOld(db: IDBPDatabase<Kept>): Promise<void> {
  const old: { key: string; parcel: Parcel & { n: number } }[] = [];
  for (let i = 0; i < localStorage.length; i++) {
    const key = localStorage.key(i);
    if (!key?.startsWith(OLD)) continue;
    try {
      old.push({ key, parcel: JSON.parse(localStorage.getItem(key) ?? "") });
    } catch {
      // Not to be read: it stays for somebody who can.
    }
  }
  old.sort((one, other) => one.parcel.at - other.parcel.at || one.parcel.n - other.parcel.n);
  for (const { key, parcel } of old) {
    const { n: _n, ...kept } = parcel;
    const there = (await db.getAllFromIndex("parcels", "person", kept.person)).some((p) => p.id === kept.id);
    if (!there) await db.add("parcels", kept as Parcel);
    localStorage.removeItem(key);
  }
}

/** Close the database, so that a test begins with an empty one. */
export async function closeDatabase(): Promise<void> {
  const db = await opened;
  opened = null;
  db?.close();
}
