import { useQuery } from "@tanstack/react-query";
import { client, need } from "../api/client";
import type { OrderKeptPage, WentAstray } from "../api/types";
import { count, percent, shareText } from "../ui/format";
import { SavePlot } from "../ui/SavePlot";
import "./together.css";
import "./order-kept.css";

const ROW = 24;
const STEM = 190;
const WIDTH = 770;
/** Room between two arcs, so that each can be seen and pressed. */
const APART = 20;

/** How a way of going astray is told in the address. */
const wayKey = (way: Pick<WentAstray, "line" | "other" | "is_early">) =>
  `${way.line}|${way.other}|${way.is_early ? "before" : "after"}`;

/** The stem as it was issued last, with the commonest ways in which jobs went astray from its order drawn on it. */
export function OrderKept({
  incident,
  revision,
  chosen,
  onChoose,
}: {
  incident: string;
  revision: string | undefined;
  chosen: string | null;
  onChoose: (way: string | null) => void;
}) {
  const found = useQuery({
    queryKey: ["evidence", incident, "order-kept", revision],
    queryFn: () =>
      need(
        client.GET("/api/v1/incident-types/{document}/order-kept", {
          params: { path: { document: incident }, query: { revision } },
        }),
      ),
  });
  if (!found.data || found.data.throughout.n_total === 0) return null;
  const page = found.data;
  return (
    <figure className="plot order-kept">
      <figcaption>
        <h2>Order kept</h2>
        <p>
          <b>{shareText(page.throughout)}</b> kept to the order of the runsheet throughout; on average{" "}
          {page.mean?.toFixed(2)} of 1.
        </p>
      </figcaption>
      {page.astray.length === 0 ? (
        <p className="soft">
          No step was done out of turn in the same way in {page.least_jobs} jobs or more.
        </p>
      ) : (
        <>
          <Stem page={page} chosen={chosen} onChoose={onChoose} />
          <ol className="order-kept-ways">
            {page.astray.map((way) => (
              <li key={wayKey(way)}>
                <button
                  type="button"
                  className="linklike"
                  aria-pressed={chosen === wayKey(way)}
                  onClick={() => onChoose(chosen === wayKey(way) ? null : wayKey(way))}
                >
                  {way.sentence}
                </button>{" "}
                <span className="soft">
                  in {way.share.n_hits} of {count(way.share.n_total, "job")}, {percent(way.share.low)}–
                  {percent(way.share.high)} %
                </span>
              </li>
            ))}
          </ol>
        </>
      )}
      {page.n_other > 0 && (
        <p className="soft plot-note">
          {count(page.n_other, "other way", "other ways")} in fewer jobs, or by steps that are no longer
          issued.
        </p>
      )}
      <p className="soft plot-note">{page.definition}</p>
      {page.astray.length > 0 && <SavePlot name="order kept" />}
    </figure>
  );
}

function Stem({
  page,
  chosen,
  onChoose,
}: {
  page: OrderKeptPage;
  chosen: string | null;
  onChoose: (way: string | null) => void;
}) {
  const place = new Map(page.stem.map((line, i) => [line.line, i]));
  const y = (i: number) => 22 + i * ROW;
  const most = Math.max(...page.astray.map((way) => way.share.n_hits));
  const height = y(page.stem.length - 1) + 16;
  const words = `Order kept throughout in ${shareText(page.throughout)}. ${page.astray
    .map((way) => `${way.sentence} in ${way.share.n_hits}`)
    .join("; ")}.`;
  return (
    <svg viewBox={`0 0 ${WIDTH} ${height}`} role="img" aria-label={words}>
      <line x1={STEM} x2={STEM} y1={y(0)} y2={y(page.stem.length - 1)} stroke="var(--reed)" strokeWidth={3} />
      {page.astray.map((way, n) => {
        const from = y(place.get(way.line) ?? 0);
        const to = y(place.get(way.other) ?? 0) + (way.is_early ? -ROW / 2 : ROW / 2);
        const out = STEM - 34 - APART * n;
        const isChosen = chosen === wayKey(way);
        const path = `M${STEM - 8},${from}C${out},${from} ${out},${to} ${STEM - 16},${to}`;
        return (
          // biome-ignore lint/a11y/noStaticElementInteractions: the list below does the same for keyboards and readers
          <g
            key={wayKey(way)}
            className="order-kept-way"
            onClick={() => onChoose(isChosen ? null : wayKey(way))}
          >
            <title>{`${way.sentence}, in ${way.share.n_hits} of ${way.share.n_total} jobs`}</title>
            <path
              d={path}
              fill="none"
              stroke={isChosen ? "var(--bill)" : "var(--slate)"}
              strokeWidth={1.5 + (4 * way.share.n_hits) / most}
            />
            <path
              d={`M${STEM - 18},${to - 8}L${STEM - 4},${to}L${STEM - 18},${to + 8}Z`}
              fill={isChosen ? "var(--bill)" : "var(--slate)"}
            />
            <text x={(STEM + 3 * out) / 4 - 4} y={(from + to) / 2 + 4} textAnchor="end" className="plot-text">
              {way.share.n_hits}
            </text>
          </g>
        );
      })}
      {page.stem.map((line, i) => {
        const isFirst = line.phase !== page.stem[i - 1]?.phase;
        return (
          <g key={line.line}>
            <circle cx={STEM} cy={y(i)} r={5} fill="var(--card)" stroke="var(--reed)" strokeWidth={2} />
            <text x={STEM + 16} y={y(i) + 4} className="order-kept-text">
              {line.text.length > 52 ? `${line.text.slice(0, 50)}…` : line.text}
            </text>
            <text x={STEM + 372} y={y(i) + 4} className="plot-text">
              {isFirst ? line.phase : ""}
            </text>
            <text x={WIDTH} y={y(i) + 4} textAnchor="end" className="plot-text">
              {line.n_undone > 0 ? `not done in ${line.n_undone} of ${line.n_wanted}` : ""}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
