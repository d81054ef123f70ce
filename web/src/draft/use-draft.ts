import { notifications } from "@mantine/notifications";
import { useCallback, useEffect, useRef, useState } from "react";
import { client, mayPass, need, Refused, SIGNED_IN_AGAIN, Unreachable } from "../api/client";
import { keys, useCache } from "../api/queries";
import type {
  GuideView,
  IncidentTypeView,
  PatchOperation,
  Plan,
  PlanEdit,
  PlanView,
  Question,
  SavedEdit,
  Step,
  TableEdit,
  TableView,
} from "../api/types";
import { withChange } from "./table-change";
import { type ChangeBody, forgetUnsaved, guarded, keepUnsaved, type Unsaved, unsavedOf } from "./unsaved";

/** The views of the kinds of document that are written here. */
export type Written = PlanView | TableView | IncidentTypeView | GuideView;

/** A change is written against the content as it stands, so that it can be made again after a clash. */
export type Change<C = Plan> =
  | { patch: (content: C) => PatchOperation[] | null }
  | { edit: PlanEdit }
  | { tableEdit: TableEdit; begin?: boolean };

type Saving = { state: "idle" | "saving" | "saved" | "failed"; words: string };

export interface Draft<C = Plan> {
  saving: Saving;
  canUndo: boolean;
  canRedo: boolean;
  /** `onRefused` may deal with a refusal itself; then it is not told of as a notification. */
  change: (change: Change<C>, onRefused?: (refused: Refused) => boolean) => Promise<SavedEdit | undefined>;
  undo: () => void;
  redo: () => void;
  clash: { message: string; again: () => void; drop: () => void } | null;
  /** Changes that were made on this device earlier and never saved: to be made again, or let go. */
  leftOver: { n: number; words: string; again: () => void; drop: () => void } | null;
}

const FIRST_WAIT_MS = 1_500;
const LONGEST_WAIT_MS = 20_000;

type Inverse = SavedEdit["inverse"];

/** Where a draft's view is kept: put a newer one there, or read it again. */
export interface Keeper<V extends Written = PlanView> {
  put: (view: V) => void;
  again: () => Promise<unknown>;
}

/** The undo and redo of a revision last as long as the sitting, through reloads and other pages. */
function useKept(key: string): [Inverse[], (change: (all: Inverse[]) => Inverse[]) => void, () => Inverse[]] {
  const read = useCallback((): Inverse[] => {
    try {
      return JSON.parse(sessionStorage.getItem(key) ?? "[]") as Inverse[];
    } catch {
      return [];
    }
  }, [key]);
  const [, redraw] = useState(0);
  const change = useCallback(
    (make: (all: Inverse[]) => Inverse[]) => {
      const all = make(read());
      // The browser keeps a few megabytes: where all of it does not fit, the latest half of it may.
      for (let n = Math.min(all.length, 200); ; n = Math.floor(n / 2)) {
        try {
          sessionStorage.setItem(key, JSON.stringify(n > 0 ? all.slice(-n) : []));
          break;
        } catch (error) {
          if (n === 0) throw error;
        }
      }
      redraw((n) => n + 1);
    },
    [key, read],
  );
  return [read(), change, read];
}

/**
 * Saves each change of a draft at once, one after the other, under the tag last read.
 * Undo sends the inverse patch that came with a change; the answer brings the redo.
 */
export function useDraft<V extends Written = PlanView>(
  plan: V | undefined,
  keeper: Keeper<V>,
): Draft<V["content"]> {
  const cache = useCache();
  const [saving, setSaving] = useState<Saving>({ state: "idle", words: "" });
  const identity = plan ? `${plan.document} ${plan.letter}` : "";
  const [undos, setUndos, readUndos] = useKept(`undo ${identity}`);
  const [redos, setRedos, readRedos] = useKept(`redo ${identity}`);
  const [clashed, setClashed] = useState<(NonNullable<Draft["clash"]> & { of: string }) | null>(null);
  const clash = clashed?.of === identity ? clashed : null;
  const current = useRef(plan);
  const queue = useRef<Promise<unknown>>(Promise.resolve());
  const { put, again } = keeper;

  // A newer view may arrive by itself; the tag of a saved change is always newer.
  useEffect(() => {
    current.current = plan;
  }, [plan]);
  // What somebody else saved meanwhile makes taking back one's own edits a guess: then there is none.
  const tag = plan?.etag;
  useEffect(() => {
    if (tag && sessionStorage.getItem(`tag ${identity}`) !== tag) {
      setUndos(() => []);
      setRedos(() => []);
      sessionStorage.setItem(`tag ${identity}`, tag);
    }
  }, [tag, identity, setUndos, setRedos]);

  const take = useCallback(
    (saved: SavedEdit) => {
      const table = saved.table && withChange(current.current as TableView, saved.table);
      const view = (saved.plan ?? table ?? saved.incident_type ?? saved.guide) as V | null;
      if (!view) return;
      current.current = view;
      sessionStorage.setItem(`tag ${view.document} ${view.letter}`, view.etag);
      put(view);
      void cache.invalidateQueries({ queryKey: keys.waiting });
    },
    [cache, put],
  );

  const waiting = useRef(0);
  const [leftOvers, setLeftOvers] = useState<Unsaved[]>([]);
  useEffect(() => setLeftOvers(waiting.current === 0 ? unsavedOf(identity) : []), [identity]);

  // Leaving the page with something unsaved is asked about; it stays on the device either way.
  useEffect(() => {
    const ask = (event: BeforeUnloadEvent) => waiting.current > 0 && event.preventDefault();
    window.addEventListener("beforeunload", ask);
    return () => window.removeEventListener("beforeunload", ask);
  }, []);

  /** Send until it is answered: no connection or an ended session is waited for, and said. */
  const send = useCallback(
    async (make: (view: V) => ChangeBody | null): Promise<SavedEdit | undefined> => {
      const first = current.current;
      const body = first ? make(first) : null;
      if (!first || !body) return undefined;
      const draft = `${first.document} ${first.letter}`;
      const kept = keepUnsaved(draft, first.etag, guardedBody(body, first));
      waiting.current += 1;
      try {
        for (let wait = FIRST_WAIT_MS; ; wait = Math.min(LONGEST_WAIT_MS, wait * 2)) {
          const view = current.current ?? first;
          const now = make(view);
          if (!now) return undefined;
          if (wait === FIRST_WAIT_MS) setSaving({ state: "saving", words: "Saving" });
          try {
            const saved = await request(view, now);
            take(saved);
            setSaving({ state: "saved", words: `Saved ${new Date().toTimeString().slice(0, 5)}` });
            forgetUnsaved(draft, kept);
            return saved;
          } catch (error) {
            if (!mayPass(error)) {
              forgetUnsaved(draft, kept);
              throw error;
            }
            setSaving({ state: "failed", words: notYet(error, kept !== null) });
            await pause(wait);
          }
        }
      } finally {
        waiting.current -= 1;
      }
    },
    [take],
  );

  const run = useCallback(
    (
      change: Change<V["content"]>,
      onRefused?: (refused: Refused) => boolean,
    ): Promise<SavedEdit | undefined> => {
      const attempt = async () => {
        try {
          const saved = await send((view) => bodyOf(view, change));
          if (saved?.inverse.length) {
            setUndos((all) => [...all, saved.inverse]);
            setRedos(() => []);
          }
          return saved;
        } catch (error) {
          setSaving({ state: "failed", words: "Not saved" });
          if (
            error instanceof Refused &&
            (error.status === 412 || error.problem.code === "drafts.patch_test")
          ) {
            await again();
            setUndos(() => []);
            setRedos(() => []);
            setClashed({
              of: identity,
              message: error.message,
              again: () => {
                setClashed(null);
                void run(change, onRefused);
              },
              drop: () => {
                setClashed(null);
                setSaving({ state: "idle", words: "" });
              },
            });
          } else if (!(error instanceof Refused && onRefused?.(error))) {
            notifications.show({ color: "bad", message: (error as Error).message });
          }
          return undefined;
        }
      };
      const next = queue.current.then(attempt);
      queue.current = next;
      return next;
    },
    [again, identity, send, setUndos, setRedos],
  );

  const step = useCallback(
    (readFrom: () => Inverse[], setFrom: typeof setUndos, setTo: typeof setUndos) => {
      // What is to be taken back may still be on its way: it waits its turn behind it.
      queue.current = queue.current.then(async () => {
        const inverse = readFrom().at(-1);
        if (!inverse) return;
        setFrom((all) => all.slice(0, -1));
        try {
          const saved = await send(() => ({ patch: inverse as PatchOperation[] }));
          if (saved?.inverse.length) setTo((all) => [...all, saved.inverse]);
        } catch (error) {
          setSaving({ state: "failed", words: "Not saved" });
          if (error instanceof Refused && error.status === 412) {
            setUndos(() => []);
            setRedos(() => []);
            await again();
          }
          notifications.show({ color: "bad", message: (error as Error).message });
        }
      });
    },
    [again, send, setUndos, setRedos],
  );

  return {
    saving,
    canUndo: undos.length > 0,
    canRedo: redos.length > 0,
    change: run,
    undo: () => step(readUndos, setUndos, setRedos),
    redo: () => step(readRedos, setRedos, setUndos),
    clash,
    leftOver: leftOvers.length
      ? {
          n: leftOvers.length,
          words: leftOvers.map((kept) => bodyWords(kept.body)).join("; "),
          again: () => {
            setLeftOvers([]);
            for (const { id, body } of leftOvers) {
              forgetUnsaved(identity, id);
              void run("patch" in body ? { patch: () => body.patch } : body);
            }
          },
          drop: () => {
            for (const { id } of leftOvers) forgetUnsaved(identity, id);
            setLeftOvers([]);
          },
        }
      : null,
  };
}

/** Why a change is not saved yet, and where it is meanwhile. */
function notYet(error: unknown, kept: boolean): string {
  const why =
    error instanceof Unreachable
      ? "no connection"
      : error instanceof Refused && error.status === 401
        ? "signed out"
        : "the server is busy";
  return kept
    ? `Not saved yet: ${why}. It is kept on this device and tried again.`
    : `Not saved yet: ${why}. It is tried again; do not close this page.`;
}

/** Wait, but no longer than until there is a connection or a session again. */
function pause(ms: number): Promise<void> {
  return new Promise((resolve) => {
    const done = () => {
      window.clearTimeout(timer);
      for (const event of ["online", SIGNED_IN_AGAIN]) window.removeEventListener(event, done);
      resolve();
    };
    const timer = window.setTimeout(done, ms);
    for (const event of ["online", SIGNED_IN_AGAIN]) window.addEventListener(event, done);
  });
}

/** What a change says, for whoever decides whether to make it again. */
function bodyWords(body: ChangeBody): string {
  if ("edit" in body) return body.edit.kind;
  if ("tableEdit" in body) return body.tableEdit.kind;
  return body.patch
    .filter((op) => op.op !== "test")
    .map((op) => {
      const value = typeof op.value === "string" ? `“${op.value}”` : JSON.stringify(op.value ?? "");
      return `${op.path.split("/").at(-1)} ${value.length > 120 ? `${value.slice(0, 120)}…` : value}`;
    })
    .join(", ");
}

function guardedBody(body: ChangeBody, view: Written): ChangeBody {
  return "patch" in body ? { patch: guarded(body.patch, view.content) } : body;
}

function bodyOf<V extends Written>(view: V, change: Change<V["content"]>): ChangeBody | null {
  if (!("patch" in change)) return change;
  const patch = change.patch(view.content);
  return patch && patch.length > 0 ? { patch } : null;
}

function request(view: Written, change: ChangeBody): Promise<SavedEdit> {
  if ("tableEdit" in change) {
    return need(
      client.POST("/api/v1/documents/{document}/table-edits", {
        params: {
          path: { document: view.document },
          query: { begin: change.begin ?? false },
          header: { "if-match": view.etag },
        },
        body: { edit: change.tableEdit },
      }),
    );
  }
  if ("edit" in change) {
    return need(
      client.POST("/api/v1/documents/{document}/edits", {
        params: { path: { document: view.document }, header: { "if-match": view.etag } },
        body: { edit: change.edit },
      }),
    );
  }
  return need(
    client.PATCH("/api/v1/documents/{document}/draft", {
      params: { path: { document: view.document }, header: { "if-match": view.etag } },
      body: change.patch,
    }),
  );
}

/** Replace one field of a step, found by its identity wherever it stands now. */
export function setStep<F extends keyof Step & string>(step: string, field: F, value: Step[F]): Change {
  return {
    patch: (plan) => {
      const index = plan.steps.findIndex((s) => s.id === step);
      if (index < 0) return null;
      return [
        { op: "test", path: `/steps/${index}/id`, value: step },
        { op: "add", path: `/steps/${index}/${field}`, value },
      ];
    },
  };
}

/** Rework one field of a step from what it is when the change is sent, not when it was drawn. */
export function reworkStep<F extends keyof Step>(
  step: string,
  field: F,
  rework: (value: Step[F]) => Step[F],
): Change {
  return {
    patch: (plan) => {
      const index = plan.steps.findIndex((s) => s.id === step);
      const found = plan.steps[index];
      return found ? [{ op: "add", path: `/steps/${index}/${field}`, value: rework(found[field]) }] : null;
    },
  };
}

/** Fields of a question to set, or how to work them out from what it is when the change is sent. */
export type QuestionPart = Partial<Question> | ((now: Question) => Partial<Question>);

/** Rework one question, found by its identity wherever it stands when the change is sent. */
export function reworkQuestion(question: string, part: QuestionPart): Change {
  return {
    patch: (plan) => {
      for (const [i, step] of plan.steps.entries()) {
        const j = step.questions.findIndex((q) => q.id === question);
        const now = step.questions[j];
        if (now)
          return Object.entries(typeof part === "function" ? part(now) : part).map(([field, value]) => ({
            op: "add" as const,
            path: `/steps/${i}/questions/${j}/${field}`,
            value,
          }));
      }
      return null;
    },
  };
}

/** Replace one field of the document itself. */
export function setPlan(field: string, value: unknown): { patch: () => PatchOperation[] } {
  return { patch: () => [{ op: "add", path: `/${field}`, value }] };
}

/** Rework one field of the document from what it is when the change is sent, not when it was drawn. */
export function rework<C, F extends keyof C & string>(
  field: F,
  make: (now: C[F]) => C[F],
): { patch: (content: C) => PatchOperation[] } {
  return { patch: (content) => [{ op: "add", path: `/${field}`, value: make(content[field]) }] };
}

/** What was added to a choice as it was drawn, and taken out of it, done to the choice as it is now. */
export function chosenAnew(drawn: string[], given: string[]): (now: string[]) => string[] {
  return (now) => [
    ...now.filter((item) => given.includes(item) || !drawn.includes(item)),
    ...given.filter((item) => !drawn.includes(item) && !now.includes(item)),
  ];
}
