import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { client, need } from "../api/client";
import type { Replayed, ReplayView } from "../api/types";
import { Empty } from "../ui/Empty";
import { Figure } from "../ui/Figure";
import { count, number, percent } from "../ui/format";
import { placeOf } from "../ui/places";
import { WaitingSheet } from "../ui/WaitingSheet";
import { ReplayPlot } from "./ReplayPlot";
import "./replay.css";

/** What jobs are walked through, by the kind of the draft. */
const WALKED: Record<string, string> = {
  plan: "Each job that had the plan is walked through the revision in force and through the draft.",
  form: "Each job that had the form is walked through all that its order would get now, and the same with the draft.",
  "standard step":
    "Each job that had the standard step is walked through all that its order would get now, and the same with the draft.",
  "decision table":
    "The latest jobs are walked through what their orders would get by the tables in force, and with the draft. Those that would get the same change by nothing.",
};
/** How a job is walked through guidance that is a runsheet. */
const BY_SHEET =
  "Each goes with what it recorded. Where a sheet asks what it did not record, the answer or the minutes are drawn from jobs of the same model and cause, several times over, and their doubt is part of the range. A step that no job did takes its author’s minutes. The range holds 95 %. That a rewritten step takes other minutes than before is not foreseen.";
const BY_GUIDE =
  "The latest jobs with a cause are walked through the order of work of the guide in force and of the draft, from the first check to when the equipment works. A check comes out and a remedy helps as the job recorded it; what it did not record is drawn from jobs of the same cause or from the chances of the guide in force, several times over, and the doubt is part of the range. Minutes are those that the job took, else those of jobs alike, else those of the guide in force: a figure that is only written otherwise saves nothing. Both guides learned from these jobs, so that new jobs may save a little less. The range holds 95 %.";
/** Jobs named at either end. */
const NAMED = 5;

/** A draft walked through by closed jobs: what it would have cost or saved them. */
export function ReplayPage() {
  const { incident = "", document = "" } = useParams();
  const found = useQuery({
    queryKey: ["replay", document],
    queryFn: () =>
      need(client.GET("/api/v1/documents/{document}/replay", { params: { path: { document } } })),
    retry: false,
  });
  if (found.isPending)
    return (
      <div className="bench only-sheet">
        <main className="sheet" id="sheet">
          <h1>Replay</h1>
          <p role="status">Walking the closed jobs through the draft. This takes a few seconds.</p>
        </main>
      </div>
    );
  if (found.error || !found.data) return <WaitingSheet error={found.error} />;
  return <Sheet view={found.data} incident={incident} />;
}

function Sheet({ view, incident }: { view: ReplayView; incident: string }) {
  const { replayed } = view;
  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet">
        <div className="head">
          <div>
            <div className="mono soft">
              <Link to={incident ? `/author/${incident}?plan=${view.document}` : placeOf(view)}>
                {view.document}
              </Link>{" "}
              · draft {view.draft} against revision {view.before} in force
            </div>
            <h1>Replay of {view.title}</h1>
          </div>
          <Link
            to={`/refine/${incident || "documents"}/${view.document}?older=${view.before}&newer=${view.draft}`}
          >
            What the draft changes
          </Link>
        </div>
        {replayed?.minutes ? (
          <Found view={view} replayed={replayed} />
        ) : (
          <Empty title="Too few jobs to replay">
            <p>
              {count(view.n_jobs, "closed job")}
              {hadIt(view.kind)}, {view.fewest} are wanted.
            </p>
          </Empty>
        )}
      </main>
    </div>
  );
}

function Found({ view, replayed }: { view: ReplayView; replayed: Replayed }) {
  const { minutes, jobs } = replayed;
  if (!minutes) return null;
  const ranked = [...jobs].sort((a, b) => a.minutes - b.minutes);
  const saves = ranked.filter((job) => job.minutes < 0).slice(0, NAMED);
  const costs = ranked
    .filter((job) => job.minutes > 0)
    .slice(-NAMED)
    .reverse();
  return (
    <>
      <p className="note" role="status">
        {inWords(replayed)}
      </p>
      <div className="figures">
        <Figure
          label="Minutes a job"
          value={signed(minutes.value)}
          beside={`${signed(minutes.low)} to ${signed(minutes.high)}, ${count(minutes.count, "job")}`}
        />
        {view.kind !== "fault guide" && (
          <Figure
            label="Visits for a part saved"
            value={number(replayed.visits)}
            beside={`of ${number(replayed.n_fetches)}`}
          />
        )}
        <Figure
          label="Rests on what was drawn"
          value={`${percent(replayed.filled)} %`}
          beside={`of the minutes, in ${count(replayed.n_filled, "job")}`}
        />
      </div>
      <ReplayPlot jobs={jobs} minutes={minutes} />
      <div className="columns">
        <section aria-label="Where the minutes change">
          <h2>Where the minutes change</h2>
          {replayed.steps.length === 0 && <p className="soft">At no step.</p>}
          <table className="rows">
            <tbody>
              {replayed.steps.map((step) => (
                <tr key={step.line}>
                  <td>
                    {step.text}
                    {step.is_new && <span className="soft"> new in the draft</span>}
                    {step.is_gone && <span className="soft"> not in the draft</span>}
                  </td>
                  <td className="num">{signed(step.minutes)} min a job</td>
                </tr>
              ))}
              {replayed.parts.map((part) => (
                <tr key={part.part}>
                  <td>
                    {view.part_names[part.part] ?? part.part}{" "}
                    <span className="soft">differs in {count(part.n_jobs, "job")}</span>
                  </td>
                  <td className="num">{signed(part.quantity, 2)} a job</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
        <section aria-label="Jobs that change most">
          <h2>Jobs that change most</h2>
          <table className="rows">
            <tbody>
              {[...saves, ...costs].map((job) => (
                <tr key={job.order}>
                  <td className="mono">
                    <Link to={`/review/jobs/${job.order}`}>{job.order}</Link>
                  </td>
                  <td className="num">{signed(job.minutes)} min</td>
                  <td className="soft">
                    {job.filled > 0.005 ? `${percent(job.filled)} % drawn` : "all recorded"}
                    {job.visits > 0 && `, ${count(job.visits, "visit")} saved`}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      </div>
      <p className="soft">
        {view.kind === "fault guide" ? BY_GUIDE : `${WALKED[view.kind] ?? WALKED.plan} ${BY_SHEET}`}
      </p>
    </>
  );
}

function hadIt(kind: ReplayView["kind"]): string {
  if (kind === "decision table") return "";
  return kind === "fault guide" ? " with a cause" : ` had this ${kind}`;
}

function inWords({ minutes, n_jobs }: Replayed): string {
  if (!minutes) return "";
  const size = `${number(Math.round(Math.abs(minutes.value) * 10) / 10)} min`;
  if (minutes.high < 0)
    return `The draft would have saved ${size} a job over the last ${count(n_jobs, "job")}.`;
  if (minutes.low > 0)
    return `The draft would have cost ${size} more a job over the last ${count(n_jobs, "job")}.`;
  if (minutes.low === 0 && minutes.high === 0)
    return `The draft changes no minutes of the last ${count(n_jobs, "job")}.`;
  return `Over the last ${count(n_jobs, "job")} the draft makes no clear difference in minutes.`;
}

function signed(value: number, digits = 1): string {
  const rounded = Number(value.toFixed(digits));
  if (rounded === 0) return "0";
  return `${rounded > 0 ? "+" : "−"}${number(Math.abs(rounded))}`;
}
