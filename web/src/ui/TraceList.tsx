import { Link } from "react-router";
import type { MatchTrace } from "../api/types";

/** Which rows an order met and, for every other, why not; near misses first. */
export function TraceList({ trace, nRows }: { trace: MatchTrace[]; nRows?: number }) {
  const taken = trace.filter((t) => t.matched);
  const missed = trace.filter((t) => !t.matched);
  return (
    <>
      <h2>Why these</h2>
      {taken.length === 0 && <p className="soft">No row matches. This is a gap.</p>}
      <TraceRows rows={taken} />
      {missed.length > 0 && (
        <>
          <h2 className="apart">Why not the others</h2>
          <TraceRows rows={missed} />
          {nRows !== undefined && nRows > trace.length && (
            <p className="soft">{nRows - trace.length} rows further away are not listed.</p>
          )}
        </>
      )}
    </>
  );
}

function TraceRows({ rows }: { rows: MatchTrace[] }) {
  return (
    <ul className="trace">
      {rows.map((row) => (
        <li key={`${row.table} ${row.row}`} data-misses={row.misses}>
          {row.documents.map((d) => d.title).join(", ") || "nothing"}{" "}
          {row.number > 0 ? (
            <Link className="mono" to={`/match/tables/${row.table}?row=${row.row}`}>
              {row.table} row {row.number}
            </Link>
          ) : (
            <span className="mono soft">
              {row.table} {row.revision}, by itself
            </span>
          )}
          <div className="soft">{row.sentence}</div>
        </li>
      ))}
    </ul>
  );
}
