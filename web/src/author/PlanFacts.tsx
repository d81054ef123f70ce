import { useCatalogue } from "../api/queries";
import type { Evidence, PlanTotals } from "../api/types";
import { minutes, number, shareText } from "../ui/format";

/** Minutes, skills and parts as they add up, beside what the field took. */
export function PlanFacts({ totals, evidence }: { totals: PlanTotals; evidence: Evidence | undefined }) {
  const catalogue = useCatalogue();
  const skill = (code: string) => catalogue.data?.skills.find((s) => s.code === code)?.name ?? code;
  const part = (code: string) => catalogue.data?.parts.find((p) => p.code === code)?.name ?? code;
  const sure = totals.parts.filter((p) => p.always);
  const likely = totals.parts.filter((p) => !p.always);
  const field = evidence?.minutes_on_site;
  return (
    <ul className="facts" aria-label="What it adds up to">
      <li title="Each branch counted by its chance; without any branch, and with every branch">
        Planned <b className="planned">{minutes(totals.minutes_expected)}</b>{" "}
        <span className="soft">
          ({minutes(totals.minutes_sure)} to {minutes(totals.minutes_all)}, {totals.n_branches} of{" "}
          {totals.n_steps} steps in branches
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
        <li key={need.skill}>
          Skill{" "}
          <b>
            {skill(need.skill)}, {need.level.toLowerCase()}
          </b>
          {!need.always && <span className="soft"> in a branch</span>}
        </li>
      ))}
      <li title={totals.parts.map((p) => `${part(p.part)}: up to ${number(p.most)}`).join("; ")}>
        Parts <b>{totals.parts.length === 0 ? "none" : `${sure.length} sure, ${likely.length} likely`}</b>{" "}
        <span className="soft">
          {likely
            .slice(0, 3)
            .map((p) => part(p.part))
            .join(", ")}
        </span>
      </li>
      {evidence && evidence.n_jobs > 0 && (
        <li title={evidence.definition}>
          Fixed first time <b>{shareText(evidence.fixed_first_time.share)}</b>
        </li>
      )}
    </ul>
  );
}
