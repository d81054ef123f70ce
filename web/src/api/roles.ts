import type { Person } from "./types";

/** Whether somebody writes guidance and reads evidence: what the server lets engineers and approvers do. */
export const mayWrite = (person: Person) => person.role === "engineer" || person.role === "approver";
