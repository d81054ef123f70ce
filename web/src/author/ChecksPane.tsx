import type { Answers, Defect, PlanView, Problem } from "../api/types";
import { SEVERITY_WORDS } from "../ui/severity-words";
import "../ui/checks.css";

/** What is wrong with the draft: each beside its step, with the answers that show it and its mend. */
export function ChecksPane({
  problems,
  plan,
  editable,
  onOpen,
  onWitness,
  onFix,
}: {
  problems: Problem[];
  plan: PlanView;
  editable: boolean;
  onOpen: (step: string) => void;
  onWitness: (answers: Answers) => void;
  onFix: (fix: NonNullable<Defect["fix"]>) => void;
}) {
  const defects: Defect[] = [
    ...problems.map((problem) => ({ problem, witness: null, fix: null })),
    ...plan.defects,
  ];
  const errors = defects.filter((d) => d.problem.severity === "error").length;
  const open = defects.filter((d) => d.problem.severity === "note").length;
  const looks = defects.length - errors - open;
  const what = plan.kind === "form" ? "section" : "step";
  const stepOf = (defect: Defect) => {
    const index = /^\/steps\/(\d+)/.exec(defect.problem.path)?.[1];
    return index === undefined ? undefined : plan.content.steps[Number(index)]?.id;
  };
  return (
    <section aria-label="Checks" id="checks" tabIndex={-1}>
      <h2>Checks on this {plan.state === "Draft" ? "draft" : "revision"}</h2>
      {defects.length === 0 ? (
        <p className="soft">No problems found. Every {what} can be reached, and every job ends with proof.</p>
      ) : (
        <p className="soft" role="status">
          {errors} to mend before review, {looks} worth a look{open > 0 && `, ${open} not proved`}.
        </p>
      )}
      <ul className="checks">
        {defects.map((defect) => {
          const { problem, witness, fix } = defect;
          const step = stepOf(defect);
          return (
            <li key={`${problem.path} ${problem.code} ${problem.message}`} data-severity={problem.severity}>
              <span className="check-mark" aria-hidden="true" />
              <span>
                <span className="soft">{SEVERITY_WORDS[problem.severity] ?? ""}</span>
                {problem.message} {problem.hint}
                <span className="check-acts">
                  {step && (
                    <button type="button" className="linklike" onClick={() => onOpen(step)}>
                      Show {what}
                    </button>
                  )}
                  {witness && (
                    <button
                      type="button"
                      className="linklike"
                      onClick={() => onWitness(witness as Answers)}
                      title="Puts the answers that show it into the preview"
                    >
                      See it in the preview
                    </button>
                  )}
                  {fix && editable && (
                    <button type="button" className="linklike" onClick={() => onFix(fix)}>
                      {fix.label}
                    </button>
                  )}
                </span>
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
