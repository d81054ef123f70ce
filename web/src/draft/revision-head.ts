import type { PlanView } from "../api/types";

/** What the head of a sheet needs of a revision, whatever kind of document it is of. */
export type RevisionHead = Pick<
  PlanView,
  | "document"
  | "kind"
  | "letter"
  | "state"
  | "etag"
  | "changed_at"
  | "note"
  | "in_force"
  | "next_letter"
  | "history"
>;
