import { Button } from "@mantine/core";
import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, need } from "../api/client";
import { nextOffset } from "../api/queries";
import type { KindOfWork, RoutinePage as Page, WorkCounts, WorkState } from "../api/types";
import { Empty } from "../ui/Empty";
import { Figure, ShareFigure } from "../ui/Figure";
import { calendarDay, count, percent, shareText } from "../ui/format";
import { More } from "../ui/More";
import { Trouble } from "../ui/Trouble";
import { useAddress } from "../ui/use-address";
import { WaitingSheet } from "../ui/WaitingSheet";
import "./review.css";
import "./together.css";
import "./routine.css";

const WORDS: Record<WorkState, string> = {
  done: "done in time",
  "done late": "done late",
  skipped: "left out",
  missed: "missed",
  overdue: "overdue",
  "to come": "still to come",
};
const STATES = Object.keys(WORDS) as WorkState[];
/** What a column counts: work that was to be done and was not, or not in time. */
const UNDONE: WorkState[] = ["done late", "skipped", "missed", "overdue"];
const FACETS = ["incident_type", "district", "month", "work"] as const;

/** What was to be done on routine visits and was not: by kind of work, visit, district and month. */
export function RoutinePage() {
  const [search, put, putAll] = useAddress();
  const chosen = Object.fromEntries(FACETS.map((facet) => [facet, search.get(facet) ?? undefined]));
  const state = STATES.find((one) => one === search.get("state"));
  const found = useQuery({
    queryKey: ["routine-work", chosen],
    queryFn: () => need(client.GET("/api/v1/routine-work", { params: { query: chosen } })),
    placeholderData: keepPreviousData,
  });
  if (!found.data) return <WaitingSheet error={found.error} />;
  const page = found.data;
  const nChosen = Object.values(chosen).filter(Boolean).length;
  if (nChosen === 0 && sum(page.visits) === 0)
    return (
      <div className="bench only-sheet">
        <main className="sheet" id="sheet">
          <h1>Routine work</h1>
          <Empty title="No routine visit has been logged yet">
            Say in the order terms of an incident type within how many days its visits are to be made. Visits
            logged from then on are followed here.
          </Empty>
        </main>
      </div>
    );
  const csv = new URLSearchParams(
    Object.entries(chosen).flatMap(([name, value]) => (value ? [[name, value]] : [])),
  );
  const toggle = (facet: string, value: string) => put(facet, chosen[facet] === value ? null : value);
  return (
    <div className="bench no-shelf">
      <main className="sheet" id="sheet" aria-busy={found.isPlaceholderData || undefined}>
        <div className="inner">
          <div className="head">
            <div>
              <div className="soft">
                <Link to="/review">Review</Link> · {count(sum(page.visits), "visit")}, {sum(page.work)} pieces
                of work
              </div>
              <h1>Routine work: done, and not done</h1>
            </div>
            <div className="actions">
              {nChosen > 0 && (
                <Button
                  variant="default"
                  onClick={() => putAll(Object.fromEntries(FACETS.map((facet) => [facet, null])))}
                >
                  Take off {count(nChosen, "choice")}
                </Button>
              )}
              <Button variant="default" component="a" href={`/api/v1/routine-work.csv?${csv}`}>
                Save as CSV
              </Button>
            </div>
          </div>
          <Visits page={page} />
          <Legend counts={page.work} state={state} onChoose={(one) => put("state", one)} />
          <div className="facets">
            <Facet
              title="Kind of visit"
              held={page.incident_types}
              chosen={chosen.incident_type}
              onChoose={(value) => toggle("incident_type", value)}
            />
            <Facet
              title="District"
              held={page.districts}
              chosen={chosen.district}
              onChoose={(value) => toggle("district", value)}
            />
          </div>
          <Months held={page.months} chosen={chosen.month} onChoose={(value) => toggle("month", value)} />
          <h2 className="routine-by-kind">By kind of work</h2>
          <p className="soft routine-definition">{page.definition}</p>
          <Kinds
            kinds={page.kinds}
            chosen={chosen.work}
            state={state}
            onChoose={(work, one) => putAll({ work, state: one })}
          />
        </div>
      </main>
      <aside className="margin" aria-label="Pieces of work">
        <Pieces chosen={chosen} state={state} />
      </aside>
    </div>
  );
}

const at = (counts: Record<string, number>, state: WorkState) => counts[state] ?? 0;
const sum = (counts: Record<string, number>) => Object.values(counts).reduce((all, n) => all + n, 0);

function Visits({ page }: { page: Page }) {
  const { visits } = page;
  return (
    <div className="figures">
      <ShareFigure label="Visits made in time" share={page.visits_in_time} of="visit" />
      <Figure label="Made late" value={at(visits, "done late")} />
      <Figure label="Cancelled" value={at(visits, "missed")} />
      <Figure
        label="Overdue"
        value={at(visits, "overdue")}
        beside={`${at(visits, "to come")} still to come`}
      />
    </div>
  );
}

function Legend({
  counts,
  state,
  onChoose,
}: {
  counts: Page["work"];
  state: WorkState | undefined;
  onChoose: (state: WorkState | null) => void;
}) {
  return (
    <fieldset className="routine-legend">
      <legend className="skip">What became of the work</legend>
      {STATES.map((one) => (
        <button
          key={one}
          type="button"
          aria-pressed={state === one}
          onClick={() => onChoose(state === one ? null : one)}
        >
          <span className="work-bar-part" data-state={one} /> {WORDS[one]}{" "}
          <span className="mono">{at(counts, one)}</span>
        </button>
      ))}
    </fieldset>
  );
}

function WorkBar({ counts, top }: { counts: Page["work"]; top: number }) {
  return (
    <span className="work-bar" style={{ width: `${(100 * sum(counts)) / Math.max(1, top)}%` }}>
      {STATES.filter((one) => at(counts, one) > 0).map((one) => (
        <span key={one} className="work-bar-part" data-state={one} style={{ flexGrow: at(counts, one) }} />
      ))}
    </span>
  );
}

const inWords = (counts: Page["work"]) =>
  STATES.filter((one) => at(counts, one) > 0)
    .map((one) => `${at(counts, one)} ${WORDS[one]}`)
    .join(", ");

function Facet({
  title,
  held,
  chosen,
  onChoose,
}: {
  title: string;
  held: WorkCounts[];
  chosen: string | undefined;
  onChoose: (value: string) => void;
}) {
  const top = Math.max(...held.map((one) => sum(one.counts)));
  return (
    <section className="facet" aria-label={title}>
      <h2>{title}</h2>
      {held.map((one) => (
        <button
          key={one.value}
          type="button"
          className="facet-bar routine-bar"
          aria-pressed={chosen === one.value}
          title={`${one.label}: ${inWords(one.counts)}`}
          onClick={() => onChoose(one.value)}
        >
          <span className="facet-label">{one.label || "not said"}</span>
          <WorkBar counts={one.counts} top={top} />
          <span className="facet-n mono">{sum(one.counts)}</span>
        </button>
      ))}
      {held.length === 0 && <p className="soft">No work meets the other choices.</p>}
    </section>
  );
}

/** Months as columns, from the first due to the last. */
function Months({
  held,
  chosen,
  onChoose,
}: {
  held: WorkCounts[];
  chosen: string | undefined;
  onChoose: (value: string) => void;
}) {
  const top = Math.max(...held.map((one) => sum(one.counts)));
  return (
    <section className="facet" aria-label="Month due">
      <h2>Month due</h2>
      <div className="routine-months">
        {held.map((one) => (
          <button
            key={one.value}
            type="button"
            className="routine-month"
            aria-pressed={chosen === one.value}
            title={`${monthOf(one.value)}: ${inWords(one.counts)}`}
            onClick={() => onChoose(one.value)}
          >
            <span className="mono">{sum(one.counts)}</span>
            <span className="work-column" style={{ height: (80 * sum(one.counts)) / Math.max(1, top) }}>
              {STATES.filter((state) => at(one.counts, state) > 0).map((state) => (
                <span
                  key={state}
                  className="work-bar-part"
                  data-state={state}
                  style={{ flexGrow: at(one.counts, state) }}
                />
              ))}
            </span>
            <span>{monthOf(one.value)}</span>
          </button>
        ))}
      </div>
    </section>
  );
}

const monthFormat = new Intl.DateTimeFormat("en-GB", { month: "short", year: "2-digit" });
const monthOf = (value: string) => monthFormat.format(new Date(`${value}-15T12:00`));

function Kinds({
  kinds,
  chosen,
  state,
  onChoose,
}: {
  kinds: KindOfWork[];
  chosen: string | undefined;
  state: WorkState | undefined;
  onChoose: (work: string | null, state: WorkState | null) => void;
}) {
  const top = Math.max(...kinds.map((kind) => sum(kind.counts)));
  return (
    <table className="rows routine-kinds">
      <thead>
        <tr>
          <th>Work</th>
          <th aria-label="What became of it" />
          <th className="num">In time</th>
          {UNDONE.map((one) => (
            <th key={one} className="num">
              {WORDS[one][0]?.toUpperCase()}
              {WORDS[one].slice(1)}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {kinds.map((kind) => (
          <tr key={kind.value} className={chosen === kind.value ? "chosen" : undefined}>
            <td>
              <button
                type="button"
                className="linklike"
                aria-pressed={chosen === kind.value}
                onClick={() => onChoose(chosen === kind.value ? null : kind.value, null)}
              >
                {kind.text}
              </button>
              <div className="soft">
                {kind.phase}, <span className="mono">{kind.document}</span>
                {kind.reasons[0] && `. Most often: “${kind.reasons[0].reason}” (${kind.reasons[0].n})`}
              </div>
            </td>
            <td className="routine-room" title={inWords(kind.counts)}>
              <WorkBar counts={kind.counts} top={top} />
            </td>
            <td className="num" title={shareText(kind.in_time)}>
              {kind.in_time.share === null ? "–" : `${percent(kind.in_time.share)} %`}
              <div className="soft">
                {kind.in_time.share !== null && `${percent(kind.in_time.low)}–${percent(kind.in_time.high)}`},{" "}
                {kind.in_time.n_total}
              </div>
            </td>
            {UNDONE.map((one) => (
              <td key={one} className="num">
                {at(kind.counts, one) > 0 ? (
                  <button
                    type="button"
                    className="linklike mono"
                    aria-pressed={chosen === kind.value && state === one}
                    aria-label={`${at(kind.counts, one)} ${WORDS[one]}: ${kind.text}`}
                    onClick={() => onChoose(kind.value, one)}
                  >
                    {at(kind.counts, one)}
                  </button>
                ) : (
                  <span className="soft">–</span>
                )}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Pieces({
  chosen,
  state,
}: {
  chosen: Record<string, string | undefined>;
  state: WorkState | undefined;
}) {
  const asked = state !== undefined || chosen.work !== undefined;
  const pieces = useInfiniteQuery({
    queryKey: ["routine-work", "pieces", chosen, state],
    queryFn: ({ pageParam }) =>
      need(
        client.GET("/api/v1/routine-work/pieces", {
          params: { query: { ...chosen, state, offset: pageParam } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (page, pages) => nextOffset(page.total, pages, (p) => p.lines.length),
    enabled: asked,
  });
  const lines = pieces.data?.pages.flatMap((page) => page.lines) ?? [];
  const total = pieces.data?.pages[0]?.total ?? 0;
  if (!asked)
    return (
      <>
        <h2>Piece by piece</h2>
        <p className="soft">Press a count, or what became of the work, to see the visits behind it.</p>
      </>
    );
  return (
    <>
      <h2>
        {count(total, "piece")} of work{state && `, ${WORDS[state]}`}
      </h2>
      <Trouble error={pieces.error} />
      <ul className="routine-pieces">
        {lines.map((line) => (
          <li key={`${line.order} ${line.text}`}>
            <Link to={`/run/${line.order}`} className="mono">
              {line.order}
            </Link>{" "}
            {!chosen.work && <b>{line.text}</b>}
            <div>{line.asset}</div>
            <div className="soft">
              {!state && `${WORDS[line.state]}, `}last day {calendarDay(line.due_on)}
              {line.done_on && `, done ${calendarDay(line.done_on)}`}
            </div>
            {line.reason && <div>“{line.reason}”</div>}
          </li>
        ))}
      </ul>
      {pieces.data && total === 0 && <p className="soft">No piece of work meets all of it.</p>}
      <More shown={lines.length} total={total} what="piece" going={pieces} />
    </>
  );
}
