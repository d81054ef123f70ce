"""The order of work that brings the equipment back soonest, exactly where that can be worked out, else looking ahead.

Decision-theoretic troubleshooting (Heckerman, Breese and Rommelse 1995, Communications of the ACM 38(3), 49-57): what
may be done next is a check, a remedy followed by a proof, or the last resort; what it is worth is the expected minutes
until the equipment works.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from reedling.core.faultguide.arrays import GuideArrays, Vector, arrays_of, bits_in
from reedling.core.faultguide.guides import DoingKind, FaultGuide, check_guide
from reedling.core.faultguide.repairs_alone import NOTHING_LEFT, repairs_alone

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
            figures.chances
            @ repairs_alone(figures, np.eye(len(guide.causes)), range(len(guide.repairs))).minutes
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


def telling_checks(guide: GuideArrays, chances: Vector, checks: Collection[int]) -> list[int]:
    """The places, in order, of the checks that tell something at these chances of the causes; others cannot pay."""
    told, p = bits_in(guide.yes, chances), guide.yes @ chances
    return [c for c in sorted(checks) if told[c] > 1e-12 and 1e-12 < p[c] < 1 - 1e-12]


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

    def from_here(self, chances: Vector, checks: frozenset[int], repairs: frozenset[int]) -> Doing:
        """The order of work from these chances of the causes, with the checks and remedies not done yet."""
        alone = repairs_alone(self.guide, chances[None, :], repairs)
        return self._onwards(chances, checks, alone.in_turn(0), float(alone.minutes[0]), repairs, reached=1.0)

    def _onwards(
        self,
        chances: Vector,
        checks: frozenset[int],
        in_turn: tuple[int, ...],
        minutes: float,
        repairs: frozenset[int],
        *,
        reached: float,
    ) -> Doing:
        """As :meth:`from_here`, where remedies alone are known to take ``minutes`` done ``in_turn``; ``reached`` is
        the share of the jobs that come to this."""
        guide = self.guide
        paying = self.check(chances, checks, repairs, minutes) if reached >= RARE else None
        if paying is not None:
            left, likely, p = checks - {paying.place}, guide.yes[paying.place], paying.chance
            yes, no = (
                self._onwards(belief / share, left, after, takes / share, repairs, reached=reached * share)
                for belief, share, after, takes in (
                    (chances * likely, p, paying.repairs_if_so, paying.minutes_if_so),
                    (chances * (1 - likely), 1 - p, paying.repairs_if_not, paying.minutes_if_not),
                )
            )
            total = guide.check_minutes[paying.place] + p * yes.minutes + (1 - p) * no.minutes
            return Doing(act="check", place=paying.place, minutes=total, chance=p, yes=yes, no=no)
        if not in_turn or reached < RARE:
            return _one_by_one(guide, chances, in_turn)
        first = in_turn[0]
        takes, fixed = float(guide.repair_minutes[first]), float(guide.fixes[first] @ chances)
        if fixed >= 1 - NOTHING_LEFT:
            return Doing(act="repair", place=first, minutes=takes, chance=fixed)
        after_it = self._onwards(
            chances * (1 - guide.fixes[first]) / (1 - fixed),
            checks,
            in_turn[1:],
            (minutes - takes) / (1 - fixed),
            repairs - {first},
            reached=reached * (1 - fixed),
        )
        return Doing(
            act="repair",
            place=first,
            minutes=takes + (1 - fixed) * after_it.minutes,
            chance=fixed,
            no=after_it,
        )

    def check(
        self, chances: Vector, checks: frozenset[int], repairs: frozenset[int], minutes: float
    ) -> _Paying | None:
        """The check that saves most against remedies alone, which take ``minutes``; none where none saves."""
        guide = self.guide
        if not checks:
            return None
        asked = telling_checks(guide, chances, checks)
        if not asked:
            return None
        if_so = chances * guide.yes[asked]
        alone = repairs_alone(guide, np.vstack([if_so, chances - if_so]), repairs)
        so, not_so = np.split(alone.minutes, 2)
        best, least = None, minutes
        for i, check in enumerate(asked):
            takes = guide.check_minutes[check] + float(so[i]) + float(not_so[i])
            if takes < least - 1e-12:
                best, least = i, takes
        if best is None:
            return None
        return _Paying(
            place=asked[best],
            chance=float(if_so[best].sum()),
            repairs_if_so=alone.in_turn(best),
            minutes_if_so=float(so[best]),
            repairs_if_not=alone.in_turn(len(asked) + best),
            minutes_if_not=float(not_so[best]),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Paying:
    """A check that pays for itself: the ``chance`` that it is so, and what remedies alone take after either answer,
    times the chance of the answer."""

    place: int
    chance: float
    repairs_if_so: tuple[int, ...]
    minutes_if_so: float
    repairs_if_not: tuple[int, ...]
    minutes_if_not: float


def _one_by_one(guide: GuideArrays, chances: Vector, in_turn: Sequence[int]) -> Doing:
    """Remedies one after the other, whatever they show, and the last resort after them."""
    at_their_turn: list[tuple[int, float]] = []
    for place in in_turn:
        fixed = float(guide.fixes[place] @ chances)
        at_their_turn.append((place, fixed))
        if fixed >= 1 - NOTHING_LEFT:
            break
        chances = chances * (1 - guide.fixes[place]) / (1 - fixed)
    doing = Doing(act="last resort", place=-1, minutes=guide.last_resort_minutes, chance=1.0)
    for place, fixed in reversed(at_their_turn):
        takes, surely = float(guide.repair_minutes[place]), fixed >= 1 - NOTHING_LEFT
        doing = Doing(
            act="repair",
            place=place,
            minutes=takes if surely else takes + (1 - fixed) * doing.minutes,
            chance=fixed,
            no=None if surely else doing,
        )
    return doing
