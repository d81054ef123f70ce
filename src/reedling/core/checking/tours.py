"""Tours: whole runs that between them meet every step a plan can ever show."""

from __future__ import annotations

from typing import Any

import z3

from reedling.core.checking.encoding import Encoding, encode_parts
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.proofs import Photo, Reading, TextEntry
from reedling.core.logic.conditions import Answer

Tour = dict[str, Answer]
"""Answers by question that carry a run from its first step to its last."""


def tours(plan: Plan) -> tuple[Tour, ...]:
    """Few runs that walk every branch: each step that can be shown is shown in at least one.

    Greedy: the first step not yet met chooses the next run. Readings lie within their limits
    where the branch allows it. Photos and words that decide nothing get a stand-in. Parts of a
    plan that share nothing are walked side by side, so the number of runs is that of the part
    that needs most.
    """
    walks = [_walk(e) for e in encode_parts(plan)]
    count = max((len(walk) for walk in walks), default=0)
    joined: list[Tour] = []
    for i in range(count):
        run: Tour = {}
        for walk in walks:
            run |= walk[i % len(walk)] if walk else {}
        joined.append(run)
    return tuple(joined)


def _walk(e: Encoding) -> list[Tour]:
    solver = z3.SimpleSolver(ctx=e.context)
    solver.add(*e.domains, *e.whole.values())
    unmet = [s.id for s in e.plan.steps]
    walk: list[Tour] = []
    while unmet:
        if solver.check(e.shown[unmet[0]]) != z3.sat:
            unmet.pop(0)
            continue
        fixed = _shown_as_in(e, solver.model())
        model = _within_limits(e, solver, fixed)
        met = {s for s in unmet if z3.is_true(model.eval(e.shown[s], model_completion=True))}
        unmet = [s for s in unmet if s not in met]
        walk.append({q: _stand_in(e, q, a) for q, a in e.answers(model).items()})
    return walk


def _shown_as_in(e: Encoding, model: Any) -> list[Any]:
    return [s if z3.is_true(model.eval(s, model_completion=True)) else z3.Not(s) for s in e.shown.values()]


def _within_limits(e: Encoding, solver: Any, fixed: list[Any]) -> Any:
    """A model that shows the same steps, with each reading inside its limits where it can be."""
    wishes = list(fixed)
    for question, proof in e.proofs.items():
        if not isinstance(proof, Reading):
            continue
        low, high = proof.limits.low, proof.limits.high
        value = e.values[question]
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


def _stand_in(e: Encoding, question: str, answer: Answer) -> Answer:
    proof = e.proofs[question]
    if isinstance(proof, Photo):
        return "preview"
    if isinstance(proof, TextEntry) and answer == "something else":
        return "as found"
    return answer
