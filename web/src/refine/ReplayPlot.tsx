import type { Replayed } from "../api/types";
import { count } from "../ui/format";
import { SavePlot } from "../ui/SavePlot";

const WIDTH = 900;
const LEFT = 12;
const DOT = 3.4;
const BINS = 60;
/** A job of which more than this share was drawn is shown hollow. */
const DRAWN = 0.05;
/** Fewer minutes than this are no change. */
const UNCHANGED = 0.05;

/** Each job as a dot by the minutes that the draft adds, stacked where jobs are alike; the mean with its range. */
export function ReplayPlot({
  jobs,
  minutes,
}: {
  jobs: Replayed["jobs"];
  minutes: NonNullable<Replayed["minutes"]>;
}) {
  const values = jobs.map((job) => job.minutes);
  const least = Math.min(0, minutes.low, ...values);
  const most = Math.max(0, minutes.high, ...values);
  const reach = Math.max(most - least, 1);
  const x = (value: number) => LEFT + ((value - least) / reach) * (WIDTH - 2 * LEFT);
  const stacks = new Map<number, typeof jobs>();
  const changed = jobs.filter((job) => Math.abs(job.minutes) > UNCHANGED);
  for (const job of changed) {
    const bin = Math.round(((job.minutes - least) / reach) * BINS);
    stacks.set(bin, [...(stacks.get(bin) ?? []), job]);
  }
  const highest = Math.max(1, ...[...stacks.values()].map((stack) => stack.length));
  // The tallest stack fills the plot; dots overlap where there are many.
  const rise = Math.min(2 * DOT + 1, 150 / highest);
  const foot = 34 + highest * rise + 8;
  const height = foot + 26;
  const nLess = changed.filter((job) => job.minutes < 0).length;
  const nSame = jobs.length - changed.length;
  const words = `${count(jobs.length, "job")}: ${nLess} take less, ${changed.length - nLess} take more, ${nSame} stay as they are.`;
  return (
    <figure className="replay-plot">
      <svg viewBox={`0 0 ${WIDTH} ${height}`} role="img" aria-label={words}>
        <line x1={x(0)} x2={x(0)} y1={6} y2={foot} stroke="var(--ink)" />
        <line
          x1={x(minutes.low)}
          x2={x(minutes.high)}
          y1={16}
          y2={16}
          stroke="var(--tawny)"
          strokeWidth={4}
          strokeDasharray="7 4"
        />
        <circle cx={x(minutes.value)} cy={16} r={6} fill="var(--tawny)" />
        {[...stacks].flatMap(([bin, stack]) =>
          [...stack]
            .sort((a, b) => a.filled - b.filled)
            .map((job, i) => (
              <circle
                key={job.order}
                cx={x(least + (bin / BINS) * reach)}
                cy={foot - DOT - 2 - i * rise}
                r={DOT}
                fill={job.filled > DRAWN ? "var(--card)" : "var(--slate)"}
                stroke="var(--slate)"
              />
            )),
        )}
        <line x1={LEFT} x2={WIDTH - LEFT} y1={foot} y2={foot} stroke="var(--line)" />
        {[...new Set([least, 0, most])].map((value) => (
          <text
            key={value}
            x={x(value)}
            y={foot + 18}
            textAnchor={value === least ? "start" : value === most ? "end" : "middle"}
            className="plot-text"
          >
            {value === 0 ? "no change" : `${value > 0 ? "+" : "−"}${Math.round(Math.abs(value))} min`}
          </text>
        ))}
      </svg>
      <SavePlot name="replay" />
      <figcaption className="soft">
        {words} Left of the line a job takes less under the draft. The dashed bar is the mean with its range;
        a hollow dot rests in part on what was drawn.
      </figcaption>
    </figure>
  );
}
