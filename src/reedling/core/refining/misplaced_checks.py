"""Checks that stand in the wrong place: done before another that would have made them needless."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import permutations

from reedling.core.guidance.plans import Plan, Step
from reedling.core.guidance.questions import OneOf, Question, YesNo, formula_name
from reedling.core.logic.conditions import (
    Comparison,
    Condition,
    Disjunction,
    Negation,
    Operator,
    comparisons,
    questions_of,
)
from reedling.core.refining.asked_about import used_by
from reedling.core.refining.changes import SpareCheck
from reedling.core.refining.in_words import in_range, share_in_words
from reedling.core.refining.proposals import PlanEvidence, Proposal, StepJob
from reedling.core.statistics.exact_test import rarer_p_value
from reedling.core.statistics.intervals import share_at_most, wilson_interval
from reedling.core.statistics.resampling import Ranged, mean_interval

MOST_MISSED = 0.10
"""A check is called needless after another when it surely shows something in fewer of those jobs than this."""
LEAST_SAVED = 1.0
"""Minutes a job that must be saved before it is worth saying."""
SPARED_DRAWS = 600

OPPOSITE: Mapping[Operator, Operator] = {
    "is": "is not",
    "is not": "is",
    "below": "at least",
    "at least": "below",
    "above": "at most",
    "at most": "above",
}


@dataclass(frozen=True, slots=True)
class Spared:
    """What jobs say of a check after another told something.

    ``n`` jobs were asked both; in ``n_told`` the other told something, and in ``n_missed`` of these the check showed
    something too. ``saved`` are the minutes a job that it takes where the other told. ``p_value`` is that of Fisher's
    exact test: of so few misses, did the check show something there as often as elsewhere.
    """

    n: int
    n_told: int
    n_missed: int
    most_missed: float
    saved: Ranged
    p_value: float
    orders: tuple[str, ...]


def misplaced_checks(evidence: PlanEvidence) -> Iterator[tuple[float, Proposal | None]]:
    """Of each two checks of a plan, whether one is needless once the other told something, with the p-value of each.

    Both are steps of Diagnose that every job is asked for, once. A check tells something when a step that hangs on its answer
    is asked for; it shows something when that is so of it, or its reading is out of limits. Of a pair of checks the
    change that saves more is proposed, and of a check only its best.
    """
    plan = evidence.plan
    found: list[tuple[float, Proposal | None]] = []
    checks = [
        step
        for step in plan.steps
        if step.phase == "Diagnose" and step.under is None and step.condition is None and step.repeat is None
    ]
    needed = {s.id for s in checks if _is_needed_anyway(plan, s)}
    for spared, first in permutations((s for s in checks if s.questions), 2):
        if spared.id in needed:
            continue
        for branch, asked in _branches(plan, first):
            seen = spared_after(evidence.steps, plan, spared, branch)
            if seen is not None:
                found.append((seen.p_value, _proposal(evidence, spared, first, branch, asked, seen)))
    best: dict[frozenset[str], Proposal] = {}
    for _, one in sorted(found, key=lambda pair: pair[1].weight if pair[1] else 0.0):
        if one is not None and isinstance(one.change, SpareCheck):
            best[frozenset((one.step, one.change.after))] = one
    chosen: dict[str, Proposal] = {}
    for one in sorted(best.values(), key=lambda p: p.weight):
        chosen[one.step] = one
    kept = {id(one) for one in chosen.values()}
    for p, one in found:
        yield p, one if one is not None and id(one) in kept else None


def spared_after(
    steps: Mapping[str, Sequence[StepJob]], plan: Plan, spared: Step, branch: Step
) -> Spared | None:
    """What the jobs say of a check where a branch of another was asked for; nothing where none was, or all were."""
    hanging = _hanging_on(plan, spared)
    own = {j.order: j for j in steps.get(spared.id, ()) if j.wanted}
    told = {j.order: j.wanted for j in steps.get(branch.id, ())}
    later = {j.order for step in hanging for j in steps.get(step, ()) if j.wanted}
    orders = [order for order in own if order in told]
    hits = {order for order in orders if order in later or own[order].out_of_limit}
    after = [order for order in orders if told[order]]
    if not after or len(after) == len(orders):
        return None
    saved = mean_interval(
        [m if told[order] else 0.0 for order in orders if (m := own[order].minutes) is not None],
        n_draws=SPARED_DRAWS,
    )
    if saved is None:
        return None
    n_missed = sum(order in hits for order in after)
    return Spared(
        n=len(orders),
        n_told=len(after),
        n_missed=n_missed,
        most_missed=share_at_most(n_missed, len(after)),
        saved=saved,
        p_value=rarer_p_value(n_missed, len(after), len(hits), len(orders)),
        orders=tuple(after),
    )


def _proposal(
    evidence: PlanEvidence, spared: Step, first: Step, branch: Step, asked: Question, seen: Spared
) -> Proposal | None:
    if seen.most_missed > MOST_MISSED or seen.saved.low < LEAST_SAVED:
        return None
    assert isinstance(branch.condition, Comparison)
    steps = [s.id for s in evidence.plan.steps]
    moves = steps.index(first.id) > steps.index(spared.id)
    share = wilson_interval(seen.n_told, seen.n)
    also = f"in {seen.n_missed}" if seen.n_missed else "in none"
    where = "done before it" if moves else "done after it all the same"
    how = "Done first, with the other" if moves else "With the other done"
    return Proposal(
        kind="move a check" if moves else "spare a check",
        document=evidence.document,
        revision=evidence.revision,
        step=spared.id,
        part="",
        sentence=f"“{first.text}” led to “{branch.text}” in {share_in_words(share)}; {also} of these "
        f"{seen.n_told} jobs did “{spared.text}”, {where}, show anything.",
        effect=f"{how} only where it shows nothing, it would save {in_range(seen.saved)} min a job. The other may still "
        f"show something in up to {round(seen.most_missed * 100, 1):g} % of the {seen.n_told} jobs: that is the cost.",
        rule=f"After the one, the other shows something in surely less than {round(MOST_MISSED * 100)} % of jobs, and more "
        "rarely than elsewhere beyond chance.",
        goes_away="It goes once the plan asks in this order, or once the other shows something after the one more often.",
        change=SpareCheck(
            step=spared.id,
            after=first.id,
            condition=Disjunction(
                parts=(
                    opposite(branch.condition, asked),
                    Comparison(question=asked.id, operator="not answered"),
                )
            ),
        ),
        n_jobs=seen.n,
        orders=seen.orders,
        weight=seen.saved.value * seen.n,
    )


def opposite(comparison: Comparison, question: Question) -> Condition:
    """What is so of an answer to a question exactly where a comparison is not."""
    match question:
        case OneOf() if comparison.operator == "is one of" and isinstance(comparison.value, tuple):
            others = tuple(o.id for o in question.options if o.id not in comparison.value)
            if others:
                return Comparison(question=comparison.question, operator="is one of", value=others)
        case YesNo() if comparison.operator == "is" and isinstance(comparison.value, bool):
            return Comparison(question=comparison.question, operator="is", value=not comparison.value)
        case _:
            if comparison.operator in OPPOSITE:
                return Comparison(
                    question=comparison.question,
                    operator=OPPOSITE[comparison.operator],
                    value=comparison.value,
                )
    return Negation(part=comparison)


def _branches(plan: Plan, check: Step) -> Iterator[tuple[Step, Question]]:
    """Steps that are asked for by one answer of a check, with the question."""
    asked = {q.id: q for q in check.questions}
    for step in plan.steps:
        match step.condition:
            case Comparison(against=None, repeats="same", question=question) if question in asked:
                yield step, asked[question]


def _hanging_on(plan: Plan, check: Step) -> frozenset[str]:
    """The steps that stand under a check or are asked for by what it asks, and those that hang on these in turn."""
    asked = {q.id for q in check.questions}
    held: set[str] = set()
    grown = True
    while grown:
        grown = False
        for step in plan.steps:
            hangs = (
                step.under == check.id
                or step.under in held
                or any(q in asked for q in questions_of(step.condition))
            )
            if step.id not in held and step.id != check.id and hangs:
                held.add(step.id)
                asked |= {q.id for q in step.questions}
                grown = True
    return frozenset(held)


def _is_needed_anyway(plan: Plan, check: Step) -> bool:
    """Whether more rests on what a check asks than whether steps are asked for, or one waits for it to be left out."""
    others = (replace(s, condition=None) for s in plan.steps if s.id != check.id)
    asked, named = used_by(replace(plan, steps=tuple(others)))
    own = {q.id for q in check.questions}
    return (
        bool(own & asked)
        or any(formula_name(q) in named for q in check.questions)
        or any(rule.under == check.id for rule in plan.finish)
        or any(
            c.operator == "not answered" and c.question in own
            for s in plan.steps
            for c in comparisons(s.condition)
        )
    )
