"""All that is wrong with a draft, in one list: what reading it shows, and what the solver proves."""

from __future__ import annotations

from reedling.core.checking.defects import Defect
from reedling.core.checking.plan_checks import check_plan
from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.soundness import plan_problems

UNSOLVABLE = frozenset(("conditions.later", "plans.step_identity", "plans.proof_identity"))
"""Problems under which a plan has no one meaning, so that the solver is not asked."""


def plan_defects(plan: Plan, catalogue: Catalogue) -> tuple[Defect, ...]:
    """Every defect of a plan; an error keeps it from review and release."""
    problems = plan_problems(plan, catalogue)
    found = [Defect(problem=p) for p in problems]
    if not any(p.code in UNSOLVABLE for p in problems):
        found += check_plan(plan)
    return tuple(found)


def errors_of(defects: tuple[Defect, ...]) -> tuple[Defect, ...]:
    """Those that keep a draft from going on."""
    return tuple(d for d in defects if d.problem.severity == "error")
