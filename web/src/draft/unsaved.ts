import { v4 as newId } from "uuid";
import type { PatchOperation, PlanEdit, TableEdit } from "../api/types";

/** What is sent to save one change of a draft. */
export type ChangeBody =
  | { patch: PatchOperation[] }
  | { edit: PlanEdit }
  | { tableEdit: TableEdit; begin?: boolean };

/** A change that the server does not have yet, kept on this device, with the tag of the draft it was made to. */
export interface Unsaved {
  id: string;
  etag: string;
  body: ChangeBody;
  at: number;
}

const keyOf = (draft: string) => `reedling-unsaved ${draft}`;

/** Changes of a draft that were made on this device and never saved, the oldest first. */
export function unsavedOf(draft: string): Unsaved[] {
  try {
    return JSON.parse(localStorage.getItem(keyOf(draft)) ?? "[]") as Unsaved[];
  } catch {
    return [];
  }
}

/** Keep a change; gives its identity, or nothing where the browser cannot keep it. */
export function keepUnsaved(draft: string, etag: string, body: ChangeBody): string | null {
  const id = newId();
  return write(draft, [...unsavedOf(draft), { id, etag, body, at: Date.now() }]) ? id : null;
}

/** The change is saved, or its writer let it go. */
export function forgetUnsaved(draft: string, id: string | null) {
  if (id)
    write(
      draft,
      unsavedOf(draft).filter((kept) => kept.id !== id),
    );
}

function write(draft: string, all: Unsaved[]): boolean {
  try {
    if (all.length === 0) localStorage.removeItem(keyOf(draft));
    else localStorage.setItem(keyOf(draft), JSON.stringify(all));
    return true;
  } catch {
    return false;
  }
}

interface Identified {
  id: string;
  questions?: Identified[];
}

/**
 * The operations, each behind a test that the step or question it goes into still stands where it stood:
 * what is sent later must never change another one.
 */
export function guarded(operations: PatchOperation[], content: unknown): PatchOperation[] {
  const steps = (content as { steps?: Identified[] }).steps ?? [];
  const tests = new Map<string, string>();
  for (const { path } of operations) {
    const [, step, question] = /^\/steps\/(\d+)(?:\/questions\/(\d+))?\//.exec(path) ?? [];
    const found = step === undefined ? undefined : steps[Number(step)];
    if (!found) continue;
    tests.set(`/steps/${step}/id`, found.id);
    const asked = question === undefined ? undefined : found.questions?.[Number(question)];
    if (asked) tests.set(`/steps/${step}/questions/${question}/id`, asked.id);
  }
  return [...[...tests].map(([path, value]) => ({ op: "test" as const, path, value })), ...operations];
}
