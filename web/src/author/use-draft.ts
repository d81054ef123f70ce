import { notifications } from "@mantine/notifications";
import { useCallback, useEffect, useRef, useState } from "react";
import { client, need, Refused } from "../api/client";
import { keys, useCache } from "../api/queries";
import type {
  IncidentTypePage,
  PatchOperation,
  Plan,
  PlanEdit,
  PlanView,
  SavedEdit,
  Step,
} from "../api/types";

/** A change is written against the plan as it stands, so that it can be made again after a clash. */
export type Change = { patch: (plan: Plan) => PatchOperation[] | null } | { edit: PlanEdit };

export type Saving = { state: "idle" | "saving" | "saved" | "failed"; words: string };

export interface Draft {
  saving: Saving;
  canUndo: boolean;
  canRedo: boolean;
  change: (change: Change) => Promise<SavedEdit | undefined>;
  undo: () => void;
  redo: () => void;
  clash: { message: string; again: () => void; drop: () => void } | null;
}

type Inverse = SavedEdit["inverse"];

/**
 * Saves each change of a plan's draft at once, one after the other, under the tag last read.
 * Undo sends the inverse patch that came with a change; the answer brings the redo.
 */
export function useDraft(incident: string, plan: PlanView | undefined): Draft {
  const cache = useCache();
  const [saving, setSaving] = useState<Saving>({ state: "idle", words: "" });
  const [undos, setUndos] = useState<Inverse[]>([]);
  const [redos, setRedos] = useState<Inverse[]>([]);
  const [clash, setClash] = useState<Draft["clash"]>(null);
  const current = useRef(plan);
  const queue = useRef<Promise<unknown>>(Promise.resolve());
  const identity = plan ? `${plan.document} ${plan.letter}` : "";

  // A newer view may arrive by itself; the tag of a saved change is always newer.
  useEffect(() => {
    current.current = plan;
  }, [plan]);
  useEffect(() => {
    setUndos([]);
    setRedos([]);
    setClash(null);
  }, [identity]);

  const take = useCallback(
    (saved: SavedEdit) => {
      const view = saved.plan;
      if (!view) return;
      current.current = view;
      cache.setQueryData<IncidentTypePage>(
        keys.page(incident),
        (page) =>
          page && { ...page, plans: page.plans.map((p) => (p.document === view.document ? view : p)) },
      );
      cache.invalidateQueries({ queryKey: keys.waiting });
    },
    [cache, incident],
  );

  const send = useCallback(
    async (make: (plan: PlanView) => Promise<SavedEdit> | null): Promise<SavedEdit | undefined> => {
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
    (change: Change): Promise<SavedEdit | undefined> => {
      const attempt = async () => {
        try {
          const saved = await send((view) => request(view, change));
          if (saved?.inverse.length) {
            setUndos((all) => [...all, saved.inverse]);
            setRedos([]);
          }
          return saved;
        } catch (error) {
          setSaving({ state: "failed", words: "Not saved" });
          if (
            error instanceof Refused &&
            (error.status === 412 || error.problem.code === "drafts.patch_test")
          ) {
            await cache.refetchQueries({ queryKey: keys.page(incident) });
            setUndos([]);
            setRedos([]);
            setClash({
              message: error.message,
              again: () => {
                setClash(null);
                run(change);
              },
              drop: () => {
                setClash(null);
                setSaving({ state: "idle", words: "" });
              },
            });
          } else {
            notifications.show({ color: "bad", message: (error as Error).message });
          }
          return undefined;
        }
      };
      const next = queue.current.then(attempt);
      queue.current = next;
      return next;
    },
    [cache, incident, send],
  );

  const step = useCallback(
    (from: Inverse[], setFrom: (all: Inverse[]) => void, addTo: (inverse: Inverse) => void) => {
      const inverse = from.at(-1);
      if (!inverse) return;
      setFrom(from.slice(0, -1));
      queue.current = queue.current.then(async () => {
        try {
          const saved = await send((view) => patch(view, inverse as PatchOperation[]));
          if (saved?.inverse.length) addTo(saved.inverse);
        } catch (error) {
          setSaving({ state: "failed", words: "Not saved" });
          notifications.show({ color: "bad", message: (error as Error).message });
        }
      });
    },
    [send],
  );

  return {
    saving,
    canUndo: undos.length > 0,
    canRedo: redos.length > 0,
    change: run,
    undo: () => step(undos, setUndos, (inverse) => setRedos((all) => [...all, inverse])),
    redo: () => step(redos, setRedos, (inverse) => setUndos((all) => [...all, inverse])),
    clash,
  };
}

function request(view: PlanView, change: Change): Promise<SavedEdit> | null {
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

function patch(view: PlanView, operations: PatchOperation[]): Promise<SavedEdit> {
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

/** Replace one field of the plan itself. */
export function setPlan(field: string, value: unknown): Change {
  return { patch: () => [{ op: "add", path: `/${field}`, value }] };
}
