import { notifications } from "@mantine/notifications";
import { useCallback, useEffect, useRef, useState } from "react";
import { client, need, Refused } from "../api/client";
import { keys, useCache } from "../api/queries";
import type {
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

/** The views of the kinds of document that are written here. */
export type Written = PlanView | TableView | IncidentTypeView;

/** A change is written against the content as it stands, so that it can be made again after a clash. */
export type Change<C = Plan> =
  | { patch: (content: C) => PatchOperation[] | null }
  | { edit: PlanEdit }
  | { tableEdit: TableEdit };

export type Saving = { state: "idle" | "saving" | "saved" | "failed"; words: string };

export interface Draft<C = Plan> {
  saving: Saving;
  canUndo: boolean;
  canRedo: boolean;
  /** `onRefused` may deal with a refusal itself; then it is not told of as a notification. */
  change: (change: Change<C>, onRefused?: (refused: Refused) => boolean) => Promise<SavedEdit | undefined>;
  undo: () => void;
  redo: () => void;
  clash: { message: string; again: () => void; drop: () => void } | null;
}

type Inverse = SavedEdit["inverse"];

/** Where a draft's view is kept: put a newer one there, or read it again. */
export interface Keeper<V extends Written = PlanView> {
  put: (view: V) => void;
  again: () => Promise<unknown>;
}

/** The undo and redo of a revision last as long as the sitting, through reloads and other pages. */
function useKept(key: string): [Inverse[], (change: (all: Inverse[]) => Inverse[]) => void] {
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
  return [read(), change];
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
  const [undos, setUndos] = useKept(`undo ${identity}`);
  const [redos, setRedos] = useKept(`redo ${identity}`);
  const [clash, setClash] = useState<Draft["clash"]>(null);
  const current = useRef(plan);
  const queue = useRef<Promise<unknown>>(Promise.resolve());
  const { put, again } = keeper;

  // A newer view may arrive by itself; the tag of a saved change is always newer.
  useEffect(() => {
    current.current = plan;
  }, [plan]);
  useEffect(() => setClash(null), [identity]);
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
      const view = (saved.plan ?? saved.table ?? saved.incident_type) as V | null;
      if (!view) return;
      current.current = view;
      sessionStorage.setItem(`tag ${view.document} ${view.letter}`, view.etag);
      put(view);
      cache.invalidateQueries({ queryKey: keys.waiting });
    },
    [cache, put],
  );

  const send = useCallback(
    async (make: (view: V) => Promise<SavedEdit> | null): Promise<SavedEdit | undefined> => {
      const view = current.current;
      const going = view ? make(view) : null;
      if (!going) return undefined;
      setSaving({ state: "saving", words: "Saving" });
      const saved = await going;
      take(saved);
      setSaving({ state: "saved", words: `Saved ${new Date().toTimeString().slice(0, 5)}` });
      return saved;
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
          const saved = await send((view) => request(view, change));
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
            setClash({
              message: error.message,
              again: () => {
                setClash(null);
                run(change, onRefused);
              },
              drop: () => {
                setClash(null);
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
    [again, send, setUndos, setRedos],
  );

  const step = useCallback(
    (from: Inverse[], setFrom: typeof setUndos, setTo: typeof setUndos) => {
      const inverse = from.at(-1);
      if (!inverse) return;
      setFrom((all) => all.slice(0, -1));
      queue.current = queue.current.then(async () => {
        try {
          const saved = await send((view) => patch(view, inverse as PatchOperation[]));
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
    undo: () => step(undos, setUndos, setRedos),
    redo: () => step(redos, setRedos, setUndos),
    clash,
  };
}

function request<V extends Written>(view: V, change: Change<V["content"]>): Promise<SavedEdit> | null {
  if ("tableEdit" in change) {
    return need(
      client.POST("/api/documents/{document}/table-edits", {
        params: { path: { document: view.document }, header: { "if-match": view.etag } },
        body: { edit: change.tableEdit },
      }),
    );
  }
  if ("edit" in change) {
    return need(
      client.POST("/api/documents/{document}/edits", {
        params: { path: { document: view.document }, header: { "if-match": view.etag } },
        body: { edit: change.edit },
      }),
    );
  }
  const operations = change.patch(view.content);
  return operations && operations.length > 0 ? patch(view, operations) : null;
}

function patch(view: Written, operations: PatchOperation[]): Promise<SavedEdit> {
  return need(
    client.PATCH("/api/documents/{document}/draft", {
      params: { path: { document: view.document }, header: { "if-match": view.etag } },
      body: operations,
    }),
  );
}

/** Replace one field of a step, found by its identity wherever it stands now. */
export function setStep(step: string, field: string, value: unknown): Change {
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
        const j = step.proofs.findIndex((q) => q.id === question);
        const now = step.proofs[j];
        if (now)
          return Object.entries(typeof part === "function" ? part(now) : part).map(([field, value]) => ({
            op: "add" as const,
            path: `/steps/${i}/proofs/${j}/${field}`,
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
