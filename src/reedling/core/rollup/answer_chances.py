"""How likely each way of answering is, so that every branch comes out as often as it was given.

One joint model, in which questions are independent of each other and each repeat of a section answers
for itself; what is given of a branch is taken as a chance under the branch that it hangs on. The chances
of the ways of one question follow from linear equations once those of the others are held fixed, so that
they are found question by question, over and over, by least squares that keep them at nought or above
(C. L. Lawson and R. J. Hanson, *Solving Least Squares Problems*, 1974, chapter 23). Where a condition
asks of several repeats the equations are those of the tangent. Figures that contradict each other are met
half-way; what nobody has said anything of counts one half of the runs that ask for it, where the rest
leaves it open.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import nnls

from reedling.core.logic.conditions import Condition, questions_of
from reedling.core.rollup.outlook import Fallen, Outlook, Unfolding, Variable, all_falls, n_ways

MOST_LOCAL = 4096
"""Combinations of answers that one branch may hang on; beyond that a seeded draw of them is taken."""
SWEEPS = 80
STEPS = (1.0, 0.5, 0.2, 0.0)
"""How far towards the tangent's answer to go; less where that makes it worse."""
STARTS = 8
CLOSE = 1e-4
"""Where a figure that was given is missed by more, the search begins anew elsewhere; the best is kept."""
AGREED = 1e-6
"""Two searches that miss by the same have met figures that contradict each other."""
SURE, SAID, UNSAID, PRIOR = 1e3, 1.0, 1e-3, 1e-4
"""Weights: that chances add up to one, a figure that was given, one half for none, ways being alike."""
Chances = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Target:
    """How likely a line, or a part of it under its condition, is wanted where what it hangs on is."""

    line: str
    part: Condition | None
    p: float
    said: bool


@dataclass(frozen=True, slots=True)
class _Equation:
    """A target over every combination of what it hangs on: where it is met, and where it could be."""

    p: float
    weight: float
    fallen: Fallen
    met: NDArray[np.float64]
    could: NDArray[np.float64]

    def weighed(self, chances: Mapping[str, Chances], but: Variable | None = None) -> NDArray[np.float64]:
        """The chance of each combination, leaving out that of one thing."""
        out = np.ones(len(self.met))
        for variable, falls in self.fallen.items():
            if variable != but:
                out = out * chances[variable.shared][falls]
        return out

    def missed_by(self, chances: Mapping[str, Chances]) -> float:
        """By how much the chance that was given is missed."""
        whole = self.weighed(chances)
        could = float(whole @ self.could)
        return float(whole @ self.met) / could - self.p if could > 1e-12 else 0.0


def answer_chances(found: Outlook, targets: Sequence[Target]) -> Mapping[str, Chances]:
    """The chances of the ways of everything that the targets hang on, by what shares them."""
    equations = [e for t in targets if (e := _equation(found, t)) is not None]
    asked: dict[str, list[_Equation]] = {}
    for e in equations:
        # In the order in which they are met: the search depends on it, and a set has another one in each process.
        for shared in dict.fromkeys(v.shared for v in e.fallen):
            asked.setdefault(shared, []).append(e)
    best: dict[str, Chances] = {}
    missed = math.inf
    for start in range(STARTS):
        chances = _balanced(asked, _start(found, asked, start))
        far = max((abs(e.missed_by(chances)) * e.weight for e in equations), default=0.0)
        agreed = abs(far - missed) < AGREED
        if far < missed:
            best, missed = chances, far
        if missed < CLOSE or agreed:
            break
    return best


def _start(found: Outlook, asked: Mapping[str, Sequence[_Equation]], number: int) -> dict[str, Chances]:
    """Where to begin: all ways alike, or a seeded draw where that led nowhere."""
    if number == 0:
        return {shared: np.full(n, 1 / n) for shared in asked if (n := n_ways(found, shared))}
    rng = np.random.default_rng(number)
    return {shared: rng.dirichlet(np.ones(n_ways(found, shared))) for shared in asked}


def _balanced(asked: Mapping[str, Sequence[_Equation]], chances: dict[str, Chances]) -> dict[str, Chances]:
    """The chances after each was put right in its turn, over and over, until none moves."""
    for _ in range(SWEEPS):
        moved = 0.0
        for shared, about in asked.items():
            before = chances[shared]
            towards = _solved(shared, about, chances) - before
            held = _badness(about, chances)
            for step in STEPS:
                chances[shared] = before + step * towards
                if step == STEPS[-1] or _badness(about, chances) <= held:
                    break
            moved = max(moved, float(np.abs(chances[shared] - before).max()))
        if moved < 1e-9:
            break
    return chances


def _badness(about: Sequence[_Equation], chances: Mapping[str, Chances]) -> float:
    return sum((e.weight * e.missed_by(chances)) ** 2 for e in about)


def _equation(found: Outlook, target: Target) -> _Equation | None:
    looked = Unfolding(found, {}, 1)
    _events(looked, target)
    variables = tuple(looked.met)
    if not variables:
        return None
    count = int(np.prod([n_ways(found, v.shared) for v in variables], dtype=float))
    fallen: Fallen
    if count <= MOST_LOCAL:
        fallen = all_falls(found, variables)
    else:
        rng = np.random.default_rng(len(variables))
        fallen = {v: rng.integers(n_ways(found, v.shared), size=MOST_LOCAL) for v in variables}
    met, could = _events(Unfolding(found, fallen, min(count, MOST_LOCAL)), target)
    return _Equation(
        p=target.p,
        weight=SAID if target.said else UNSAID,
        fallen=fallen,
        met=met.astype(float),
        could=could.astype(float),
    )


def _events(runs: Unfolding, target: Target) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    if target.part is None:
        met, could = runs.wanted(target.line), runs.above(target.line)
        condition = runs.outlook.by_id[target.line].condition
    else:
        could, condition = runs.wanted(target.line), target.part
        met = could & runs.truth(condition)[0]
    if not target.said:
        for question in questions_of(condition):
            could = could & runs.asked(question)
    return met, could


def _solved(shared: str, about: Sequence[_Equation], chances: Mapping[str, Chances]) -> Chances:
    n = len(chances[shared])
    rows = [np.full(n, SURE), *(np.eye(n) * PRIOR)]
    right = [SURE, *np.full(n, PRIOR / n)]
    for e in about:
        for row, value in _tangents(shared, n, e, chances):
            rows.append(row)
            right.append(value)
    found, _ = nnls(np.vstack(rows), np.array(right))
    total = found.sum()
    return found / total if total > 0 else np.full(n, 1 / n)


def _tangents(
    shared: str, n: int, e: _Equation, chances: Mapping[str, Chances]
) -> Iterator[tuple[NDArray[np.float64], float]]:
    """The equation as a row over the ways of one thing, at the chances as they stand."""
    whole = e.weighed(chances)
    could = float(whole @ e.could)
    if could < 1e-12:
        return
    balance = e.met - e.p * e.could
    own = [v for v in e.fallen if v.shared == shared]
    row = np.zeros(n)
    for variable in own:
        row += np.bincount(e.fallen[variable], weights=e.weighed(chances, variable) * balance, minlength=n)
    scale = e.weight / could
    yield row * scale, (len(own) - 1) * float(whole @ balance) * scale
