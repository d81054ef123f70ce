import { Blob as NodeBlob } from "node:buffer";
import { waitFor } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import type { FieldEvent, PocketOrder } from "../src/api/types";
import * as store from "../src/pocket/device-store";
import { Outbox, SENT, standingWords } from "../src/pocket/outbox";
import { type Answer, type Asked, refusal, server } from "./answers";

const note = (text: string) =>
  ({ kind: "note written", at: "2026-01-01T00:00:00Z", text, line: null }) as FieldEvent;
const CHECKED = { isChecked: true };
let nRecorded = 0;
const taken = (asked: Asked): Answer => ({
  status: 200,
  body: { submission: (asked.body as { id: string }).id, loose: "", n_recorded: ++nRecorded },
});
const textOf = (asked: Asked) => (asked.body as { events: { text: string }[] }).events[0]?.text;
const order = (id: string, n: number) =>
  ({ line: { id }, version: "1", n_recorded: n, loose: [] }) as unknown as PocketOrder;
const keep = (person: string, of: string, text: string) =>
  store.keepParcels([{ id: crypto.randomUUID(), person, order: of, events: [note(text)], at: 1 }]);

test("what is recorded stays until the server has it and the order fetched since holds it", async () => {
  let up = false;
  const { asked } = server((one) => (up ? taken(one) : "down"));
  const box = new Outbox("runa");
  expect(await box.record("WO-1", [note("first")], CHECKED)).toHaveLength(1);
  await waitFor(() => expect(box.snapshot().held).toBe("offline"));
  expect(box.snapshot().parcels).toHaveLength(1);
  up = true;
  await box.flush();
  expect(box.snapshot().parcels).toHaveLength(0);
  const [kept] = await store.parcelsOf("runa");
  expect(kept?.recorded, "still replayed here").toBe(nRecorded);
  await store.keepOrder("runa", order("WO-1", nRecorded - 1));
  expect(await store.parcelsOf("runa")).toHaveLength(1);
  await store.keepOrder("runa", order("WO-1", nRecorded));
  expect(await store.parcelsOf("runa")).toHaveLength(0);
  expect(new Set(asked.map((a) => (a.body as { id: string }).id)).size).toBe(1);
});

test("parcels go one after the other, in the order they were recorded", async () => {
  for (const text of ["one", "two", "three"]) await keep("runa", "WO-1", text);
  const { asked } = server(taken);
  await new Outbox("runa").flush();
  expect(asked.map(textOf)).toEqual(["one", "two", "three"]);
});

test("two tabs give each parcel a place of its own", async () => {
  server(() => "down");
  const tabs = [new Outbox("runa"), new Outbox("runa")];
  await Promise.all(
    Array.from({ length: 20 }, (_, n) => tabs[n % 2]?.record("WO-1", [note(`note ${n}`)], CHECKED)),
  );
  const kept = await store.parcelsOf("runa");
  expect(kept).toHaveLength(20);
  expect(new Set(kept.map((p) => p.n)).size).toBe(20);
  await Promise.all(tabs.map((tab) => tab.flush()));
});

test("what is refused stays with its reason, and those behind it go on", async () => {
  await keep("runa", "WO-1", "bad");
  await keep("runa", "WO-2", "good");
  server((one) =>
    one.path.includes("WO-1") ? refusal(409, "submissions.reused", "It was used before.") : taken(one),
  );
  const box = new Outbox("runa");
  await box.flush();
  expect(box.snapshot().parcels.map((p) => p.refusal?.detail)).toEqual(["It was used before."]);
  const [refused] = box.snapshot().parcels;
  if (refused) await box.settle(refused);
  expect(box.snapshot().parcels).toHaveLength(0);
  expect(box.snapshot().settled).toHaveLength(1);
});

test("what the job cannot take in is with the server, and whoever shows the order is told", async () => {
  const told: unknown[] = [];
  window.addEventListener(SENT, (event) => told.push((event as CustomEvent).detail));
  await keep("runa", "WO-1", "late");
  server((one) => ({
    status: 200,
    body: { submission: (one.body as { id: string }).id, loose: "WO-1: it is cancelled.", n_recorded: 3 },
  }));
  await new Outbox("runa").flush();
  expect(await store.parcelsOf("runa")).toHaveLength(0);
  expect(told).toEqual([{ order: "WO-1", loose: true }]);
});

test("a receipt that names another submission takes nothing off the device", async () => {
  await keep("runa", "WO-1", "mine");
  server(() => ({ status: 200, body: { submission: "another", loose: "", n_recorded: 1 } }));
  const box = new Outbox("runa");
  await box.flush();
  expect(box.snapshot().parcels).toHaveLength(1);
  expect(box.snapshot().held).toBe("busy");
});

test("nobody sends or sees what another person recorded", async () => {
  await keep("teo", "WO-1", "Teo's");
  const { asked } = server(taken);
  const box = new Outbox("runa");
  await box.record("WO-2", [note("Runa's")], CHECKED);
  await box.flush();
  expect(asked.map((a) => a.path.includes("WO-1"))).not.toContain(true);
  expect(await store.parcelsOf("teo")).toHaveLength(1);
  expect(await store.peopleWithUnsent()).toEqual(["teo"]);
});

test("what the device cannot keep is not said to be recorded", async () => {
  server(taken);
  vi.spyOn(IDBObjectStore.prototype, "add").mockImplementation(() => {
    throw new DOMException("full", "QuotaExceededError");
  });
  const box = new Outbox("runa");
  expect(await box.record("WO-1", [note("lost")], CHECKED)).toBeNull();
  expect(box.snapshot().lost).toContain("This is not recorded");
});

test("orders that are no longer needed are cleared, but none with something unsent", async () => {
  for (const id of ["WO-1", "WO-2", "WO-3"]) await store.keepOrder("runa", order(id, 0));
  await keep("runa", "WO-2", "unsent");
  await store.clearOrders("runa", new Set(["WO-1"]));
  expect((await store.takenOrders("runa")).map((taken) => taken.id)).toEqual(["WO-1", "WO-2"]);
  expect(await store.parcelsOf("runa")).toHaveLength(1);
});

test("what an earlier version kept moves over, once", async () => {
  const old = { id: "a-1", person: "runa", order: "WO-1", events: [note("old")], at: 5, n: 1 };
  localStorage.setItem("reedling-parcel runa a-1", JSON.stringify(old));
  expect((await store.parcelsOf("runa")).map((p) => p.id)).toEqual(["a-1"]);
  expect(localStorage.length).toBe(0);
});

test("pictures go the smallest first, and events do not wait for them", async () => {
  const order = (size: number) => ({
    order: "WO-1",
    question: "q",
    name: "photo.jpg",
    // jsdom's own cannot be put into a database.
    blob: new NodeBlob([new Uint8Array(size)]) as unknown as Blob,
  });
  let up = false;
  const begun: number[] = [];
  server((one) => {
    if (one.path.endsWith("submissions")) return taken(one);
    if (!up) return "down";
    begun.push((one.body as { size: number }).size);
    return { status: 200, body: { have: 1, is_kept: true } };
  });
  const box = new Outbox("runa");
  await box.keepPicture(order(900));
  await box.keepPicture(order(100));
  await box.record("WO-1", [note("while pictures wait")], CHECKED);
  await box.flush();
  expect(box.snapshot().parcels).toHaveLength(0);
  expect(standingWords({ isRead: true, held: "" }, [], box.snapshot().pictures)).toBe(
    "2 pictures on the way",
  );
  up = true;
  await box.flushPictures();
  expect(begun).toEqual([100, 900]);
  expect(box.snapshot().pictures).toHaveLength(0);
});

test("nothing is said to be sent before what is kept here was read", () => {
  expect(standingWords(new Outbox("runa").snapshot(), [], [])).toBe("");
});
