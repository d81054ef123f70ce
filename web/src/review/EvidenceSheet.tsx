import { Button, Select } from "@mantine/core";
import { useEffect } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { client, need } from "../api/client";
import { guidanceChanged, useEvidence, useIncidentTypePage, useJobsBehind } from "../api/queries";
import { mayWrite } from "../api/roles";
import type { Evidence, Person, Share } from "../api/types";
import { DotRange, DotRangeKey } from "../ui/DotRange";
import { Empty } from "../ui/Empty";
import { Figure, ShareFigure } from "../ui/Figure";
import { count, dayYear, leftOut, minutes, number, percent } from "../ui/format";
import { More } from "../ui/More";
import { useAct } from "../ui/use-act";
import { useAddress } from "../ui/use-address";
import { WaitingSheet } from "../ui/WaitingSheet";
import { OrderKept } from "./OrderKept";
import "./review.css";

/** What the field made of an incident type: outcome, each step planned against taken, the jobs. */
export function EvidenceSheet({ person }: { person: Person }) {
  const { incident = "" } = useParams();
  const [search, put] = useAddress();
  const revision = search.get("revision") ?? undefined;
  const evidence = useEvidence(incident, revision);
  if (!evidence.data) return <WaitingSheet error={evidence.error} />;
  return (
    <Sheet
      evidence={evidence.data}
      person={person}
      revision={revision}
      step={search.get("step")}
      astray={search.get("astray")}
      onSet={put}
    />
  );
}

function Sheet({
  evidence,
  person,
  revision,
  step,
  astray,
  onSet,
}: {
  evidence: Evidence;
  person: Person;
  revision: string | undefined;
  step: string | null;
  /** A way of going astray from the order, as line, other line, and before or after. */
  astray: string | null;
  onSet: (key: string, value: string | null) => void;
}) {
  const navigate = useNavigate();
  const { act } = useAct(guidanceChanged);
  const writes = mayWrite(person);
  const { document } = evidence;
  useEffect(() => {
    if (!writes) return;
    // Whether it was noted that it was read matters to nobody who reads it.
    client
      .PUT("/api/v1/incident-types/{document}/evidence/reading", { params: { path: { document } } })
      .catch(() => undefined);
  }, [writes, document]);
  const page = useIncidentTypePage(evidence.document);
  const fix = evidence.fixed_first_time;
  const all = useEvidence(evidence.document);
  const scale =
    Math.ceil(
      Math.max(
        20,
        ...evidence.steps.map((s) => Math.max(s.planned_minutes, s.evidence?.taken?.high_quartile ?? 0)),
      ) / 15,
    ) * 15;
  const chosen = evidence.steps.find((s) => `${s.document}:${s.step}` === step);
  const [line, other, turn] = astray?.split("|") ?? [];
  const behind = useJobsBehind(evidence.document, {
    revision,
    plan: chosen?.document,
    step: chosen?.step,
    line,
    other,
    early: turn ? turn === "before" : undefined,
  });
  const jobs = behind.data?.pages.flatMap((p) => p.jobs) ?? [];
  const nJobs = behind.data?.pages[0]?.total ?? 0;

  async function refine() {
    const plan =
      page.data?.plans.find((p) => !chosen || p.document === chosen.document) ?? page.data?.plans[0];
    if (!plan) return;
    const draft = await act(() =>
      need(
        client.POST("/api/v1/documents/{document}/draft", {
          params: { path: { document: plan.document }, query: { or_open: true } },
        }),
      ),
    );
    if (!draft) return;
    void navigate(
      `/author/${evidence.document}?plan=${plan.document}${chosen ? `&step=${chosen.step}` : ""}`,
    );
  }

  if (evidence.n_jobs === 0 && !revision)
    return (
      <div className="bench only-sheet">
        <main className="sheet" id="sheet">
          <h1>{evidence.title}</h1>
          <Empty title="No job of it is finished yet">
            Its figures appear with the first finished job.{" "}
            <Link to={`/author/${evidence.document}`}>Read its plan</Link>
          </Empty>
        </main>
      </div>
    );
  return (
    <div className="bench no-shelf">
      <main className="sheet" id="sheet">
        <div className="inner">
          <div className="head of-many">
            <div>
              <div className="mono soft">
                {evidence.document} · {count(evidence.n_jobs, "job")}
                {evidence.first_job &&
                  evidence.last_job &&
                  `, ${dayYear(evidence.first_job)} to ${dayYear(evidence.last_job)}`}
              </div>
              <h1>{evidence.title}</h1>
            </div>
            <div className="actions">
              <Select
                aria-label="Revision"
                w={150}
                placeholder="All revisions"
                clearable
                data={(all.data?.revisions ?? evidence.revisions).map((r) => ({
                  value: r,
                  label: `Revision ${r}`,
                }))}
                value={revision ?? null}
                onChange={(value) => onSet("revision", value)}
              />
              <Button variant="default" component={Link} to={`/review/${evidence.document}/together`}>
                All jobs together
              </Button>
              <Button variant="default" component={Link} to={`/refine/${evidence.document}/guide`}>
                Fault guide
              </Button>
              <Button
                variant="default"
                component="a"
                href={`/api/v1/incident-types/${evidence.document}/evidence/steps.csv`}
              >
                Save as CSV
              </Button>
              {writes && (
                <Button onClick={refine}>
                  {page.data?.plans[0]?.state === "Draft"
                    ? `Go on with draft ${page.data.plans[0].letter}`
                    : `Draft revision ${page.data?.plans[0]?.next_letter ?? ""}`}
                </Button>
              )}
            </div>
          </div>
          <div className="figures">
            <ShareFigure
              label="Fixed first time"
              share={fix}
              more={leftOut(evidence)}
              title={evidence.definition}
            />
            <Figure
              label="Median time on site, all visits of a job"
              value={minutes(evidence.minutes_on_site?.median)}
              beside={
                evidence.minutes_on_site
                  ? `${minutes(evidence.minutes_on_site.low_quartile)}–${minutes(evidence.minutes_on_site.high_quartile)}, ${evidence.minutes_on_site.count} jobs`
                  : "no jobs yet"
              }
            />
            <Figure
              label="Planned, for the steps each job wanted"
              value={minutes(evidence.planned_minutes)}
              beside={`median, ${evidence.n_jobs} jobs`}
            />
          </div>
          <GettingThere evidence={evidence} />
          <table className="rows">
            <thead>
              <tr>
                <th>Step</th>
                <th>Plan and field, 0–{scale} min</th>
                <th className="num">Plan</th>
                <th className="num">Median</th>
                <th className="num">Middle half</th>
                <th className="num">Done</th>
                <th className="num">Out of limit</th>
              </tr>
            </thead>
            <tbody>
              {evidence.steps.map((row) => {
                const id = `${row.document}:${row.step}`;
                const e = row.evidence;
                return (
                  <tr key={id} className={id === step ? "chosen" : undefined}>
                    <td>
                      <button
                        type="button"
                        className="linklike"
                        onClick={() => onSet("step", id === step ? null : id)}
                      >
                        {row.text}
                      </button>
                      <div className="soft">
                        {row.phase}, wanted in {e ? e.wanted.n_hits : 0} of {e ? e.wanted.n_total : 0} jobs
                      </div>
                    </td>
                    <td>
                      <DotRange planned={row.planned_minutes} taken={e?.taken} top={scale} width={190} />
                    </td>
                    <td className="num">{number(row.planned_minutes)}</td>
                    <td className="num">
                      {e?.taken ? number(e.taken.median) : "–"}
                      {e !== null && e.n_doubtful > 0 && (
                        <div className="soft" title="Their times for this step cannot be">
                          without {e.n_doubtful}
                        </div>
                      )}
                    </td>
                    <td className="num">
                      {e?.taken ? `${number(e.taken.low_quartile)}–${number(e.taken.high_quartile)}` : ""}
                    </td>
                    <td className="num">{e ? of(e.done) : ""}</td>
                    <td className="num">{e && e.out_of_limit.n_total > 0 ? of(e.out_of_limit) : ""}</td>
                  </tr>
                );
              })}
            </tbody>
          </table>
          <DotRangeKey />
          <p className="soft">{evidence.definition}</p>
          <OrderKept
            incident={evidence.document}
            revision={revision}
            chosen={astray}
            onChoose={(way) => onSet("astray", way)}
          />
        </div>
      </main>
      <aside className="margin" aria-label="The jobs behind the figures">
        <h2>{chosen ? `“${chosen.text}”: ${count(nJobs, "job")}` : `The ${count(nJobs, "job")}`}</h2>
        {astray && (
          <p className="soft">
            Only those out of order as chosen.{" "}
            <button type="button" className="linklike" onClick={() => onSet("astray", null)}>
              Show all
            </button>
          </p>
        )}
        <ul style={{ listStyle: "none", padding: 0, margin: "6px 0" }}>
          {jobs.map((job) => (
            <li key={job.order} style={{ borderBottom: "1px solid var(--line)", padding: "6px 0" }}>
              <Link to={`/review/jobs/${job.order}`} className="mono">
                {job.order}
              </Link>{" "}
              {dayYear(job.finished_at)}, <b>{minutes(job.minutes_on_site)}</b>
              <div className="soft">
                {job.asset}; {job.technician}; {job.n_visits} {job.n_visits === 1 ? "visit" : "visits"};{" "}
                {job.doubtful
                  ? "its times cannot be"
                  : job.fixed_first_time === null
                    ? "too young to tell"
                    : job.fixed_first_time
                      ? "fixed first time"
                      : "not fixed first time"}
              </div>
            </li>
          ))}
        </ul>
        <More shown={jobs.length} total={nJobs} what="job" going={behind} />
      </aside>
    </div>
  );
}

function of(share: Share) {
  if (share.share === null) return "–";
  return (
    <>
      {percent(share.share)} % of {share.n_total}
      <span className="below">
        {percent(share.low)}–{percent(share.high)}
      </span>
    </>
  );
}

/** Travel, the way from the visit before, and arrivals elsewhere; nothing where no finished job tells. */
function GettingThere({ evidence }: { evidence: Evidence }) {
  const { travel_minutes: travel, way_km: way, n_arrived_off_site: nOff } = evidence;
  if (!travel) return null;
  return (
    <p className="soft" role="note" aria-label="Getting there">
      Travel <b className="taken">{minutes(travel.median)}</b> (middle half {minutes(travel.low_quartile)} to{" "}
      {minutes(travel.high_quartile)}, {count(travel.count, "job")}).{" "}
      {way && (
        <span title={evidence.way_definition}>
          Way from the visit before <b className="taken">{number(way.median)} km</b> (middle half{" "}
          {number(way.low_quartile)} to {number(way.high_quartile)} km, {count(way.count, "job")}).{" "}
        </span>
      )}
      {nOff > 0 && `${count(nOff, "job has", "jobs have")} an arrival away from the site.`}
    </p>
  );
}
