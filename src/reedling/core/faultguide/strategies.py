"""The order of work that brings the equipment back soonest, exactly where that can be worked out, else looking ahead.

Decision-theoretic troubleshooting (Heckerman, Breese and Rommelse 1995, Communications of the ACM 38(3), 49-57): what
may be done next is a check, a remedy followed by a proof, or the last resort; what it is worth is the expected minutes
until the equipment works.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from reedling.core.faultguide.arrays import GuideArrays, Vector, arrays_of, bits_in
from reedling.core.faultguide.guides import DoingKind, FaultGuide, check_guide

EXACT_STATES = 20_000
"""Beliefs up to which the best order is worked out exactly: 3 to the checks, times 2 to the remedies."""

RARE = 0.02
"""Looking ahead, an order of work is laid out for what at least this share of the jobs comes to."""

StrategyMethod = Literal["exact", "looking ahead"]


@dataclass(frozen=True, kw_only=True)
class Doing:
    """What to do next, and where each outcome leads.

    ``place`` is of the check or remedy in the guide, -1 for the last resort. ``minutes`` are expected from here until
    the equipment works. ``yes`` is what follows when a check is so, ``no`` when it is not or a remedy did not help;
    ``chance`` is that of yes, or of being fixed.
    """

    act: DoingKind
    place: int
    minutes: float
    chance: float
    yes: Doing | None = None
    no: Doing | None = None


@dataclass(frozen=True, kw_only=True)
class Strategy:
    """The order of work, with the method it was found by.

    ``at_least`` are minutes that no order can beat: those with the cause known for nothing. Looking ahead, the best
    order saves ``first.minutes - at_least`` at the most.
    """

    first: Doing
    method: StrategyMethod
    at_least: float


def best_strategy(guide: FaultGuide) -> Strategy:
    """The best order of work of a guide.

    Raises what :func:`reedling.core.faultguide.guides.check_guide` does.
    """
    check_guide(guide)
    exact = 3 ** len(guide.checks) * 2 ** len(guide.repairs) <= EXACT_STATES
    figures = arrays_of(guide)
    finder = _Exact(figures) if exact else _Ahead(figures)
    return Strategy(
        first=finder.from_here(
            figures.chances, frozenset(range(len(guide.checks))), frozenset(range(len(guide.repairs)))
        ),
        method="exact" if exact else "looking ahead",
        at_least=float(
            sum(
                p * _repairs_only(figures, np.eye(len(guide.causes))[i], range(len(guide.repairs)))[0]
                for i, p in enumerate(guide.chances)
            )
        ),
    )


def minutes_of_strategy(guide: FaultGuide, doing: Doing | None) -> float:
    """Expected minutes of an order of work, whatever guide it was found for, at the chances of this one."""
    figures = arrays_of(guide)
    return _minutes_of(figures, doing, figures.chances)


def _minutes_of(guide: GuideArrays, doing: Doing | None, left: Vector) -> float:
    weight = float(left.sum())
    if doing is None or weight <= 0:
        return 0.0
    if doing.act == "last resort":
        return weight * guide.last_resort_minutes
    if doing.act == "repair":
        after = left * (1 - guide.fixes[doing.place])
        rest = (
            _minutes_of(guide, doing.no, after)
            if doing.no
            else float(after.sum()) * guide.last_resort_minutes
        )
        return weight * float(guide.repair_minutes[doing.place]) + rest
    yes = guide.yes[doing.place]
    return (
        weight * guide.check_minutes[doing.place]
        + _minutes_of(guide, doing.yes, left * yes)
        + _minutes_of(guide, doing.no, left * (1 - yes))
    )


def first_ahead(guide: FaultGuide) -> tuple[DoingKind, int]:
    """What to do first, one step looked ahead: which kind of thing, and its place in the guide (-1: last resort)."""
    figures = arrays_of(guide)
    repairs = frozenset(range(len(guide.repairs)))
    minutes, order = _repairs_only(figures, figures.chances, sorted(repairs))
    check, _ = _Ahead(figures).check(figures.chances, frozenset(range(len(guide.checks))), repairs, minutes)
    if check >= 0:
        return "check", check
    return ("repair", order[0]) if order else ("last resort", -1)


def checks_in_order(first: Doing) -> tuple[int, ...]:
    """The checks of an order of work, those first that are reached on most jobs."""
    reached: dict[int, float] = {}

    def walk(doing: Doing | None, chance: float) -> None:
        if doing is None or chance < 1e-6:
            return
        if doing.act == "check":
            reached[doing.place] = reached.get(doing.place, 0.0) + chance
            walk(doing.yes, chance * doing.chance)
        walk(doing.no, chance * (1 - doing.chance))

    walk(first, 1.0)
    return tuple(sorted(reached, key=lambda check: -reached[check]))


class _Exact:
    """Dynamic programming over what was answered and what failed; each belief is met once."""

    def __init__(self, guide: GuideArrays) -> None:
        self.guide = guide
        self.known: dict[tuple[object, ...], Doing] = {}

    def from_here(self, chances: Vector, checks: frozenset[int], repairs: frozenset[int]) -> Doing:
        key = (checks, repairs, chances.round(12).tobytes())
        if key not in self.known:
            self.known[key] = self._best(chances, checks, repairs)
        return self.known[key]

    def _best(self, chances: Vector, checks: frozenset[int], repairs: frozenset[int]) -> Doing:
        guide = self.guide
        best = Doing(act="last resort", place=-1, minutes=guide.last_resort_minutes, chance=1.0)
        for repair in sorted(repairs):
            fixed = float(guide.fixes[repair] @ chances)
            if fixed <= 0:
                continue
            minutes, after = float(guide.repair_minutes[repair]), None
            if fixed < 1 - 1e-12 and minutes < best.minutes:
                after = self.from_here(
                    chances * (1 - guide.fixes[repair]) / (1 - fixed), checks, repairs - {repair}
                )
                minutes += (1 - fixed) * after.minutes
            if minutes < best.minutes - 1e-12:
                best = Doing(act="repair", place=repair, minutes=minutes, chance=fixed, no=after)
        for check in sorted(checks):
            p = float(guide.yes[check] @ chances)
            minutes = guide.check_minutes[check]
            if not 1e-12 < p < 1 - 1e-12 or minutes >= best.minutes:
                continue
            yes = self.from_here(chances * guide.yes[check] / p, checks - {check}, repairs)
            minutes += p * yes.minutes
            if minutes >= best.minutes:
                continue
            no = self.from_here(chances * (1 - guide.yes[check]) / (1 - p), checks - {check}, repairs)
            minutes += (1 - p) * no.minutes
            if minutes < best.minutes - 1e-12:
                best = Doing(act="check", place=check, minutes=minutes, chance=p, yes=yes, no=no)
        return best


class _Ahead:
    """One step ahead: the check after which remedies alone do best, as long as it pays for itself.

    What fewer than :data:`RARE` of the jobs come to is left to remedies alone, or orders would have no end.
    """

    def __init__(self, guide: GuideArrays) -> None:
        self.guide = guide

    def from_here(
        self, chances: Vector, checks: frozenset[int], repairs: frozenset[int], reached: float = 1.0
    ) -> Doing:
        guide = self.guide
        minutes, order = _repairs_only(guide, chances, sorted(repairs))
        check, p = self.check(chances, checks, repairs, minutes) if reached >= RARE else (-1, 0.0)
        if check >= 0:
            left = checks - {check}
            likely = guide.yes[check]
            yes = self.from_here(chances * likely / p, left, repairs, reached * p)
            no = self.from_here(chances * (1 - likely) / (1 - p), left, repairs, reached * (1 - p))
            total = guide.check_minutes[check] + p * yes.minutes + (1 - p) * no.minutes
            return Doing(act="check", place=check, minutes=total, chance=p, yes=yes, no=no)
        if not order:
            return Doing(act="last resort", place=-1, minutes=guide.last_resort_minutes, chance=1.0)
        first = order[0]
        fixed = float(guide.fixes[first] @ chances)
        if fixed >= 1 - 1e-12:
            return Doing(act="repair", place=first, minutes=minutes, chance=fixed)
        after_it = self.from_here(
            chances * (1 - guide.fixes[first]) / (1 - fixed), checks, repairs - {first}, reached * (1 - fixed)
        )
        total = float(guide.repair_minutes[first]) + (1 - fixed) * after_it.minutes
        return Doing(act="repair", place=first, minutes=total, chance=fixed, no=after_it)

    def check(
        self, chances: Vector, checks: frozenset[int], repairs: frozenset[int], minutes: float
    ) -> tuple[int, float]:
        """The check that saves most against remedies alone and the chance of yes; -1 where none saves."""
        guide = self.guide
        # Checks that tell nothing cannot pay for themselves.
        telling = bits_in(guide.yes, chances) if checks else np.zeros(0)
        p = guide.yes @ chances
        asked = [c for c in sorted(checks) if telling[c] > 1e-12 and 1e-12 < p[c] < 1 - 1e-12]
        if not asked:
            return -1, 0.0
        if_so = chances * guide.yes[asked]
        after = _repairs_alone(guide, np.vstack([if_so, chances - if_so]), sorted(repairs))
        n = len(asked)
        takes = np.array([guide.check_minutes[c] for c in asked]) + after[:n] + after[n:]
        best, best_minutes = -1, minutes
        for i, check in enumerate(asked):
            if takes[i] < best_minutes - 1e-12:
                best, best_minutes = check, float(takes[i])
        return best, float(p[best]) if best >= 0 else 0.0


def _repairs_alone(guide: GuideArrays, beliefs: np.ndarray, repairs: Sequence[int]) -> np.ndarray:
    """The minutes of :func:`_repairs_only` for many beliefs at once, each times the weight of the belief."""
    left, minutes = beliefs.copy(), np.zeros(len(beliefs))
    rows = np.arange(len(beliefs))
    fixes, takes = guide.fixes[list(repairs)], guide.repair_minutes[list(repairs)]
    to_do = np.ones((len(beliefs), len(repairs)), dtype=bool)
    for _ in repairs:
        total = left.sum(axis=1)
        helps = left @ fixes.T
        chosen = np.argmax(np.where(to_do, helps / takes, -1.0), axis=1)
        to_do[rows, chosen] = False
        tries = takes[chosen] * total < helps[rows, chosen] * guide.last_resort_minutes
        minutes += np.where(tries, takes[chosen] * total, 0.0)
        left = np.where(tries[:, None], left * (1 - fixes[chosen]), left)
    out: np.ndarray = minutes + left.sum(axis=1) * guide.last_resort_minutes
    return out


def _repairs_only(
    guide: GuideArrays, chances: Vector, repairs: Sequence[int]
) -> tuple[float, tuple[int, ...]]:
    """Remedies alone, at each turn the one with the most chance for its minutes, as long as it beats the last resort.

    Where remedies are sure and each puts right one cause, no order does better (Kadane and Simon 1977).
    """
    left, minutes, order = chances.copy(), 0.0, []
    to_do = list(repairs)
    while to_do and (total := float(left.sum())) > 1e-12:
        gains = guide.fixes[to_do] @ left / guide.repair_minutes[to_do]
        i = int(np.argmax(gains))
        repair = to_do.pop(i)
        # Not worth trying where the last resort is quicker even though it may help.
        helped = float(guide.fixes[repair] @ left)
        if float(guide.repair_minutes[repair]) * total >= helped * guide.last_resort_minutes:
            continue
        minutes += total * float(guide.repair_minutes[repair])
        left = left * (1 - guide.fixes[repair])
        order.append(repair)
    return minutes + float(left.sum()) * guide.last_resort_minutes, tuple(order)
