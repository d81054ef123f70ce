"""What in a plan rests on the answers to its questions."""

from __future__ import annotations

from reedling.core.checking.plan_parts import all_conditions
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.questions import Computed
from reedling.core.logic.conditions import questions_of
from reedling.core.logic.formulas import formula_names


def used_by(plan: Plan) -> tuple[frozenset[str], frozenset[str]]:
    """The questions that conditions of a plan ask about, finish rules and forms included; and the names in formulas."""
    conditions = [*all_conditions(plan), *(use.condition for use in plan.forms)]
    conditions += [c for rule in plan.finish for c in (rule.when, rule.needs)]
    named = (formula_names(q.formula) for s in plan.steps for q in s.questions if isinstance(q, Computed))
    return (
        frozenset(question for condition in conditions for question in questions_of(condition)),
        frozenset(name for names in named for name in names),
    )
