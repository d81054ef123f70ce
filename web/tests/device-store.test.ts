import { openDB } from "idb";
import { expect, it } from "vitest";
import { parcelsOf, takenOrder } from "../src/pocket/device-store";

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
