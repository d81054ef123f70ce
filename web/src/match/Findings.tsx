import { Link } from "react-router";
import type { Coverage } from "../api/types";
import { count } from "../ui/format";

type Finding = Coverage["findings"][number];

const KIND_WORDS: Record<Finding["kind"], string> = {
  dead: "Never matches",
  refused: "Always refused",
  idle: "Adds nothing",
  clash: "Clash",
  overlap: "Overlap",
};

/** What the analysis says of the rows, the gaps, and what people add by hand. */
export function Findings({
  coverage,
  onTry,
}: {
  coverage: Coverage;
  /** Show the order on which it shows. */
  onTry: (witness: NonNullable<Finding["witness"]>) => void;
}) {
  const { findings, gaps, by_hand } = coverage;
  const told = gaps.cells;
  const quiet = gaps.gaps.filter((g) => g.orders.length === 0);
  const silent = quiet.length + gaps.n_more;
  return (
    <section aria-label="What the rows leave open">
      <h2 className="far">What the rows leave open</h2>
      {findings.length === 0 && told.length === 0 && by_hand.length === 0 && (
        <p className="soft">
          Nothing: every row can match, none clash, and every past order has a row of its own.
        </p>
      )}
      <ul className="findings">
        {findings.map((f) => (
          <li key={`${f.kind}${f.rows.join()}${f.sentence}`} data-kind={f.kind}>
            <b>{KIND_WORDS[f.kind]}</b>
            <span>{f.sentence}</span>
            {f.witness ? (
              <button type="button" className="linklike" onClick={() => f.witness && onTry(f.witness)}>
                Find such an asset
              </button>
            ) : (
              <span />
            )}
          </li>
        ))}
        {told.map((gap) => (
          <li key={gap.sentence}>
            <b>Gap</b>
            <span>
              {gap.sentence}: {gap.orders.length} of {count(gaps.n_orders, "past order")} had no row of its
              own.{" "}
              {gap.orders.slice(0, 8).map((o, i) => (
                <span key={o}>
                  {i > 0 && ", "}
                  <Link to={`/run/${o}`}>{o}</Link>
                </span>
              ))}
              {gap.orders.length > 8 && ` and ${gap.orders.length - 8} more`}
            </span>
            <span />
          </li>
        ))}
        {by_hand.map((b) => (
          <li key={`${b.act}${b.document}${b.equipment}${b.symptom}`}>
            <b>By hand</b>
            <span>
              {b.title} was {b.act} on {b.orders.length} of {count(b.n_of, "order")} of this kind: “
              {b.reasons[0]}” {b.act === "added" ? "A row may be missing." : "A row may be too wide."}
            </span>
            <span />
          </li>
        ))}
      </ul>
      {silent > 0 && (
        <p className="soft">
          {count(silent, "more gap")} without a past order
          {quiet.length > 0 &&
            `, the widest: ${quiet
              .slice(0, 3)
              .map((g) => g.sentence)
              .join("; ")}`}
          .
        </p>
      )}
      {!gaps.complete && (
        <p className="soft">The gaps are too many to tell apart; only those with past orders are listed.</p>
      )}
    </section>
  );
}
