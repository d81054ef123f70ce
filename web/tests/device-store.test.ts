import { openDB } from "idb";
import { expect, it } from "vitest";
import type { PocketOrder } from "../src/api/types";
import {
  clearOrders,
  keepOrder,
  keepView,
  parcelsOf,
  takenOrder,
  takenOrders,
} from "../src/pocket/device-store";
import type { JobView } from "../src/pocket/rules";

it("carries on what an earlier version kept, with the questions of a step by their name", async () => {
  const old = await openDB("reedling", 1, {
    upgrade(db) {
      db.createObjectStore("parcels", { keyPath: "n", autoIncrement: true }).createIndex("person", "person");
      db.createObjectStore("pictures", { keyPath: "id" }).createIndex("person", "person");
      db.createObjectStore("orders", { keyPath: ["person", "id"] });
      db.createObjectStore("answers", { keyPath: "name" });
    },
  });
  const line = { id: "s", proofs: [{ id: "q", label: 'Say "proofs": yes' }] };
  const order = (id: string) => ({
    person: "r",
    id,
    order: { runsheet: { lines: [line] } },
    view: null,
    fetchedAt: 1,
  });
  await old.put("orders", order("WO-1"));
  await old.put("orders", order("WO-2"));
  const parcel = { id: "p", person: "r", order: "WO-1", events: [], at: 1 };
  await old.put("parcels", parcel);
  old.close();

  for (const id of ["WO-1", "WO-2"])
    expect((await takenOrder("r", id))?.order).toEqual({
      runsheet: { lines: [{ id: "s", questions: line.proofs }] },
    });
  expect(await parcelsOf("r")).toEqual([{ ...parcel, n: 1 }]);
});

const ORDER = { line: { id: "WO-1" }, n_recorded: 0, version: "1" } as unknown as PocketOrder;
const VIEW = { state: "on site" } as unknown as JobView;

it("carries on where jobs stood that an earlier version kept with their orders", async () => {
  const old = await openDB("reedling", 2, {
    upgrade(db) {
      db.createObjectStore("parcels", { keyPath: "n", autoIncrement: true }).createIndex("person", "person");
      db.createObjectStore("pictures", { keyPath: "id" }).createIndex("person", "person");
      db.createObjectStore("orders", { keyPath: ["person", "id"] });
      db.createObjectStore("answers", { keyPath: "name" });
    },
  });
  const taken = { person: "r", id: "WO-1", order: ORDER, view: VIEW, fetchedAt: 1 };
  await old.put("orders", taken);
  await old.put("orders", { ...taken, person: "t", view: null });
  old.close();

  expect(await takenOrder("r", "WO-1")).toEqual(taken);
  expect(await takenOrder("t", "WO-1")).toEqual({ ...taken, person: "t", view: null });
  expect(await takenOrders("r")).toEqual([taken]);
});

it("keeps where a job stands beside its order, and nothing of an order that was cleared", async () => {
  await keepView("r", "WO-1", VIEW);
  expect(await takenOrder("r", "WO-1")).toBeUndefined();
  await keepOrder("r", ORDER, 1);
  expect((await takenOrder("r", "WO-1"))?.view).toBeNull();
  await keepView("r", "WO-1", VIEW);
  // Fetched anew, it stands where it stood.
  await keepOrder("r", { ...ORDER, version: "2" }, 2);
  expect(await takenOrder("r", "WO-1")).toMatchObject({ order: { version: "2" }, view: VIEW });
  expect(await takenOrder("t", "WO-1")).toBeUndefined();

  await clearOrders("r", new Set());
  expect(await takenOrders("r")).toEqual([]);
  await keepView("r", "WO-1", VIEW);
  await keepOrder("r", ORDER, 3);
  expect((await takenOrder("r", "WO-1"))?.view).toBeNull();
});
