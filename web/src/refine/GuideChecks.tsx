import type { GuideView } from "../api/types";
import { SEVERITY_WORDS } from "../ui/severity-words";
import "../ui/checks.css";

/** What is wrong with a fault guide, and where it and the plans have drifted apart. */
export function GuideChecks({
  problems,
  state,
}: {
  problems: GuideView["problems"];
  state: GuideView["state"];
}) {
  const errors = problems.filter((p) => p.severity === "error").length;
  return (
    <section aria-label="Checks" id="checks" tabIndex={-1}>
      <h2>Checks on this {state === "Draft" ? "draft" : "revision"}</h2>
      <p className="soft" role="status">
        {problems.length === 0
          ? "No problems found. Every link leads to a plan, and every cause has a remedy."
          : `${errors} to mend before review, ${problems.length - errors} worth a look.`}
      </p>
      <ul className="checks">
        {problems.map((problem) => (
          <li key={`${problem.path}${problem.code}`} data-severity={problem.severity}>
            <span className="check-mark" aria-hidden="true" />
            <span>
              <span className="soft">{SEVERITY_WORDS[problem.severity ?? "error"] ?? ""}</span>
              {problem.message} {problem.hint}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
