import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { client, need } from "../api/client";
import { count, dayYear, number } from "../ui/format";
import { SavePlot } from "../ui/SavePlot";
import { useAddress } from "../ui/use-address";
import { PlotMenu } from "./PlotMenu";

const WIDTH = 460;
const HEIGHT = 190;
const LEFT = 44;
const FOOT = 22;

/** Readings of one question in time, on an individuals chart; a dot opens its job. */
export function ReadingsPlot({ incident }: { incident: string }) {
  const [search, put] = useAddress();
  const navigate = useNavigate();
  const question = search.get("reading") ?? "";
  const model = search.get("reading-model") ?? "";
  const found = useQuery({
    queryKey: ["readings", incident, question, model],
    queryFn: () =>
      need(
        client.GET("/api/v1/incident-types/{document}/readings", {
          params: { path: { document: incident }, query: { question, model } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const data = found.data;
  if (!data || data.asked.length === 0) return null;
  const asked = data.asked.find((a) => a.question === data.question);
  const { chart, dots } = data;
  const rules = new Map(chart?.signals.map(([at, rule]) => [at as number, rule as string]));
  const ends = [...dots.map((d) => d.value), chart?.low ?? Infinity, chart?.high ?? -Infinity];
  const [least, most] = [Math.min(...ends), Math.max(...ends)];
  const x = (i: number) => LEFT + ((i + 0.5) / Math.max(1, dots.length)) * (WIDTH - LEFT - 8);
  const y = (value: number) => 8 + (1 - (value - least) / (most - least || 1)) * (HEIGHT - FOOT - 8);
  const words = `${asked?.label ?? ""}: ${count(dots.length, "reading")}, ${rules.size} worth a look.`;
  return (
    <figure className="plot">
      <figcaption>
        <h2>Readings in time</h2>
        <div className="actions">
          <PlotMenu
            label="Which reading"
            value={data.question}
            data={data.asked.map((a) => ({
              value: a.question,
              label: `${a.label}, ${count(a.n, "reading")}`,
            }))}
            onChange={(v) => put("reading", v)}
          />
          <PlotMenu
            label="Every model"
            value={model || null}
            data={data.models.map((m) => ({ value: m, label: m }))}
            onChange={(v) => put("reading-model", v)}
          />
        </div>
      </figcaption>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label={words}>
        <title>{words}</title>
        {chart && (
          <>
            <rect
              x={LEFT}
              width={WIDTH - LEFT - 8}
              y={y(chart.high)}
              height={Math.max(1, y(chart.low) - y(chart.high))}
              fill="var(--slate-wash)"
            />
            <line x1={LEFT} x2={WIDTH - 8} y1={y(chart.centre)} y2={y(chart.centre)} stroke="var(--slate)" />
            {[chart.high, chart.centre, chart.low].map((value) => (
              <text key={value} x={LEFT - 6} y={y(value) + 4} textAnchor="end" className="plot-text">
                {number(Math.round(value * 100) / 100)}
              </text>
            ))}
          </>
        )}
        {[asked?.low, asked?.high].map(
          (limit) =>
            typeof limit === "number" &&
            limit >= least &&
            limit <= most && (
              <line
                key={limit}
                x1={LEFT}
                x2={WIDTH - 8}
                y1={y(limit)}
                y2={y(limit)}
                stroke="var(--tawny)"
                strokeDasharray="5 3"
              />
            ),
        )}
        {dots.map((dot, i) => {
          const rule = rules.get(i);
          const told = `${dot.order}, ${dayYear(dot.at)}: ${number(dot.value)} ${asked?.unit ?? ""}${rule ? `, ${rule}` : ""}`;
          return (
            // biome-ignore lint/a11y/useSemanticElements: a dot of a plot; the same jobs stand in the list below.
            <circle
              key={`${dot.order} ${dot.each} ${dot.at}`}
              role="button"
              aria-label={told}
              cx={x(i)}
              cy={y(dot.value)}
              r={rule ? 4 : 2.4}
              fill={rule ? "var(--bad)" : "var(--slate)"}
              className="plot-dot"
              onClick={() => navigate(`/review/jobs/${dot.order}`)}
            >
              <title>{told}</title>
            </circle>
          );
        })}
        {dots.length > 0 && (
          <>
            <text x={LEFT} y={HEIGHT - 6} className="plot-text">
              {dayYear(dots[0]?.at ?? "")}
            </text>
            <text x={WIDTH - 8} y={HEIGHT - 6} textAnchor="end" className="plot-text">
              {dayYear(dots.at(-1)?.at ?? "")}
            </text>
          </>
        )}
      </svg>
      <SavePlot name={`${incident} readings`} />
      <p className="soft plot-note">
        {chart
          ? `Block: mean ± 2.66 mean moving ranges, ${count(dots.length, "reading")}. Large dots complete a run rule. Tawny dashes: the limits written.`
          : `Too few to say: 8 readings are wanted, there are ${dots.length}.`}
      </p>
    </figure>
  );
}
