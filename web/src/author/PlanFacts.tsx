import { useCatalogue } from "../api/queries";
import type { Evidence, PlanTotals } from "../api/types";
import { count, minutes, number, percent, shareText } from "../ui/format";
import { toolAmount } from "../ui/need-words";

/** Minutes, skills, parts and tools as they add up, beside what the field took. */
export function PlanFacts({ totals, evidence }: { totals: PlanTotals; evidence: Evidence | undefined }) {
  const catalogue = useCatalogue();
  const skill = (code: string) => catalogue.data?.skills.find((s) => s.code === code)?.name ?? code;
  const part = (code: string) => catalogue.data?.parts.find((p) => p.code === code)?.name ?? code;
  const sure = totals.parts.filter((p) => p.always);
  const likely = totals.parts.filter((p) => !p.always);
  const field = evidence?.minutes_on_site;
  const { p50, p80, n_ways, method } = totals.minutes;
  const ways =
    method === "exact"
      ? `counted over ${count(n_ways, "way")} through`
      : `from ${n_ways.toLocaleString("en-GB")} ways drawn`;
  return (
    <ul className="facts" aria-label="What it adds up to">
      <li
        title={`Half of the jobs take up to ${minutes(p50)}, four in five up to ${minutes(p80)}; ${ways}. Likely minutes without any branch ${minutes(totals.minutes_sure)}, with every branch ${minutes(totals.minutes_all)}.`}
      >
        Planned <b className="planned">{minutes(p50)}</b> P50, <b>{minutes(p80)}</b> P80{" "}
        <span className="soft">
          ({ways}; {totals.n_branches} of {totals.n_steps} steps in branches
          {totals.n_from_field > 0 && `, ${totals.n_from_field} by the field`}
          {totals.n_guessed > 0 && `, ${totals.n_guessed} with no chance given count one half`})
        </span>
      </li>
      {field && (
        <li title="Minutes on site, all visits of a job together">
          Taken <b className="taken">{minutes(field.median)}</b>{" "}
          <span className="soft">
            (middle half {minutes(field.low_quartile)} to {minutes(field.high_quartile)}, {field.count} jobs)
          </span>
        </li>
      )}
      {totals.skills.map((need) => (
        <li key={need.skill + need.level}>
          Skill{" "}
          <b>
            {skill(need.skill)}, {need.level.toLowerCase()}
          </b>
          {!need.always && <span className="soft"> in {percent(need.share)} % of jobs</span>}
        </li>
      ))}
      <li
        title={totals.parts
          .map(
            (p) =>
              `${part(p.part)}: ${number(p.expected)} expected, up to ${number(p.most)}, in ${percent(p.chance)} % of jobs`,
          )
          .join("; ")}
      >
        Parts <b>{totals.parts.length === 0 ? "none" : `${sure.length} sure, ${likely.length} likely`}</b>{" "}
        <span className="soft">
          {likely
            .slice(0, 3)
            .map((p) => `${part(p.part)} in ${percent(p.chance)} %`)
            .join(", ")}
        </span>
      </li>
      {totals.tools.length > 0 && (
        <li
          title={totals.tools
            .map(
              (t) => `${toolAmount(catalogue.data?.tools, t.tool, t.most)} in ${percent(t.chance)} % of jobs`,
            )
            .join("; ")}
        >
          Tools{" "}
          <b>
            {totals.tools.filter((t) => t.always).length} sure, {totals.tools.filter((t) => !t.always).length}{" "}
            likely
          </b>
        </li>
      )}
      {evidence && evidence.n_jobs > 0 && (
        <li title={evidence.definition}>
          Fixed first time <b>{shareText(evidence.fixed_first_time)}</b>
        </li>
      )}
    </ul>
  );
}
