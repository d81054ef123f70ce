import { Button, Select } from "@mantine/core";
import { useEffect, useState } from "react";
import { client, need } from "../api/client";
import { useAssets, useCatalogue, usePreview } from "../api/queries";
import type { Answer, Answers, PlanView, Question } from "../api/types";
import { Empty } from "../ui/Empty";
import { count, minutes } from "../ui/format";
import { needWords } from "../ui/need-words";
import { PocketStep } from "../ui/PocketStep";
import { Trouble } from "../ui/Trouble";

/** The draft as a technician would meet it, answer by answer; the server's rules decide. */
export function PreviewPane({
  plan,
  chosen,
  start,
  onRestart,
}: {
  plan: PlanView;
  chosen: string | null;
  start: Answers;
  onRestart: () => void;
}) {
  const [answers, setAnswers] = useState<Answers>(start);
  const [reasons, setReasons] = useState<Record<string, string>>({});
  const [done, setDone] = useState<string[]>([]);
  const [asset, setAsset] = useState<string | null>(null);
  const [tour, setTour] = useState<{ n: number; of: number } | null>(null);
  const [filled, setFilled] = useState(0);
  const [back, setBack] = useState<string | null>(null);
  const assets = useAssets().data ?? [];
  const lists = useCatalogue().data;
  const preview = usePreview([plan.document], [plan.etag], { answers, done, reasons, asset });
  const run = preview.data;
  const shown = run?.progress.lines.filter((l) => l.state === "due" || l.state === "done") ?? [];
  // A step chosen on the sheet is shown until one goes on from it here.
  const [jump, setJump] = useState(chosen);
  useEffect(() => {
    setJump(chosen);
    setBack(null);
  }, [chosen]);
  const wantedHere = jump
    ? shown.find(
        (l) => l.line === `${plan.document}:${jump}` || l.line.startsWith(`${plan.document}:${jump}@`),
      )?.line
    : undefined;
  const at = back ?? wantedHere ?? run?.progress.next_line ?? null;
  const line = run?.runsheet.lines.find((l) => l.id === at);
  const state = shown.find((l) => l.line === at);
  const place = shown.findIndex((l) => l.line === at) + 1;
  const started = Object.keys(answers).length > 0 || done.length > 0 || Boolean(jump);
  const openCount = run?.progress.lines.filter((l) => l.state === "open question").length ?? 0;
  const what = plan.kind === "form" ? "section" : "step";

  function answer(question: string, value: Answer, reason?: string) {
    setAnswers((all) => ({ ...all, [question]: value }));
    setReasons(({ [question]: _old, ...rest }) => (reason ? { ...rest, [question]: reason } : rest));
  }

  async function fill() {
    const ways = await need(
      client.POST("/api/v1/previews/tours", { body: { documents: [plan.document], asset } }),
    );
    const n = tour ? tour.n % Math.max(1, ways.length) : 0;
    setTour({ n: n + 1, of: ways.length });
    setAnswers((ways[n] ?? {}) as Answers);
    setDone([]);
    setBack(null);
    setJump(null);
    setFilled((f) => f + 1);
  }

  function next() {
    if (!at) return;
    setDone((all) => [...all.filter((id) => id !== at), at]);
    setBack(null);
    setJump(null);
  }

  function previous() {
    const before = shown[place - 2]?.line ?? shown.at(-1)?.line;
    if (before) setBack(before);
  }

  async function scan(question: Question) {
    const serial = assets.find((a) => a.asset.code === asset)?.asset.serial;
    answer(question.id, (question.kind === "scan" && question.equals) || serial || "preview");
  }

  return (
    <section aria-label="Pocket preview" id="preview" tabIndex={-1} className="preview">
      <div className="preview-head">
        <h2>Pocket preview</h2>
        <Button
          variant="subtle"
          size="compact-xs"
          title="Fill in answers that walk every branch, one way through after another"
          onClick={fill}
        >
          {tour ? `Fill for me, ${tour.n} of ${tour.of}` : "Fill for me"}
        </Button>
        {started && (
          <Button variant="subtle" size="compact-xs" onClick={onRestart}>
            Start again
          </Button>
        )}
      </div>
      <div className="preview-paper">
        {plan.content.steps.length === 0 && plan.content.forms.length === 0 ? (
          <Empty title={`No ${what}s yet`}>The first {what} you add appears here.</Empty>
        ) : line && run ? (
          <>
            <PocketStep
              key={`${line.id} ${filled}`}
              line={line}
              needs={needWords(line, lists)}
              place={`${plan.kind === "form" ? "Section" : line.phase}${plan.kind === "form" ? "" : ", step"} ${place} of ${shown.length}${openCount ? ` and up to ${openCount} more` : ""}`}
              answers={answers}
              asked={state?.asked ?? []}
              consequences={run.consequences}
              wanted={run.wanted}
              computed={run.computed}
              offered={run.offered}
              lastMeters={run.last_meters}
              onAnswer={answer}
              takePhoto={(question) => answer(question.id, "preview")}
              sign={(question) => answer(question.id, "preview")}
              scan={scan}
              pictureOf={() => `/standins/camera.jpg?seed=7&of=${encodeURIComponent(line.text)}`}
            />
            <div className="preview-foot">
              <Button variant="default" disabled={place < 2} onClick={previous}>
                Back
              </Button>
              <Button disabled={(state?.missing.length ?? 0) > 0} onClick={next}>
                Next
              </Button>
            </div>
          </>
        ) : run && preview.isPlaceholderData ? (
          <p className="soft" aria-busy="true">
            Working out the run.
          </p>
        ) : run ? (
          <Empty title="The run ends here">
            <p>
              {count(run.progress.n_done, what)} done, {count(run.progress.findings.length, "finding")}{" "}
              raised.
            </p>
            {run.still_open.map((rule) => (
              <p key={`${rule.rule} ${rule.line}`}>
                {rule.weight === "must" ? "Must be seen to" : "Should be seen to"}: {rule.says}
              </p>
            ))}
            <Button variant="default" onClick={previous}>
              Back
            </Button>
          </Empty>
        ) : (
          <Trouble error={preview.error} />
        )}
        {run && preview.isError && <Trouble error={preview.error} />}
      </div>
      {run && (
        <p className="soft preview-left">
          {minutes(run.progress.minutes_left)} left
          {run.progress.minutes_open > 0 &&
            `, up to ${minutes(run.progress.minutes_open)} more by the answers`}
        </p>
      )}
      <Select
        label="Preview it for"
        size="xs"
        mb="md"
        searchable
        clearable
        placeholder="Any asset"
        data={assets.map((a) => ({ value: a.asset.code, label: `${a.asset.name}, ${a.site.name}` }))}
        value={asset}
        onChange={(next_) => {
          setAsset(next_);
          setTour(null);
          setFilled((f) => f + 1);
        }}
      />
    </section>
  );
}
