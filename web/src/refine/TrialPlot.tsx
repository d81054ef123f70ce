import { useId } from "react";
import type { TrialReading } from "../api/types";
import { count } from "../ui/format";
import { SavePlot } from "../ui/SavePlot";

const WIDTH = 900;
const HEIGHT = 260;
const LEFT = 84;
const FOOT = 28;

/** The difference after each job with the range that holds at all times; dashed, what was to be found. */
export function TrialPlot({
  reading,
  worth,
  mostJobs,
}: {
  reading: TrialReading;
  worth: number;
  mostJobs: number;
}) {
  const plotted = useId();
  const { course } = reading;
  const last = course.at(-1);
  if (!last) return null;
  // The first ranges are so wide that all else would lie flat: they run off the plot.
  const reach = Math.max(
    2 * worth,
    ...course.slice(-Math.ceil(course.length / 2)).flatMap((m) => [-m.low, m.high]),
  );
  const jobs = Math.max(mostJobs, last.n_jobs);
  const x = (n: number) => LEFT + (n / jobs) * (WIDTH - LEFT - 12);
  const y = (value: number) => (HEIGHT - FOOT) / 2 - (value / reach) * ((HEIGHT - FOOT) / 2 - 8);
  const line = (of: (moment: (typeof course)[number]) => number) =>
    course.map((moment) => `${x(moment.n_jobs)},${y(of(moment))}`);
  const band = [...line((m) => m.high), ...line((m) => m.low).reverse()].join(" ");
  const signed = (value: number) => `${value > 0 ? "+" : "−"}${Math.round(Math.abs(value))} min`;
  return (
    <figure className="trial-plot">
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label={reading.sentence}>
        <clipPath id={plotted}>
          <rect x={LEFT} y={0} width={WIDTH - LEFT} height={HEIGHT - FOOT} />
        </clipPath>
        <polygon points={band} fill="var(--slate)" opacity={0.16} clipPath={`url(#${plotted})`} />
        {[worth, -worth].map((value) => (
          <line
            key={value}
            x1={LEFT}
            x2={WIDTH - 12}
            y1={y(value)}
            y2={y(value)}
            stroke="var(--tawny)"
            strokeDasharray="7 4"
          />
        ))}
        <line x1={LEFT} x2={WIDTH - 12} y1={y(0)} y2={y(0)} stroke="var(--ink)" />
        <line
          x1={x(mostJobs)}
          x2={x(mostJobs)}
          y1={8}
          y2={HEIGHT - FOOT}
          stroke="var(--tawny)"
          strokeDasharray="7 4"
        />
        <polyline
          points={line((m) => m.value).join(" ")}
          fill="none"
          stroke="var(--slate)"
          strokeWidth={2.5}
          clipPath={`url(#${plotted})`}
        />
        <circle cx={x(last.n_jobs)} cy={y(last.value)} r={5} fill="var(--slate)" />
        {[worth, 0, -worth].map((value) => (
          <text key={value} x={LEFT - 6} y={y(value) + 4} textAnchor="end" className="plot-text">
            {value === 0 ? "no change" : signed(value)}
          </text>
        ))}
        <text x={LEFT} y={HEIGHT - 6} className="plot-text">
          0
        </text>
        <text
          x={x(mostJobs)}
          y={HEIGHT - 6}
          textAnchor={jobs === mostJobs ? "end" : "middle"}
          className="plot-text"
        >
          {count(mostJobs, "job")}
        </text>
      </svg>
      <SavePlot name="trial" />
      <figcaption className="soft">
        Minutes a job with the revision on trial, over those of the others, after each finished job. Below the
        line it saves. Dashed: the difference that is worth finding, and the most jobs that it is to take.
      </figcaption>
    </figure>
  );
}
