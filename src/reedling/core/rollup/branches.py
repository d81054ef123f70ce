"""Which branches of a plan come together, and how likely each is.

Conditions on one question are not independent: a pressure is not both below 90 and above 120. So the
ways a question can be answered are split where its conditions tell them apart, and each part gets a
chance such that every condition comes out as likely as it was given. A condition on several questions
stands by itself. What this leaves out is that two questions may have to do with each other.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.optimize import nnls

from reedling.core.guidance.plans import Plan, Step
from reedling.core.logic.conditions import Answer, Condition, comparisons, evaluate, questions_of

MIN_JOBS = 5
"""With fewer jobs than this the author's figure counts, not the field's."""
UNKNOWN_CHANCE = 0.5
"""Chance of a branch of which neither the author nor the field has said anything."""
ChanceSource = Literal["field", "author", "nobody"]
Key = tuple[int, Condition]
"""A condition of the plan with this number; equal conditions of a plan are true together."""


@dataclass(frozen=True, slots=True, kw_only=True)
class BranchEvidence:
    """Of ``n_jobs`` finished jobs, ``n_wanted`` wanted the step."""

    n_wanted: int
    n_jobs: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Chance:
    """How likely a step is wanted where the step it hangs on is, and who says so."""

    p: float
    source: ChanceSource


@dataclass(frozen=True, slots=True, kw_only=True)
class Decision:
    """Something that comes out one way or another: each way with its chance and what it makes true."""

    ways: tuple[tuple[float, frozenset[Key]], ...]


def chance_of(step: Step, evidence: Mapping[str, BranchEvidence]) -> Chance:
    """The chance of a conditional step: the field's from five jobs on, else the author's, else one half.

    The field's is the mean of the Beta posterior under a uniform prior, (k + 1) / (n + 2), over the
    jobs that wanted the step it hangs on (Laplace's rule; from memory, as any textbook has it).
    """
    own = evidence.get(step.id)
    if own is not None:
        above = evidence.get(step.under) if step.under else None
        n = above.n_wanted if above else own.n_jobs
        if n >= MIN_JOBS:
            return Chance(p=(min(own.n_wanted, n) + 1) / (n + 2), source="field")
    if step.chance is not None:
        return Chance(p=step.chance, source="author")
    return Chance(p=UNKNOWN_CHANCE, source="nobody")


def decisions(plan: Plan, evidence: Mapping[str, BranchEvidence], *, number: int = 0) -> tuple[Decision, ...]:
    """Everything a plan's branches hang on, as decisions that are independent of each other."""
    chances: dict[Condition, list[float]] = {}
    for step in plan.steps:
        if step.condition is not None:
            chances.setdefault(step.condition, []).append(chance_of(step, evidence).p)
        for part in step.parts:
            if part.condition is not None:
                chances.setdefault(part.condition, []).append(UNKNOWN_CHANCE)
    by_question: dict[str, list[Condition]] = {}
    out = []
    for condition, given in chances.items():
        asked = set(questions_of(condition))
        if len(asked) == 1:
            by_question.setdefault(asked.pop(), []).append(condition)
        else:
            p = sum(given) / len(given)
            out.append(Decision(ways=((p, frozenset({(number, condition)})), (1 - p, frozenset()))))
    for question, conditions in by_question.items():
        targets = [sum(chances[c]) / len(chances[c]) for c in conditions]
        out.append(_split(question, conditions, targets, number))
    return tuple(out)


def _split(question: str, conditions: Sequence[Condition], targets: Sequence[float], number: int) -> Decision:
    """One question's answers, split where its conditions tell them apart."""
    patterns = dict.fromkeys(
        tuple(evaluate(c, {question: answer}) is True for c in conditions)
        for answer in _telling_answers(conditions)
    )
    atoms = list(patterns)
    if not any(not any(atom) for atom in atoms):
        atoms.append(tuple(False for _ in conditions))
    matrix = np.array(atoms, dtype=float).T
    sure = 100.0
    weights, _ = nnls(np.vstack([matrix, np.full(len(atoms), sure)]), np.array([*targets, sure]))
    shares = weights / weights.sum()
    return Decision(
        ways=tuple(
            (float(p), frozenset((number, c) for c, true in zip(conditions, atom, strict=True) if true))
            for p, atom in zip(shares, atoms, strict=True)
            if p > 1e-9
        )
    )


def _telling_answers(conditions: Sequence[Condition]) -> Iterator[Answer]:
    """Answers that between them meet every way these conditions can come out."""
    constants: list[object] = []
    for c in itertools.chain.from_iterable(comparisons(condition) for condition in conditions):
        constants += [*(c.value if isinstance(c.value, tuple) else (c.value,)), c.upper]
    numbers = sorted({float(x) for x in constants if isinstance(x, int | float) and not isinstance(x, bool)})
    if numbers:
        yield numbers[0] - 1
        yield numbers[-1] + 1
        yield from numbers
        yield from ((a + b) / 2 for a, b in itertools.pairwise(numbers))
    words = [x for x in constants if isinstance(x, str)]
    yield from words
    if words:
        yield "something else"
        yield from ((word,) for word in words)
        yield tuple(words)
    yield True
    yield False
