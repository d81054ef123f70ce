import { expect, test } from "vitest";
import type { TableChange, TableView } from "../src/api/types";
import { withChange } from "../src/draft/table-change";

const row = (id: string, text = id) => ({ id, texts: [text], documents: [] });
const view = (...ids: string[]) =>
  ({
    rows: ids.map((id) => row(id)),
    columns: ["kept"],
    more_columns: ["kept"],
    etag: "1",
  }) as unknown as TableView;
const change = (part: Partial<TableChange>) =>
  ({ rows: [], row_ids: null, columns: null, more_columns: null, etag: "2", ...part }) as TableChange;

test("a changed cell leaves every other row as it is", () => {
  const before = view("a", "b", "c");
  const after = withChange(before, change({ rows: [row("b", "new")] }));
  expect(after.rows.map((r) => r.texts[0])).toEqual(["a", "new", "c"]);
  expect(after.rows[0]).toBe(before.rows[0]);
  expect([after.columns, after.etag]).toEqual([["kept"], "2"]);
});

test("rows are added, removed and moved as the order says", () => {
  const after = withChange(view("a", "b", "c"), change({ rows: [row("d")], row_ids: ["c", "d", "a"] }));
  expect(after.rows.map((r) => r.id)).toEqual(["c", "d", "a"]);
});
