import type { OpenRule } from "../api/types";

/** What finishing still wants by the rules of the guidance: what must be seen to, and what should be. */
export function StillOpen({ rules }: { rules: OpenRule[] }) {
  if (rules.length === 0) return null;
  const must = rules.filter((rule) => rule.weight === "must");
  const should = rules.filter((rule) => rule.weight !== "must");
  return (
    <section aria-label="Still open" className="pconsequence" data-weight={must.length ? "must" : "should"}>
      {must.length > 0 && <b>Before you finish:</b>}
      {must.length > 0 && <Rules rules={must} />}
      {should.length > 0 && <b>{must.length > 0 ? "And if you can:" : "If you can, before you finish:"}</b>}
      {should.length > 0 && <Rules rules={should} />}
    </section>
  );
}

function Rules({ rules }: { rules: OpenRule[] }) {
  return (
    <ul className="still-open">
      {rules.map((rule) => (
        <li key={`${rule.rule} ${rule.line}`}>
          {rule.says}
          {rule.line?.includes("@") && `, ${rule.line.split("@")[1]}`}
        </li>
      ))}
    </ul>
  );
}
