import type { TableFindings, TableView } from "../api/types";

/** What stands against a table, each with the row it is about. */
export function TableChecks({
  view,
  findings,
  onOpen,
}: {
  view: TableView;
  findings: TableFindings | undefined;
  onOpen: (row: string) => void;
}) {
  const problems = findings?.problems ?? [];
  const stale = findings && findings.etag !== view.etag;
  if (problems.length === 0) return null;
  const errors = problems.filter(({ problem }) => problem.severity === "error").length;
  return (
    <section aria-label="Checks" id="checks" tabIndex={-1} aria-busy={stale}>
      <h2 className="apart">Checks on this {view.state === "Draft" ? "draft" : "revision"}</h2>
      <p className="soft near">
        {errors} to mend before review, {problems.length - errors} worth a look
        {stale ? ", before the last change; checking again" : ""}.
      </p>
      <ul className="plain-list">
        {problems.slice(0, 40).map(({ row, problem }) => (
          <li key={`${problem.path}${problem.message}`}>
            <span className="soft">{problem.severity === "error" ? "Error. " : "Worth a look. "}</span>
            {problem.message} {problem.hint}{" "}
            {row && (
              <button type="button" className="linklike" onClick={() => onOpen(row)}>
                Show row
              </button>
            )}
          </li>
        ))}
      </ul>
      {problems.length > 40 && <p className="soft">and {problems.length - 40} more.</p>}
    </section>
  );
}
