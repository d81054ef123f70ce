import type { MatchTrace } from "../api/types";

/** Which plans an order gets and, for every other, why not; near misses first. */
export function TraceList({ trace }: { trace: MatchTrace[] }) {
  const taken = trace.filter((t) => t.matched);
  const missed = trace.filter((t) => !t.matched);
  return (
    <>
      <h2>What it gets</h2>
      {taken.length === 0 && <p className="soft">No released plan applies. This is a gap.</p>}
      <TraceRows rows={taken} />
      {missed.length > 0 && (
        <>
          <h2 style={{ marginTop: 14 }}>Why not the others</h2>
          <TraceRows rows={missed} />
        </>
      )}
    </>
  );
}

function TraceRows({ rows }: { rows: MatchTrace[] }) {
  return (
    <ul style={{ listStyle: "none", padding: 0, margin: "6px 0" }}>
      {rows.map((row) => (
        <li key={row.document} style={{ borderBottom: "1px solid var(--line)", padding: "7px 0" }}>
          {row.title}{" "}
          <span className="mono soft">
            {row.document} {row.revision}
          </span>
          <div className="soft">{row.sentence}</div>
        </li>
      ))}
    </ul>
  );
}
