import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, renderHook, waitFor } from "@testing-library/react";
import { type ReactNode, useState } from "react";
import { expect, test } from "vitest";
import type { PlanView } from "../src/api/types";
import { type Change, rework, setPlan, useDraft } from "../src/draft/use-draft";
import { type Answer, type Asked, refusal, server } from "./answers";

const around = ({ children }: { children: ReactNode }) => (
  <QueryClientProvider client={new QueryClient()}>{children}</QueryClientProvider>
);

const plan = (version: number, phrases: string[] = []) =>
  ({
    document: "WP-1",
    letter: "B",
    kind: "plan",
    state: "Draft",
    etag: `"${version}"`,
    content: { title: "Rake", phrases, steps: [] },
  }) as unknown as PlanView;

const saved = (view: PlanView): Answer => ({
  status: 200,
  body: {
    plan: view,
    table: null,
    incident_type: null,
    summary: "",
    inverse: [{ op: "remove", path: "/x" }],
  },
});

function open(answer: (asked: Asked, n: number) => Answer | Promise<Answer>) {
  const { asked } = server(answer);
  const again = { count: 0 };
  const { result } = renderHook(
    () => {
      const [view, setView] = useState(plan(1));
      const [keeper] = useState({
        put: setView,
        again: async () => {
          again.count += 1;
          setView(plan(7, ["theirs"]));
        },
      });
      return { view, draft: useDraft<PlanView>(view, keeper) };
    },
    { wrapper: around },
  );
  const edits = () => asked.filter((a) => a.method === "PATCH");
  const change = (part: Change<PlanView["content"]>) => act(() => result.current.draft.change(part));
  return { result, edits, change, again };
}

const phrase = (text: string) => rework<PlanView["content"], "phrases">("phrases", (now) => [...now, text]);

test("changes go one after the other, each worked out from what the one before left", async () => {
  let version = 1;
  let phrases: string[] = [];
  const { edits, result } = open(async ({ body }) => {
    await new Promise((done) => setTimeout(done, 5));
    phrases = ((body as { value: string[] }[]).at(-1) as { value: string[] }).value;
    version += 1;
    return saved(plan(version, phrases));
  });
  await act(async () => {
    await Promise.all(["one", "two", "three"].map((text) => result.current.draft.change(phrase(text))));
  });
  expect(edits().map((a) => a.ifMatch)).toEqual(['"1"', '"2"', '"3"']);
  expect(phrases).toEqual(["one", "two", "three"]);
  expect(result.current.draft.canUndo).toBe(true);
});

test("a change that somebody else was before is not made over theirs, and can be made again", async () => {
  let stale = true;
  const { result, change, edits, again } = open(() =>
    stale ? refusal(412, "drafts.stale", "Pia saved meanwhile.") : saved(plan(8, ["theirs", "mine"])),
  );
  await change(phrase("mine"));
  expect(result.current.draft.clash?.message).toBe("Pia saved meanwhile.");
  expect([again.count, result.current.draft.canUndo]).toEqual([1, false]);
  stale = false;
  await act(async () => result.current.draft.clash?.again());
  await waitFor(() => expect(edits()).toHaveLength(2));
  expect(edits()[1]).toMatchObject({
    ifMatch: '"7"',
    body: [{ op: "add", path: "/phrases", value: ["theirs", "mine"] }],
  });
  await waitFor(() => expect(result.current.draft.clash).toBeNull());
});

test("while there is no connection a change is kept, and sent when there is one", async () => {
  let up = false;
  const { result, edits } = open(() => (up ? saved(plan(2)) : "down"));
  let done: Promise<unknown> = Promise.resolve();
  act(() => {
    done = result.current.draft.change(setPlan("title", "New"));
  });
  await waitFor(() => expect(result.current.draft.saving.words).toContain("kept on this device"));
  expect(localStorage.length).toBe(1);
  up = true;
  await act(async () => {
    window.dispatchEvent(new Event("online"));
    await done;
  });
  expect(edits()).toHaveLength(2);
  expect([localStorage.length, result.current.draft.saving.state]).toEqual([0, "saved"]);
});

test("a refusal that waiting does not mend is not tried again", async () => {
  const { result, edits, change } = open(() => refusal(422, "drafts.too_large", "It is too long."));
  let dealtWith = "";
  await act(() =>
    result.current.draft.change(setPlan("title", "x"), (refused) => {
      dealtWith = refused.message;
      return true;
    }),
  );
  expect([dealtWith, edits().length, localStorage.length]).toEqual(["It is too long.", 1, 0]);
  await change({ patch: () => null });
  expect(edits()).toHaveLength(1);
});

test("undo pressed before the answer takes back the change that is on its way", async () => {
  const { result, edits } = open(async (_, n) => {
    await new Promise((done) => setTimeout(done, 20));
    return saved(plan(n + 1));
  });
  await act(async () => {
    const going = result.current.draft.change(setPlan("title", "New"));
    result.current.draft.undo();
    await going;
  });
  await waitFor(() => expect(edits()).toHaveLength(2));
  expect(edits()[1]?.body).toEqual([{ op: "remove", path: "/x" }]);
});
