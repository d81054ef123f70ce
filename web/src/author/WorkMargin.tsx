import { useState } from "react";
import { client, need } from "../api/client";
import type { Answers, Defect, PlanView, Problem } from "../api/types";
import type { Draft } from "../draft/use-draft";
import { tellRefusal } from "../ui/use-act";
import { ChecksPane } from "./ChecksPane";
import { CommentsPane } from "./CommentsPane";
import { PreviewPane } from "./PreviewPane";

/** The margin of a sheet that is written on: the preview, the checks, and what was said of it. */
export function WorkMargin({
  plan,
  problems = [],
  chosen,
  editable,
  writes,
  draft,
  onChoose,
}: {
  plan: PlanView;
  problems?: Problem[];
  chosen: string | null;
  editable: boolean;
  writes: boolean;
  draft: Draft;
  onChoose: (step: string | null) => void;
}) {
  const [preview, setPreview] = useState(0);
  const [start, setStart] = useState<Answers>({});

  async function show(witness: Answers) {
    try {
      const answers = await need(
        client.POST("/api/v1/previews/witness-answers", { body: { document: plan.document, witness } }),
      );
      setStart(answers as Answers);
      setPreview((n) => n + 1);
      onChoose(null);
    } catch (error) {
      tellRefusal(error);
    }
  }

  function fix({ change }: NonNullable<Defect["fix"]>) {
    void draft.change(
      change.kind === "set field"
        ? { patch: () => [{ op: "replace", path: change.path, value: change.value }] }
        : { edit: change },
    );
  }

  return (
    <aside className="margin" aria-label="Preview and checks">
      <PreviewPane
        key={`${plan.document}${preview}`}
        plan={plan}
        chosen={chosen}
        start={start}
        onRestart={() => {
          setStart({});
          setPreview((n) => n + 1);
          onChoose(null);
        }}
      />
      <ChecksPane
        problems={problems}
        plan={plan}
        editable={editable}
        onOpen={onChoose}
        onWitness={show}
        onFix={fix}
      />
      <CommentsPane plan={plan} chosen={chosen} writes={writes} onOpen={onChoose} />
    </aside>
  );
}
