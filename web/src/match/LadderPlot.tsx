import { Link } from "react-router";
import type { KitPage } from "../api/types";
import { count, percent } from "../ui/format";

const WIDTH = 420;
const HEIGHT = 178;
const LEFT = 46;
const RIGHT = 14;
const TOP = 14;
const BASE = 132;

/** What each further part buys: the most jobs that any kit of so many parts finishes the first time. */
export function LadderPlot({ page, to }: { page: KitPage; to: (goal: number) => string }) {
  const { kit } = page;
  const last = kit.ladder.at(-1);
  if (!last || last.parts.length === 0) return null;
  const names = new Map(page.parts.map((p) => [p.part, p.name]));
  const taken = kit.basis === "past use";
  const ink = taken ? "var(--slate)" : "var(--tawny)";
  const x = (n: number) => LEFT + (n / last.parts.length) * (WIDTH - LEFT - RIGHT);
  const y = (share: number) => BASE - share * (BASE - TOP);
  const path = `M ${x(0)} ${y(kit.ladder[0]?.finished ?? 0)} ${kit.ladder
    .map((r) => `H ${x(r.parts.length)} V ${y(r.finished)}`)
    .join(" ")}`;
  const every = Math.ceil(last.parts.length / 8);
  const ticks = Array.from({ length: last.parts.length + 1 }, (_, n) => n).filter((n) => n % every === 0);
  const words = (rung: (typeof kit.ladder)[number]) =>
    `With ${count(rung.parts.length, "part")}, ${percent(rung.finished)} % of jobs: ${rung.parts.map((p) => names.get(p) ?? p).join(", ") || "nothing carried"}`;
  return (
    <figure className="ladder">
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} aria-label="Jobs finished the first time, by number of parts">
        {[0, 0.5, 1].map((share) => (
          <g key={share}>
            <line x1={LEFT} x2={WIDTH - RIGHT} y1={y(share)} y2={y(share)} stroke="var(--line)" />
            <text x={LEFT - 8} y={y(share) + 4} textAnchor="end">
              {percent(share)} %
            </text>
          </g>
        ))}
        {ticks.map((n) => (
          <text key={n} x={x(n)} y={BASE + 18} textAnchor="middle">
            {n}
          </text>
        ))}
        <text x={(LEFT + WIDTH - RIGHT) / 2} y={BASE + 38} textAnchor="middle">
          parts carried
        </text>
        <line x1={LEFT} x2={WIDTH - RIGHT} y1={y(kit.goal)} y2={y(kit.goal)} stroke="var(--bill)" />
        <path
          d={path}
          fill="none"
          stroke={ink}
          strokeWidth="2.5"
          strokeDasharray={taken ? undefined : "5 4"}
        />
        {kit.ladder.map((rung) => {
          const chosen = rung.parts.length === kit.parts.length;
          return (
            <Link
              key={rung.parts.length}
              to={to(rung.finished)}
              aria-label={words(rung)}
              aria-current={chosen || undefined}
            >
              <title>{words(rung)}</title>
              <circle cx={x(rung.parts.length)} cy={y(rung.finished)} r="12" fill="transparent" />
              <circle
                cx={x(rung.parts.length)}
                cy={y(rung.finished)}
                r={chosen ? 6 : 4}
                fill={chosen ? ink : "var(--paper)"}
                stroke={ink}
                strokeWidth="2"
              />
            </Link>
          );
        })}
      </svg>
      <figcaption className="soft">
        {taken
          ? `The most of ${count(kit.n_jobs, "finished job")} that so many parts would have done for, each in the largest quantity a job took.`
          : "The share of jobs that so many parts should do for, by the author's figures."}{" "}
        Yellow: the share asked for. Choose a point for its kit.
      </figcaption>
    </figure>
  );
}
