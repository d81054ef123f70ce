"""A plan taken apart for the solver: parts that share nothing, and the clauses that a step needs."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

from reedling.core.guidance.plans import Plan, Step
from reedling.core.guidance.questions import Computed, formula_name
from reedling.core.logic.conditions import (
    Condition,
    Conjunction,
    QuestionName,
    is_fact,
    questions_of,
    shared_section,
)
from reedling.core.logic.formulas import formula_names


def all_conditions(plan: Plan) -> Iterator[Condition]:
    """Every condition of the plan: of steps, questions, parts and findings."""
    for step in plan.steps:
        yield from (c for c in (step.condition, *(p.condition for p in step.parts)) if c is not None)
        for q in step.questions:
            yield from (c for c in (q.condition, q.required_when) if c is not None)
            yield from (r.when for r in q.raises)


NamedFacts = tuple[tuple[str, str, str, tuple[tuple[str, str], ...]], ...]
"""Facts by name, each with its label, unit and the labels of its options."""


def facts_named(part: Plan, facts: Mapping[str, QuestionName]) -> NamedFacts:
    """How the facts that a part asks about are spoken of, as plain values."""
    asked = {q for c in all_conditions(part) for q in questions_of(c)}
    return tuple(
        (name, facts[name].label, facts[name].unit, tuple(facts[name].options.items()))
        for name in sorted(asked & facts.keys())
    )


def parts_of(plan: Plan) -> tuple[Plan, ...]:
    """The plan split into parts that share no question, no fact and no branch, each in plan order.

    What holds in one part does not depend on another, so each is solved by itself; that is what
    keeps a long form quick.
    """
    home: dict[str, str] = {asked.id: step.id for step in plan.steps for asked in step.questions}
    named: dict[tuple[str, str], str] = {
        (asked.id.rpartition("/")[0], formula_name(asked)): step.id
        for step in plan.steps
        for asked in step.questions
    }
    root = {step.id: step.id for step in plan.steps}

    def find(step: str) -> str:
        while root[step] != step:
            root[step] = root[root[step]]
            step = root[step]
        return step

    for step in plan.steps:
        linked = [step.under] if step.under in root else []
        for condition in all_conditions(Plan(title="", steps=(step,))):
            for question in questions_of(condition):
                if is_fact(question):
                    linked.append(home.setdefault(question, step.id))
                elif question in home:
                    linked.append(home[question])
        for asked in step.questions:
            if isinstance(asked, Computed):
                scope = asked.id.rpartition("/")[0]
                used = (named.get((scope, name)) for name in formula_names(asked.formula))
                linked.extend(s for s in used if s is not None)
        for other in linked:
            assert other is not None
            root[find(step.id)] = find(other)
    groups: dict[str, list[Step]] = {}
    for step in plan.steps:
        groups.setdefault(find(step.id), []).append(step)
    return tuple(Plan(title="", steps=tuple(steps)) for steps in groups.values())


def conjuncts(
    condition: Condition | None, section_of: Callable[[str], str] = lambda _: ""
) -> tuple[Condition, ...]:
    """The clauses of a condition that must all be true; those about the same repeat are one clause."""
    if condition is None:
        return ()
    if isinstance(condition, Conjunction) and not shared_section(condition, section_of):
        return tuple(c for part in condition.parts for c in conjuncts(part, section_of))
    return (condition,)


def requirements(
    plan: Plan, step: Step, section_of: Callable[[str], str] = lambda _: ""
) -> tuple[Condition, ...]:
    """Every clause that must be true for the step to be shown: its own and those above it."""
    by_id: Mapping[str, Step] = {s.id: s for s in plan.steps}
    clauses: list[Condition] = []
    at: Step | None = step
    seen: set[str] = set()
    while at is not None and at.id not in seen:
        seen.add(at.id)
        clauses = [*conjuncts(at.condition, section_of), *clauses]
        at = by_id.get(at.under) if at.under else None
    return tuple(clauses)
