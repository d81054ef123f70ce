"""All that is wrong with a draft, in one list: what reading it shows, and what the solver proves."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import date

from reedling.core.checking.crew import always_needed, crew_defects
from reedling.core.checking.defects import Defect, defect
from reedling.core.checking.finish_checks import check_finish_rules
from reedling.core.checking.plan_checks import check_plan
from reedling.core.checking.wording import check_wording
from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.facts import fact_names
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import FilledPlan, SharedPlans, fill_in
from reedling.core.guidance.revisions import DocumentKind
from reedling.core.guidance.soundness import plan_problems

UNSOLVABLE = frozenset(
    ("conditions.later", "formulas.cycle", "plans.step_identity", "plans.question_identity")
)
"""Problems under which a plan has no one meaning, so that the solver is not asked."""
NOWHERE = SharedPlans()
STEP_PATH = re.compile(r"^/steps/(\d+)(/.*)?$")


def draft_defects(
    plan: Plan,
    catalogue: Catalogue,
    *,
    kind: DocumentKind = "plan",
    shared: SharedPlans = NOWHERE,
    today: date,
) -> tuple[Defect, ...]:
    """Every defect of a draft; an error keeps it from review and release.

    Standard steps and forms are filled in from the ``shared`` plans. What is wrong inside one of them is
    named at the step that refers to it, once it matters to this plan.
    """
    filled = fill_in(plan, shared)
    problems = plan_problems(plan, catalogue, kind=kind, filled=filled)
    found = [Defect(problem=p) for p in problems]
    found += _missing(plan, filled)
    if not any(p.code in UNSOLVABLE for p in problems):
        found += [_placed(d, plan, filled) for d in check_plan(filled.plan, fact_names(catalogue))]
        found += check_finish_rules(filled.plan, fact_names(catalogue), n_own=len(plan.finish))
    found += check_wording(plan, catalogue, today, sections=kind == "form")
    found += crew_defects(always_needed(filled.plan), catalogue, today)
    order = {"error": 0, "warning": 1, "note": 2}
    return tuple(sorted(found, key=lambda d: order[d.problem.severity]))


def errors_of(defects: tuple[Defect, ...]) -> tuple[Defect, ...]:
    """Those that keep a draft from going on."""
    return tuple(d for d in defects if d.problem.severity == "error")


def _missing(plan: Plan, filled: FilledPlan) -> list[Defect]:
    out = []
    for i, step in enumerate(plan.steps):
        for field, document in (("standard", step.standard), ("form", step.form)):
            if document in filled.missing:
                what = "standard step" if field == "standard" else "form"
                out.append(
                    defect(
                        "reuse.unknown",
                        f"/steps/{i}/{field}",
                        f"“{step.text}” refers to {document}, and there is no {what} of that name.",
                    )
                )
    for i, use in enumerate(plan.forms):
        if use.form in filled.missing:
            out.append(
                defect(
                    "reuse.unknown",
                    f"/forms/{i}",
                    f"The plan goes with {use.form}, and there is no such form.",
                )
            )
    return out


def _placed(found: Defect, plan: Plan, filled: FilledPlan) -> Defect:
    """A defect of the filled-in plan at its place in the plan itself."""
    match = STEP_PATH.match(found.problem.path)
    if match is None:
        return found
    step = filled.plan.steps[int(match.group(1))]
    origin = filled.origins[step.id]
    rest = match.group(2) or ""
    if not origin.document and not origin.standard:
        path = f"/steps/{origin.index}{rest}"
        change = found.fix.change if found.fix else None
        fix = found.fix
        if fix is not None and change is not None and change.kind == "set field":
            fix = replace(fix, change=replace(change, path=path))
        return replace(found, problem=replace(found.problem, path=path), fix=fix)
    path = f"/steps/{origin.index}/{'form' if origin.document else 'standard'}"
    if origin.index >= len(plan.steps):
        path = f"/forms/{origin.index - len(plan.steps)}"
    where = f"In {origin.document or origin.standard}: "
    problem = replace(found.problem, path=path, message=where + found.problem.message)
    return replace(found, problem=problem, fix=None)
