import type { PastFixView } from "../api/types";
import { count, day, percent } from "./format";
import "./past-fix-list.css";

/** What solved jobs like this one: each with its confidence, why, and the jobs it comes from. */
export function PastFixList({
  fixes,
  linked,
  act,
}: {
  fixes: PastFixView[];
  /** How a solved job is shown: as a link where there is a page for it. */
  linked: (order: string) => React.ReactNode;
  /** What may be done with a fix. */
  act?: (fix: PastFixView) => React.ReactNode;
}) {
  return (
    <ol className="past-fixes">
      {fixes.map((fix) => (
        <li key={`${fix.cause} ${fix.remedy}`}>
          <div className="past-fix-head">
            <b>
              {fix.cause_label}: {fix.remedy_label.toLowerCase()}
            </b>
            {fix.share !== null && fix.share !== undefined && (
              <span className="mono">about {percent(fix.share)} %</span>
            )}
          </div>
          {fix.share !== null && fix.share !== undefined && (
            <div className="past-fix-bar" title={`Of ${count(fix.n_tried, "call")} given this chance before`}>
              <i style={{ width: `${fix.share * 100}%` }} />
            </div>
          )}
          <div className="soft">
            {fix.why.length > 0 && `Speaks for it: ${fix.why.join(", ")}. `}
            Solved {count(fix.n_jobs, "job")}
            {fix.n_tried > 0 && `; the chance was tried on ${count(fix.n_tried, "earlier call")}`}.
          </div>
          {fix.jobs[0] && (
            <div className="soft">
              Most alike {linked(fix.jobs[0].order)}, {day(fix.jobs[0].finished_at)}: “{fix.jobs[0].report}”
            </div>
          )}
          {act?.(fix)}
        </li>
      ))}
    </ol>
  );
}
