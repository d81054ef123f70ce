import type { Spread } from "../api/types";
import { count, number } from "./format";

const HEIGHT = 20;

/** Planned (tawny, dashed) against taken (slate, solid): median and middle half of the jobs. */
export function DotRange({
  planned,
  taken,
  top,
  width = 176,
}: {
  planned: number;
  taken: Spread | null | undefined;
  top: number;
  width?: number;
}) {
  const x = (value: number) => 3 + Math.min(1, value / (top || 1)) * (width - 6);
  const words = taken
    ? `Planned ${number(planned)} min. Taken: median ${number(taken.median)}, middle half ${number(taken.low_quartile)} to ${number(taken.high_quartile)}, ${count(taken.count, "job")}.`
    : `Planned ${number(planned)} min. No job has done it yet.`;
  return (
    <svg width={width} height={HEIGHT} role="img" aria-label={words}>
      <title>{words}</title>
      <line x1={3} x2={width - 3} y1={HEIGHT / 2} y2={HEIGHT / 2} stroke="var(--line)" />
      {taken && (
        <>
          <rect
            x={x(taken.low_quartile)}
            width={Math.max(1, x(taken.high_quartile) - x(taken.low_quartile))}
            y={6}
            height={8}
            fill="var(--slate-wash)"
          />
          <line
            x1={x(taken.median)}
            x2={x(taken.median)}
            y1={4}
            y2={16}
            stroke="var(--slate)"
            strokeWidth={3}
          />
        </>
      )}
      <line
        x1={x(planned)}
        x2={x(planned)}
        y1={0}
        y2={HEIGHT}
        stroke="var(--tawny)"
        strokeWidth={2}
        strokeDasharray="5 3"
      />
    </svg>
  );
}

/** How to read the plot, in one line. */
export function DotRangeKey() {
  return (
    <p className="soft" style={{ fontSize: 13 }}>
      Tawny dashes: planned. Slate line: median taken. Slate block: middle half of the jobs.
    </p>
  );
}
