import { useState } from "react";
import type { OrderOfWork as Work } from "../api/types";
import { Figure } from "../ui/Figure";
import { count, minutes, number, percent } from "../ui/format";
import "./guide.css";

/** What fewer jobs than this come to is shown when asked for, and left out of the drawing. */
export const RARE = 0.03;

/** The order of work that follows from a guide: what it takes and saves, and each outcome with what comes after it. */
export function OrderOfWork({ work, said, onForget }: { work: Work; said: number; onForget: () => void }) {
  const { written, saved, low, high } = work.saving;
  const [all, setAll] = useState(false);
  const rare = work.lines.filter((line) => line.reached < RARE).length;
  return (
    <section aria-label="Order of work">
      <h2>Order of work</h2>
      <div className="figures guide-figures">
        <Figure label="As the plans ask now" value={minutes(written)} beside="expected to working" />
        <Figure
          label="Best order found"
          value={minutes(work.best)}
          beside={
            saved > 0.5
              ? `${minutes(saved)} less a job (${number(Math.round(low))} to ${number(Math.round(high))})`
              : "saves nothing"
          }
        />
      </div>
      <p className="soft">
        {work.method === "exact"
          ? "Worked out exactly."
          : `Looking one step ahead; no order takes less than ${minutes(work.at_least)}.`}{" "}
        {work.n_jobs > 0 ? `From ${count(work.n_jobs, "closed job")}.` : "No closed job tells of it yet."}
      </p>
      {work.is_impossible && (
        <p className="note bad" role="alert">
          No cause known here gives these answers together. Take one of them back.
        </p>
      )}
      {work.next_line && (
        <p className="note" role="status">
          {said > 0 ? "Next after what you marked: " : "First: "}
          <b>{work.next_line.label}</b>. From there about {minutes(work.next_line.minutes)} to working.{" "}
          {said > 0 && (
            <button type="button" className="linklike" onClick={onForget}>
              Forget {count(said, "answer")}
            </button>
          )}
        </p>
      )}
      <ol className="guide-order">
        {work.lines
          .filter((line) => all || line.reached >= RARE)
          .map((line) => (
            <li key={line.path} style={{ marginLeft: line.depth * 14 }} data-act={line.act}>
              {line.when && <span className="soft">{line.when}: </span>}
              {line.label}
              <div className="mono soft guide-turn">
                {line.act === "check"
                  ? `so in ${percent(line.chance)} %`
                  : line.act === "repair"
                    ? `helps in ${percent(line.chance)} %`
                    : "nothing else is left"}
                , {minutes(line.minutes)} from here
                {line.reached < 0.995 && `, ${percent(line.reached)} % of jobs`}
              </div>
            </li>
          ))}
      </ol>
      {rare > 0 && (
        <button type="button" className="linklike" onClick={() => setAll(!all)}>
          {all ? "Only what one job in thirty comes to" : `Show the ${count(rare, "rarer turn")} too`}
        </button>
      )}
      <p className="soft">
        {work.n_uncoded > 0 &&
          `${count(work.n_uncoded, "job")} named no cause or found nothing: counted here, not guessed at. `}
        {Object.entries(work.rare).map(([cause, n]) => `${cause}: ${count(n, "job")}, not in the guide. `)}
        {work.n_several > 0 &&
          `On ${count(work.n_several, "job")} several remedies were done; where there was more than one cause, this does not hold. `}
        One cause at a time is taken to be present; checks tell of it independently of each other.
      </p>
    </section>
  );
}
