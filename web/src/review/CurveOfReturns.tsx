import { useQuery } from "@tanstack/react-query";
import { client, need } from "../api/client";
import { count, percent } from "../ui/format";
import { SavePlot } from "../ui/SavePlot";

const WIDTH = 460;
const HEIGHT = 190;
const LEFT = 40;
const FOOT = 26;
const DAYS = 120;

/** How soon assets come back after a job: the share with no further order yet, with its interval. */
export function CurveOfReturns({ incident }: { incident: string }) {
  const found = useQuery({
    queryKey: ["back-again", incident],
    queryFn: () =>
      need(
        client.GET("/api/v1/incident-types/{document}/back-again", {
          params: { path: { document: incident } },
        }),
      ),
  });
  const data = found.data;
  if (!data || data.n === 0) return null;
  const points = data.points.filter((p) => p.time <= DAYS);
  const x = (day: number) => LEFT + (Math.min(day, DAYS) / DAYS) * (WIDTH - LEFT - 8);
  const least = Math.min(0.5, ...points.map((p) => p.low));
  const y = (share: number) => 8 + (1 - (share - least) / (1 - least)) * (HEIGHT - FOOT - 8);
  const steps = (of: (p: (typeof points)[number]) => number) => {
    let path = `M${x(0)},${y(1)}`;
    for (const p of points) path += `H${x(p.time)}V${y(of(p))}`;
    return `${path}H${x(DAYS)}`;
  };
  const low = steps((p) => p.low);
  const back = [...points].reverse();
  const band = `${steps((p) => p.high)}V${y(points.at(-1)?.low ?? 1)}${back
    .map((p, i) => `H${x(p.time)}V${y(back[i + 1]?.low ?? 1)}`)
    .join("")}Z`;
  const [share = 0, from = 0, to = 0] = data.within["30"] ?? [];
  const words = `${percent(share)} % (${percent(from)}–${percent(to)}) came back within 30 days, ${count(data.n, "job")} watched, ${data.n_back} came back so far.`;
  return (
    <figure className="plot">
      <figcaption>
        <h2>Back again</h2>
        <p className="soft">{words}</p>
      </figcaption>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label={words}>
        <path d={band} fill="var(--slate-wash)" />
        <path d={low} fill="none" stroke="none" />
        <path d={steps((p) => p.share)} fill="none" stroke="var(--slate)" strokeWidth={2} />
        {[1, (1 + least) / 2, least].map((share) => (
          <text key={share} x={LEFT - 6} y={y(share) + 4} textAnchor="end" className="plot-text">
            {percent(share)}%
          </text>
        ))}
        {[0, 30, 60, 90, 120].map((day) => (
          <g key={day}>
            <line x1={x(day)} x2={x(day)} y1={8} y2={HEIGHT - FOOT} stroke="var(--line)" />
            <text
              x={x(day)}
              y={HEIGHT - 8}
              textAnchor={day === DAYS ? "end" : "middle"}
              className="plot-text"
            >
              {day === 120 ? "120 days" : day}
            </text>
          </g>
        ))}
      </svg>
      <SavePlot name="back again" />
      <p className="soft plot-note">
        The share of jobs with no further order for the same or a related symptom on the asset, by days since
        (Kaplan and Meier); the block is its 95 % interval.
      </p>
    </figure>
  );
}
