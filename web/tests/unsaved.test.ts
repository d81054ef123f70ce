import { expect, test } from "vitest";
import { forgetUnsaved, guarded, keepUnsaved, unsavedOf } from "../src/draft/unsaved";

const content = { steps: [{ id: "first", questions: [{ id: "q" }] }, { id: "second" }] };

test("each operation goes behind a test that its step and question still stand there", () => {
  const op = { op: "add" as const, path: "/steps/0/questions/0/label", value: "New" };
  expect(guarded([op], content)).toEqual([
    { op: "test", path: "/steps/0/id", value: "first" },
    { op: "test", path: "/steps/0/questions/0/id", value: "q" },
    op,
  ]);
  const whole = { op: "add" as const, path: "/title", value: "New" };
  expect(guarded([whole], content)).toEqual([whole]);
});

test("what is not saved is kept by draft until it is let go", () => {
  const kept = keepUnsaved("WP-1 B", "tag", { patch: [] });
  keepUnsaved("WP-2 A", "tag", { patch: [] });
  expect(unsavedOf("WP-1 B").map((u) => u.id)).toEqual([kept]);
  forgetUnsaved("WP-1 B", kept);
  expect(unsavedOf("WP-1 B")).toEqual([]);
  expect(unsavedOf("WP-2 A")).toHaveLength(1);
});

test("what the browser cannot keep is said, not thrown", () => {
  const full = () => {
    throw new DOMException("full", "QuotaExceededError");
  };
  const setItem = Storage.prototype.setItem;
  Storage.prototype.setItem = full;
  try {
    expect(keepUnsaved("WP-1 B", "tag", { patch: [] })).toBeNull();
  } finally {
    Storage.prototype.setItem = setItem;
  }
});
