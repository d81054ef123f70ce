import type { TableChange, TableView } from "../api/types";

/** The table as an edit leaves it: the answer to an edit holds only what changed. */
export function withChange(view: TableView, change: TableChange): TableView {
  const changed = new Map(change.rows.map((row) => [row.id, row]));
  const held = new Map(view.rows.map((row) => [row.id, row]));
  const ids = change.row_ids ?? view.rows.map((row) => row.id);
  return {
    ...view,
    ...change,
    columns: change.columns ?? view.columns,
    more_columns: change.more_columns ?? view.more_columns,
    rows: ids.flatMap((id) => changed.get(id) ?? held.get(id) ?? []),
  };
}
