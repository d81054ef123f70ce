import type { CrewPage } from "../api/types";
import { dayYear } from "../ui/format";
import { SavePlot } from "../ui/SavePlot";

const WIDTH = 720;
const HEIGHT = 150;
const LEFT = 34;
const BASE = 112;

/** How many are left as certificates run out, over the year to come, if nobody renews. */
export function LeftPlot({ crew }: { crew: CrewPage["crew"] }) {
  const start = Date.parse(crew.today);
  const end = Math.max(start + 365 * 86_400_000, Date.parse(crew.later) + 30 * 86_400_000);
  const able = crew.districts.reduce((n, d) => n + d.today.length, 0);
  const steps = crew.expiries.filter((e) => Date.parse(e.last_day) <= end);
  if (able === 0) return null;
  const x = (at: number) => LEFT + ((at - start) / (end - start)) * (WIDTH - LEFT - 10);
  const y = (n: number) => BASE - (n / able) * (BASE - 30);
  let path = `M ${x(start)} ${y(able)}`;
  for (const step of steps) {
    const at = x(Date.parse(step.last_day));
    path += ` H ${at} V ${y(step.n_left)}`;
  }
  path += ` H ${x(end)}`;
  const quarters = Array.from({ length: 5 }, (_, i) => start + ((end - start) * i) / 4);
  const label = `How many can do it over the year to come: ${able} today${steps.map((s) => `, ${s.n_left} after ${dayYear(s.last_day)}`).join("")}.`;
  return (
    <figure style={{ margin: "8px 0 12px" }}>
      <svg className="left-plot" viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label={label}>
        {[0, able].map((n) => (
          <g key={n}>
            <line x1={LEFT} x2={WIDTH - 10} y1={y(n)} y2={y(n)} stroke="var(--line)" />
            <text x={LEFT - 8} y={y(n) + 4} textAnchor="end" fontSize="12" fill="var(--soft)">
              {n}
            </text>
          </g>
        ))}
        {quarters.map((at, i) => (
          <text
            key={at}
            x={x(at)}
            y={BASE + 18}
            textAnchor={i === 4 ? "end" : "middle"}
            fontSize="12"
            fill="var(--soft)"
          >
            {new Date(at).toLocaleDateString("en-GB", { month: "short", year: "2-digit" })}
          </text>
        ))}
        <line
          x1={x(Date.parse(crew.later))}
          x2={x(Date.parse(crew.later))}
          y1={16}
          y2={BASE}
          stroke="var(--bill)"
          strokeWidth="2"
        />
        <text x={x(Date.parse(crew.later))} y={12} textAnchor="middle" fontSize="12" fill="var(--soft)">
          {dayYear(crew.later)}
        </text>
        <path d={path} fill="none" stroke="var(--slate)" strokeWidth="2.5" />
        {steps.map((s) => (
          <circle
            key={s.technician}
            cx={x(Date.parse(s.last_day))}
            cy={y(s.n_left)}
            r="4"
            fill="var(--slate)"
          >
            <title>
              {s.technician}, {s.district}: {s.skill} runs out on {dayYear(s.last_day)}, {s.n_left} left
            </title>
          </circle>
        ))}
      </svg>
      <SavePlot name="plot" />
      <figcaption className="soft">
        How many of the {able} who can do it today are left as certificates run out, if nobody renews
        {steps[0] && `; the first is ${steps[0].technician} on ${dayYear(steps[0].last_day)}`}.
      </figcaption>
    </figure>
  );
}
