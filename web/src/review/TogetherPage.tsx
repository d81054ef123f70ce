import { Button } from "@mantine/core";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { client, need } from "../api/client";
import type { Bar, JobsTogether, Person } from "../api/types";
import { Empty } from "../ui/Empty";
import { Figure, ShareFigure } from "../ui/Figure";
import { count, dayYear, minutes, number, percent, shareText } from "../ui/format";
import { useAddress } from "../ui/use-address";
import { WaitingSheet } from "../ui/WaitingSheet";
import { Compared } from "./Compared";
import { CurveOfReturns } from "./CurveOfReturns";
import { CustomersSaid } from "./CustomersSaid";
import { type Facet, param } from "./choices";
import { KeptViews } from "./KeptViews";
import { ReadingsPlot } from "./ReadingsPlot";
import "./review.css";
import "./together.css";

const TITLES: Record<Facet, string> = {
  model: "Model",
  district: "District",
  symptom: "Symptom",
  revision: "Guidance issued",
  cause: "Cause found",
  remedy: "Remedy",
  "return reason": "First return",
  month: "Month finished",
};
/** Bars of one facet that are shown before the rest is asked for. */
const FIRST_BARS = 7;

/** All finished jobs of an incident type together: choose a bar, and all else narrows to its jobs. */
export function TogetherPage({ person }: { person: Person }) {
  const { incident = "" } = useParams();
  const [search, put, putAll] = useAddress();
  const facets = Object.keys(TITLES) as Facet[];
  const chosen = Object.fromEntries(facets.map((f) => [param(f), search.get(param(f))?.split("|") ?? []]));
  const query = Object.fromEntries(Object.entries(chosen).filter(([, values]) => values.length > 0));
  const found = useQuery({
    queryKey: ["together", incident, query],
    queryFn: () =>
      need(
        client.GET("/api/v1/incident-types/{document}/jobs-together", {
          params: { path: { document: incident }, query },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const views =
    useQuery({
      queryKey: ["kept-views", incident],
      queryFn: () =>
        need(
          client.GET("/api/v1/incident-types/{document}/kept-views", {
            params: { path: { document: incident } },
          }),
        ),
    }).data ?? [];
  if (!found.data) return <WaitingSheet error={found.error} />;
  const page = found.data;
  const nChosen = Object.values(query).flat().length;

  function toggle(facet: Facet, value: string) {
    const held = chosen[param(facet)] ?? [];
    const next = held.includes(value) ? held.filter((v) => v !== value) : [...held, value];
    put(param(facet), next.length ? next.join("|") : null);
  }

  if (page.found.n_of === 0)
    return (
      <div className="bench only-sheet">
        <main className="sheet" id="sheet">
          <h1>{page.title}</h1>
          <Empty title="No job of it is finished yet">Its jobs appear here once the first is finished.</Empty>
        </main>
      </div>
    );
  const csv = new URLSearchParams();
  for (const [name, values] of Object.entries(query)) for (const value of values) csv.append(name, value);
  return (
    <div className="bench only-sheet">
      <main className="sheet" id="sheet" aria-busy={found.isPlaceholderData || undefined}>
        <div className="head">
          <div>
            <div className="mono soft">
              <Link to={`/review/${incident}`}>{incident}</Link> · {count(page.found.n, "job")}
              {page.found.n < page.found.n_of && ` of ${page.found.n_of}`}
            </div>
            <h1>{page.title}: all jobs together</h1>
          </div>
          <div className="actions">
            {nChosen > 0 && (
              <Button
                variant="default"
                onClick={() => putAll(Object.fromEntries(facets.map((f) => [param(f), null])))}
              >
                Take off {count(nChosen, "choice")}
              </Button>
            )}
            <Button
              variant="default"
              component="a"
              href={`/api/v1/incident-types/${incident}/jobs-together.csv?${csv}`}
            >
              Save as CSV
            </Button>
            <Button
              variant="default"
              component="a"
              href={`/api/v1/incident-types/${incident}/jobs-together.xes?${csv}`}
              title="What was recorded on these jobs, step by step, in XES (IEEE 1849), the open format of process mining"
            >
              {page.found.n > page.most_logged
                ? `Save the latest ${page.most_logged} as event log`
                : "Save as event log"}
            </Button>
          </div>
        </div>
        <KeptViews incident={incident} person={person} views={views} query={query} />
        <Figures page={page} />
        <div className="facets">
          {page.found.facets
            .filter((held) => held.bars.length > 1 || chosen[param(held.facet)]?.length)
            .map((held) => (
              <FacetPlot
                key={held.facet}
                title={TITLES[held.facet]}
                bars={held.bars}
                words={page.words[held.facet] ?? {}}
                chosen={chosen[param(held.facet)] ?? []}
                isTime={held.facet === "month"}
                onChoose={(value) => toggle(held.facet, value)}
              />
            ))}
        </div>
        <p className="soft" style={{ fontSize: 13 }}>
          Each bar is the number of jobs; the figure after it is the share fixed first time. {page.definition}
        </p>
        {nChosen > 0 && (
          <Compared
            incident={incident}
            query={query}
            views={views}
            against={search.get("against")}
            onAgainst={(value) => put("against", value)}
          />
        )}
        <div className="together-plots">
          <CurveOfReturns incident={incident} />
          <ReadingsPlot incident={incident} />
        </div>
        <CustomersSaid incident={incident} query={query} />
        <Asked incident={incident} />
        <h2 className="far">
          {page.found.n > page.jobs.length ? `The latest ${page.jobs.length} of them` : "These jobs"}
        </h2>
        <table className="rows">
          <thead>
            <tr>
              <th>Order</th>
              <th>Asset</th>
              <th>Finished</th>
              <th className="num">Visits</th>
              <th className="num">On site</th>
              <th>Fixed first time</th>
              <th>Guidance</th>
            </tr>
          </thead>
          <tbody>
            {page.jobs.map((job) => (
              <tr key={job.order}>
                <td className="mono">
                  <Link to={`/review/jobs/${job.order}`}>{job.order}</Link>
                </td>
                <td>{job.asset}</td>
                <td>{dayYear(job.finished_at)}</td>
                <td className="num">{job.n_visits}</td>
                <td className="num">
                  {job.minutes_on_site === null ? "doubtful" : minutes(job.minutes_on_site)}
                </td>
                <td>{job.fixed_first_time === null ? "too young" : job.fixed_first_time ? "yes" : "no"}</td>
                <td className="soft">{job.revisions}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </main>
    </div>
  );
}

function Figures({ page }: { page: JobsTogether }) {
  const { fixed, minutes: taken, repeat_visits, with_findings, helped, n_too_young } = page.found;
  const { photos, doubtful_photos, travel_minutes: travel, way_km: way } = page.found;
  return (
    <div className="figures">
      <ShareFigure
        label="Fixed first time"
        share={fixed}
        more={n_too_young > 0 ? `${n_too_young} younger than 30 days` : undefined}
      />
      <Figure
        label="On site, median"
        value={taken ? minutes(taken.median) : "–"}
        beside={
          taken
            ? `middle half ${minutes(taken.low_quartile)} to ${minutes(taken.high_quartile)}, ${count(taken.count, "job")}`
            : "no job whose times can be"
        }
      />
      {travel && (
        <Figure
          label="Travel, median"
          value={minutes(travel.median)}
          beside={`middle half ${minutes(travel.low_quartile)} to ${minutes(travel.high_quartile)}, ${count(travel.count, "job")}`}
        />
      )}
      {way && (
        <Figure
          label="Way from the visit before, median"
          title={page.way_definition}
          value={`${number(way.median)} km`}
          beside={`middle half ${number(way.low_quartile)} to ${number(way.high_quartile)} km, ${count(way.count, "job")}`}
        />
      )}
      <ShareFigure label="More than one visit" share={repeat_visits} />
      <ShareFigure label="With a finding" share={with_findings} />
      <ShareFigure label="Asked for help" share={helped} />
      {doubtful_photos.share !== null && (
        <Figure
          label="Photos in doubt"
          title="Blurred, dark, or the same picture as another of its order. Photos from before they were looked at do not count."
          value={`${percent(doubtful_photos.share)} %`}
          beside={`${percent(doubtful_photos.low)}–${percent(doubtful_photos.high)}, ${count(photos.n, "photo")}: ${photos.blurred} blurred, ${photos.dark} dark, ${photos.same_again} the same again`}
        />
      )}
    </div>
  );
}

function FacetPlot({
  title,
  bars,
  words,
  chosen,
  isTime,
  onChoose,
}: {
  title: string;
  bars: Bar[];
  words: Record<string, string>;
  chosen: string[];
  isTime: boolean;
  onChoose: (value: string) => void;
}) {
  const [search, put] = useAddress();
  const name = `all-${title.split(" ")[0]?.toLowerCase()}`;
  const isAll = isTime || search.has(name) || bars.length <= FIRST_BARS + 1;
  const shown = isAll ? bars : bars.filter((bar, i) => i < FIRST_BARS || chosen.includes(bar.value));
  const top = Math.max(1, ...bars.map((bar) => bar.n));
  return (
    <section className="facet" aria-label={title}>
      <h2>{title}</h2>
      {shown.map((bar) => {
        const label = words[bar.value] ?? (bar.value || "not said");
        return (
          <button
            key={bar.value}
            type="button"
            className="facet-bar"
            aria-pressed={chosen.includes(bar.value)}
            title={`${label}: ${count(bar.n, "job")}. Fixed first time ${shareText(bar.fixed)}. ${bar.minutes === null ? "" : `Median ${minutes(bar.minutes)} on site.`}`}
            onClick={() => onChoose(bar.value)}
          >
            <span className="facet-label">{label}</span>
            <span className="facet-room">
              <span className="facet-length" style={{ width: `${(100 * bar.n) / top}%` }} />
            </span>
            <span className="facet-n mono">{bar.n}</span>
            <span className="facet-share mono soft">
              {bar.fixed.share === null ? "–" : `${percent(bar.fixed.share)}%`}
            </span>
          </button>
        );
      })}
      {!isAll && (
        <button type="button" className="linklike" onClick={() => put(name, "yes")}>
          {bars.length - shown.length} more
        </button>
      )}
      {bars.length === 0 && <p className="soft">No job meets the other choices.</p>}
    </section>
  );
}

function Asked({ incident }: { incident: string }) {
  const asked = useQuery({
    queryKey: ["asked-of-crews", incident],
    queryFn: () =>
      need(
        client.GET("/api/v1/incident-types/{document}/asked-of-crews", {
          params: { path: { document: incident } },
        }),
      ),
  });
  if (!asked.data?.length) return null;
  return (
    <section aria-label="Worth asking about">
      <h2>Worth asking about</h2>
      <p className="soft" style={{ fontSize: 13 }}>
        Readings that repeat beyond chance, and steps done in next to no time, held against everybody else's;
        of the latest jobs where there are very many. Of all that is asked here, one in ten may be chance.
        Ask, do not accuse.
      </p>
      {asked.data.map(({ technician, asked: question }) => (
        <p key={`${question.technician} ${question.question} ${question.sentence}`} className="note">
          <b>{technician}:</b> {question.sentence}{" "}
          {question.orders.slice(-4).map((order) => (
            <span key={order}>
              <Link to={`/review/jobs/${order}`} className="mono">
                {order}
              </Link>{" "}
            </span>
          ))}
          <span className="soft">{count(question.orders.length, "job")}</span>
        </p>
      ))}
    </section>
  );
}
