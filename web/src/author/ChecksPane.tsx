import type { IncidentTypePage, PlanView, Problem } from "../api/types";

/** What is wrong with the draft, each beside the step it is about. */
export function ChecksPane({
  page,
  plan,
  onOpen,
}: {
  page: IncidentTypePage;
  plan: PlanView | undefined;
  onOpen: (step: string) => void;
}) {
  const problems = [...page.incident_type.problems, ...(plan?.problems ?? [])];
  const stepOf = (problem: Problem) => {
    const index = /^\/steps\/(\d+)/.exec(problem.path)?.[1];
    return index === undefined ? undefined : plan?.content.steps[Number(index)]?.id;
  };
  return (
    <section aria-label="Checks" id="checks" tabIndex={-1}>
      <h2>Checks on this {plan?.state === "Draft" ? "draft" : "revision"}</h2>
      {problems.length === 0 && <p className="soft">Nothing is amiss.</p>}
      <ul className="checks">
        {problems.map((problem) => {
          const step = stepOf(problem);
          return (
            <li key={problem.path + problem.code} data-severity={problem.severity}>
              <span className="check-mark" aria-hidden="true" />
              <span>
                <span className="soft">{problem.severity === "error" ? "Error. " : "Worth a look. "}</span>
                {problem.message} {problem.hint}{" "}
                {step && (
                  <button type="button" className="linklike" onClick={() => onOpen(step)}>
                    Show step
                  </button>
                )}
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
