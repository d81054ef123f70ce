import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { expect, test } from "vitest";
import type { FieldEvent } from "../src/api/types";
import { useOutbox } from "../src/pocket/outbox";
import { keepParcel, parcelsOf } from "../src/pocket/parcels";
import { type Answer, type Asked, refusal, server } from "./answers";

const around = ({ children }: { children: ReactNode }) => (
  <QueryClientProvider client={new QueryClient()}>{children}</QueryClientProvider>
);
const note = (text: string) => ({ kind: "noted", at: "2026-01-01T00:00:00Z", text }) as unknown as FieldEvent;
const taken = (asked: Asked): Answer => ({
  status: 200,
  body: { submission: (asked.body as { id: string }).id },
});
const open = (person = "runa") => renderHook(() => useOutbox(person), { wrapper: around });

test("what is recorded leaves the device only when the server has it", async () => {
  let up = false;
  const { asked } = server((one) => (up ? taken(one) : "down"));
  const { result } = open();
  await act(() => result.current.record("WO-1", [note("first")]));
  expect(parcelsOf("runa")).toHaveLength(1);
  expect(result.current.held).toBe("offline");
  up = true;
  await act(async () => {
    window.dispatchEvent(new Event("online"));
  });
  await waitFor(() => expect(parcelsOf("runa")).toHaveLength(0));
  const ids = asked.map((a) => (a.body as { id: string }).id);
  expect(new Set(ids).size).toBe(1);
});

test("parcels go one after the other, in the order they were recorded", async () => {
  for (const text of ["one", "two", "three"]) keepParcel("runa", "WO-1", [note(text)]);
  const { asked } = server(taken);
  open();
  await waitFor(() => expect(parcelsOf("runa")).toHaveLength(0));
  const told = asked.map((a) => (a.body as { events: { text: string }[] }).events[0]?.text);
  expect(told).toEqual(["one", "two", "three"]);
});

test("what is refused stays with its reason, and those behind it go on", async () => {
  keepParcel("runa", "WO-1", [note("bad")]);
  keepParcel("runa", "WO-2", [note("good")]);
  server((one) =>
    one.path.includes("WO-1") ? refusal(409, "orders.state", "It is cancelled.") : taken(one),
  );
  const { result } = open();
  await waitFor(() => expect(result.current.parcels).toHaveLength(1));
  await waitFor(() => expect(result.current.parcels[0]?.refusal?.detail).toBe("It is cancelled."));
  act(() => {
    const refused = result.current.parcels[0];
    if (refused) result.current.settle(refused);
  });
  expect(result.current.parcels).toHaveLength(0);
  expect(result.current.settled).toHaveLength(1);
});

test("nobody sends or sees what another person recorded", async () => {
  keepParcel("teo", "WO-1", [note("Teo's")]);
  const { asked } = server(taken);
  const { result } = open("runa");
  await act(() => result.current.record("WO-2", [note("Runa's")]));
  expect(asked.map((a) => a.path.includes("WO-1"))).not.toContain(true);
  expect(parcelsOf("teo")).toHaveLength(1);
});

test("what the device cannot keep is not said to be recorded", async () => {
  server(taken);
  const { result } = open();
  const setItem = Storage.prototype.setItem;
  Storage.prototype.setItem = () => {
    throw new DOMException("full", "QuotaExceededError");
  };
  try {
    let kept = true;
    await act(async () => {
      kept = await result.current.record("WO-1", [note("lost")]);
    });
    expect(kept).toBe(false);
    expect(result.current.lost).toContain("not recorded");
  } finally {
    Storage.prototype.setItem = setItem;
  }
});

test("an answer that is no receipt for it does not take a parcel off the device", async () => {
  keepParcel("runa", "WO-1", [note("first")]);
  server(() => ({ status: 200, body: { submission: "another" } }));
  const { result } = open();
  await waitFor(() => expect(result.current.held).toBe("busy"));
  expect(parcelsOf("runa")).toHaveLength(1);
});
