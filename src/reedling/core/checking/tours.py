"""Tours: whole runs that between them meet every step a plan can ever show."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import z3

from reedling.core.checking.encoding import Encoding, Encodings
from reedling.core.checking.plan_parts import parts_of
from reedling.core.checking.witnesses import stand_in
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.questions import Reading
from reedling.core.logic.conditions import Answer, is_fact

NO_FACTS: Mapping[str, Answer] = {}
Tour = dict[str, Answer]
"""Answers by question that carry a run from its first step to its last."""


def tours(plan: Plan, facts: Mapping[str, Answer] = NO_FACTS) -> tuple[Tour, ...]:
    """Few runs that walk every branch: each step that can be shown is shown in at least one.

    Greedy: the first step not yet met chooses the next run. Readings lie within their limits
    where the branch allows it. Photos and words that decide nothing get a stand-in. Parts of a
    plan that share nothing are walked side by side, so the number of runs is that of the part
    that needs most. ``facts`` are those of an order, where it is walked for one.
    """
    parts, encodings = parts_of(plan), Encodings()
    walks = [_walk(encodings.of(part), facts) for part in parts]
    count = max((len(walk) for walk in walks), default=0)
    joined: list[Tour] = []
    for i in range(count):
        run: Tour = {}
        for walk in walks:
            run |= walk[i % len(walk)] if walk else {}
        joined.append(run)
    return tuple(joined)


def _walk(e: Encoding, facts: Mapping[str, Answer]) -> list[Tour]:
    solver = z3.SimpleSolver(ctx=e.context)
    solver.add(*e.domains, *e.whole.values(), *e.as_known(facts))
    unmet = [(e.shown, s.id) for s in e.plan.steps]
    unmet += [(e.asked, q.id) for s in e.plan.steps for q in s.questions if q.condition is not None]
    walk: list[Tour] = []
    while unmet:
        wanted, key = unmet[0]
        if solver.check(wanted[key]) != z3.sat:
            unmet.pop(0)
            continue
        fixed = _shown_as_in(e, solver.model())
        model = _within_limits(e, solver, fixed)
        unmet = [(of, key) for of, key in unmet if not z3.is_true(model.eval(of[key], model_completion=True))]
        answers = e.answers(model)
        facts = {q: a for q, a in answers.items() if is_fact(q)}
        walk.append({q: stand_in(e.questions.get(q), a, facts) for q, a in answers.items()})
    return walk


def _shown_as_in(e: Encoding, model: Any) -> list[Any]:
    return [
        s if z3.is_true(model.eval(s, model_completion=True)) else z3.Not(s)
        for s in (*e.shown.values(), *e.asked.values())
    ]


def _within_limits(e: Encoding, solver: Any, fixed: list[Any]) -> Any:
    """A model that shows the same steps, with each reading inside its limits where it can be."""
    wishes = list(fixed)
    for question, asked in e.questions.items():
        if not isinstance(asked, Reading):
            continue
        low, high = asked.limits.low, asked.limits.high
        value = e.values[question]
        if low is None and high is None:
            low, high = asked.lowest, asked.highest
        middle = [(low + high) / 2] if low is not None and high is not None else []
        for wish in (
            *(value == m for m in middle),
            e.both(
                [*([value >= low] if low is not None else []), *([value <= high] if high is not None else [])]
            ),
        ):
            if solver.check(*wishes, wish) == z3.sat:
                wishes.append(wish)
                break
    solver.check(*wishes)
    return solver.model()
