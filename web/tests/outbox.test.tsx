import { Blob as NodeBlob } from "node:buffer";
import { waitFor } from "@testing-library/react";
import { expect, test, vi } from "vitest";
import type { FieldEvent, PocketOrder } from "../src/api/types";
import * as store from "../src/pocket/device-store";
import { type Noted, Outbox, SENT, standingWords } from "../src/pocket/outbox";
import { type Answer, type Asked, refusal, server } from "./answers";

const note = (text: string) =>
  ({ kind: "note written", at: "2026-01-01T00:00:00Z", text, line: null }) as FieldEvent;
const CHECKED = { isChecked: true };
const record = async (box: Outbox, of: string, text: string): Promise<Noted | null> => {
  const noted = await box.note(of, [note(text)]);
  if (noted) await box.release(noted, CHECKED);
  return noted;
};
let nRecorded = 0;
interface Sent {
  id: string;
  order: string;
  events: { text: string }[];
}
const sentIn = (asked: Asked) => (asked.body as { submissions: Sent[] }).submissions;
const receipt = (sent: Sent, loose = "") => ({
  submission: sent.id,
  receipt: { submission: sent.id, loose, n_recorded: ++nRecorded },
});
const taken = (asked: Asked): Answer => ({
  status: 200,
  body: sentIn(asked).map((sent) => receipt(sent)),
});
const order = (id: string, n: number) =>
  ({ line: { id }, version: "1", n_recorded: n, loose: [] }) as unknown as PocketOrder;
const keep = (person: string, of: string, text: string) =>
  store.keepParcels([{ id: crypto.randomUUID(), person, order: of, events: [note(text)], at: 1 }]);

test("what is recorded stays until the server has it and the order fetched since holds it", async () => {
  let up = false;
  const { asked } = server((one) => (up ? taken(one) : "down"));
  const box = new Outbox("runa");
  expect((await record(box, "WO-1", "first"))?.ids).toHaveLength(1);
  await waitFor(() => expect(box.snapshot().held).toBe("offline"));
  expect(box.snapshot().parcels).toHaveLength(1);
  up = true;
  await box.flush();
  expect(box.snapshot().parcels).toHaveLength(0);
  const [kept] = await store.parcelsOf("runa");
  expect(kept?.recorded, "still replayed here").toBe(nRecorded);
  await store.keepOrder("runa", order("WO-1", nRecorded - 1), Date.now());
  expect(await store.parcelsOf("runa")).toHaveLength(1);
  await store.keepOrder("runa", order("WO-1", nRecorded), Date.now());
  expect(await store.parcelsOf("runa")).toHaveLength(0);
  expect(new Set(asked.flatMap(sentIn).map((sent) => sent.id)).size).toBe(1);
});

const texts = (asked: Asked[]) => asked.map((one) => sentIn(one).map((sent) => sent.events[0]?.text));

test("parcels go together, in the order they were recorded", async () => {
  for (const text of ["one", "two", "three"]) await keep("runa", "WO-1", text);
  const { asked } = server(taken);
  await new Outbox("runa").flush();
  expect(texts(asked)).toEqual([["one", "two", "three"]]);
});

test("many parcels go in several requests", async () => {
  for (let n = 0; n < 60; n += 1) await keep("runa", "WO-1", `note ${n}`);
  const { asked } = server(taken);
  const box = new Outbox("runa");
  await box.flush();
  expect(texts(asked).map((one) => one.length)).toEqual([25, 25, 10]);
  expect(texts(asked).flat()).toEqual(Array.from({ length: 60 }, (_, n) => `note ${n}`));
  expect(box.snapshot().parcels).toHaveLength(0);
});

test("what the server did not come to is sent again, and nothing twice under another identity", async () => {
  for (const text of ["one", "two", "three"]) await keep("runa", "WO-1", text);
  const { asked } = server((one, n) => ({
    status: 200,
    body: sentIn(one)
      .slice(0, n === 1 ? 1 : 9)
      .map((sent) => receipt(sent)),
  }));
  const box = new Outbox("runa");
  await box.flush();
  expect(box.snapshot().parcels).toHaveLength(2);
  expect(box.snapshot().held).toBe("busy");
  await box.flush();
  expect(box.snapshot().parcels).toHaveLength(0);
  expect(texts(asked)).toEqual([
    ["one", "two", "three"],
    ["two", "three"],
  ]);
});

test("one that cannot even be read holds up none of the others", async () => {
  for (const text of ["one", "bad", "three"]) await keep("runa", "WO-1", text);
  server((one) =>
    sentIn(one).some((sent) => sent.events[0]?.text === "bad")
      ? refusal(422, "request.malformed", "It cannot be read.")
      : taken(one),
  );
  const box = new Outbox("runa");
  await box.flush();
  expect(box.snapshot().parcels.map((p) => p.refusal?.detail)).toEqual(["It cannot be read."]);
});

test("two tabs give each parcel a place of its own", async () => {
  server(() => "down");
  const tabs = [new Outbox("runa"), new Outbox("runa")];
  await Promise.all(Array.from({ length: 20 }, (_, n) => record(tabs[n % 2] as Outbox, "WO-1", `note ${n}`)));
  const kept = await store.parcelsOf("runa");
  expect(kept).toHaveLength(20);
  expect(new Set(kept.map((p) => p.n)).size).toBe(20);
  await Promise.all(tabs.map((tab) => tab.flush()));
});

test("what is refused stays with its reason, and those behind it go on", async () => {
  await keep("runa", "WO-1", "bad");
  await keep("runa", "WO-2", "good");
  server((one) => ({
    status: 200,
    body: sentIn(one).map((sent) =>
      sent.order === "WO-1"
        ? {
            submission: sent.id,
            refusal: { status: 409, code: "submissions.reused", detail: "It was used before." },
          }
        : receipt(sent),
    ),
  }));
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
    body: sentIn(one).map((sent) => receipt(sent, "WO-1: it is cancelled.")),
  }));
  await new Outbox("runa").flush();
  expect(await store.parcelsOf("runa")).toHaveLength(0);
  expect(told).toEqual([{ order: "WO-1", loose: true }]);
});

test("a receipt that names another submission takes nothing off the device", async () => {
  await keep("runa", "WO-1", "mine");
  server((one) => ({
    status: 200,
    body: sentIn(one).map((sent) => ({ ...receipt({ ...sent, id: "another" }), submission: sent.id })),
  }));
  const box = new Outbox("runa");
  await box.flush();
  expect(box.snapshot().parcels).toHaveLength(1);
  expect(box.snapshot().held).toBe("busy");
});

test("nobody sends or sees what another person recorded", async () => {
  await keep("teo", "WO-1", "Teo's");
  const { asked } = server(taken);
  const box = new Outbox("runa");
  await record(box, "WO-2", "Runa's");
  await box.flush();
  expect(asked.flatMap(sentIn).map((sent) => sent.order)).toEqual(["WO-2"]);
  expect(await store.parcelsOf("teo")).toHaveLength(1);
  expect(await store.peopleWithUnsent()).toEqual(["teo"]);
});

test("what is noted is on the device at once, and goes to the server once the rules have looked at it", async () => {
  const { asked } = server(taken);
  const box = new Outbox("runa");
  await box.look();
  const noting = box.note("WO-1", [note("first")]);
  expect(standingWords(box.snapshot(), box.snapshot().parcels, []), "before it is kept").toBe("recording");
  const noted = (await noting) as Noted;
  expect(await store.parcelsOf("runa")).toHaveLength(1);
  await box.flush();
  expect(asked, "the rules still look at it").toHaveLength(0);
  expect(standingWords(box.snapshot(), box.snapshot().parcels, [])).toBe("recording");
  await box.release(noted, CHECKED);
  await box.flush();
  expect(texts(asked)).toEqual([["first"]]);
  expect(standingWords(box.snapshot(), box.snapshot().parcels, [])).toBe("all sent");
});

test("what the rules refuse is taken back, and what was released is not", async () => {
  const { asked } = server(taken);
  const box = new Outbox("runa");
  const refused = (await box.note("WO-1", [note("refused")])) as Noted;
  expect(await box.withdraw(refused)).toBe(true);
  expect(await store.parcelsOf("runa")).toHaveLength(0);
  const released = (await record(box, "WO-1", "released")) as Noted;
  expect(await box.withdraw(released)).toBe(false);
  await box.flush();
  expect(texts(asked)).toEqual([["released"]]);
});

test("what a page noted that was gone before its rules had looked at it is sent all the same", async () => {
  const left = { person: "runa", order: "WO-1", checkedBy: "a page that is gone" };
  const now = Date.now();
  await store.keepParcels([
    { ...left, id: "left", events: [note("left")], at: now - 120_000 },
    { ...left, id: "just now", events: [note("just now")], at: now },
  ]);
  const { asked } = server(taken);
  await new Outbox("runa").flush();
  const sent = asked.flatMap(
    (one) => (one.body as { submissions: { id: string; checked: boolean }[] }).submissions,
  );
  expect(
    sent.map((one) => [one.id, one.checked]),
    "this browser cannot tell which pages are open",
  ).toEqual([["left", false]]);
});

test("what the device cannot keep is not said to be recorded", async () => {
  server(taken);
  vi.spyOn(IDBObjectStore.prototype, "add").mockImplementation(() => {
    throw new DOMException("full", "QuotaExceededError");
  });
  const box = new Outbox("runa");
  expect(await record(box, "WO-1", "lost")).toBeNull();
  expect(box.snapshot().lost).toContain("This is not recorded");
});

test("an answer that was asked for before a newer one came takes nothing back", async () => {
  const asked = Date.now() - 1000;
  await store.keepOrder("runa", order("WO-1", 5), Date.now());
  await store.keepOrder("runa", order("WO-1", 3), asked);
  expect((await store.takenOrder("runa", "WO-1"))?.order.n_recorded).toBe(5);
  await store.keepOrder("runa", order("WO-1", 3), Date.now() + 1000);
  expect((await store.takenOrder("runa", "WO-1"))?.order.n_recorded, "put back at the server since").toBe(3);
});

test("orders that are no longer needed are cleared, but none with something unsent", async () => {
  for (const id of ["WO-1", "WO-2", "WO-3"]) await store.keepOrder("runa", order(id, 0), Date.now());
  await keep("runa", "WO-2", "unsent");
  await store.clearOrders("runa", new Set(["WO-1"]));
  expect((await store.takenOrders("runa")).map((taken) => taken.id)).toEqual(["WO-1", "WO-2"]);
  expect(await store.parcelsOf("runa")).toHaveLength(1);
});

test("with a person who signs out goes what they had of the office, also what comes after", async () => {
  for (const id of ["WO-1", "WO-2"]) await store.keepOrder("runa", order(id, 0), Date.now());
  await keep("runa", "WO-2", "unsent");
  await store.keepAnswer(store.dayName("runa"), { orders: [] });
  await store.leaveDevice("runa");
  await store.keepOrder("runa", order("WO-3", 0), Date.now());
  await store.keepAnswer(store.dayName("runa"), { orders: [] });
  expect((await store.takenOrders("runa")).map((taken) => taken.id)).toEqual(["WO-2"]);
  expect(await store.keptAnswer(store.dayName("runa"))).toBeUndefined();
  store.takeUp("runa");
  await store.keepOrder("runa", order("WO-3", 0), Date.now());
  expect((await store.takenOrders("runa")).map((taken) => taken.id)).toEqual(["WO-2", "WO-3"]);
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
  await record(box, "WO-1", "while pictures wait");
  await box.flush();
  expect(box.snapshot().parcels).toHaveLength(0);
  expect(standingWords({ isRead: true, held: "", nComing: 0 }, [], box.snapshot().pictures)).toBe(
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
