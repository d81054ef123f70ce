"""Where an order of work would begin otherwise: how far the minutes of a check or a remedy, or the price of a remedy's
parts, may be off."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from reedling.core.faultguide.arrays import GuideArrays, Vector, arrays_of
from reedling.core.faultguide.guides import DoingKind, FaultGuide
from reedling.core.faultguide.repairs_alone import alone_with_other_minutes, repairs_alone
from reedling.core.faultguide.strategies import telling_checks

FURTHEST = 4.0
"""Minutes are tried from a quarter of what they are to four times as much."""
TO_THIS_SHARE = 0.02
"""A turning point is found to this share of the minutes."""


TurnOf = Literal["minutes", "parts"]
"""Which figure is tried: the minutes of a check or remedy, or what a remedy's parts cost, in minutes."""


@dataclass(frozen=True, slots=True, kw_only=True)
class TurningPoint:
    """The figure of a check or remedy (``act``, ``place``, ``of``) at which something else would come first: the check
    or remedy that ``then_act`` and ``then_place`` name.

    ``minutes`` is what it is now; the minutes of a remedy go without its parts and its proof.
    """

    act: DoingKind
    place: int
    of: TurnOf
    minutes: float
    turns_at: float
    then_act: DoingKind
    then_place: int


def turning_points(guide: FaultGuide) -> tuple[TurningPoint, ...]:
    """For each figure of a check or remedy the nearest, below and above its own, at which the first thing to do changes.

    One step is looked ahead. What never changes it within :data:`FURTHEST` is left out, and so is a price of nothing; the
    nearest come first.
    """
    ahead = _OneStep(arrays_of(guide))
    found: list[TurningPoint] = []
    for i, check in enumerate(guide.checks):
        found += _turns("check", i, {"minutes": check.minutes}, ahead.with_check)
    for i, repair in enumerate(guide.repairs):
        figures: dict[TurnOf, float] = {"minutes": repair.minutes, "parts": repair.cost_minutes}
        found += _turns("repair", i, figures, ahead.with_repair)
    return tuple(sorted(found, key=lambda t: abs(np.log(t.turns_at / t.minutes))))


def _turns(
    act: DoingKind, place: int, figures: dict[TurnOf, float], first_with: Callable[[int, Vector], Vector]
) -> Iterator[TurningPoint]:
    """The nearest turning points of the figures of one check or remedy. ``first_with`` tells what comes first where it
    takes so many minutes more, as a key of :class:`_OneStep`."""
    steps = int(np.ceil(np.log(FURTHEST) / np.log(1 + TO_THIS_SHARE)))
    factors = np.geomspace(1, FURTHEST, steps + 1)
    both_ways = [(of, m, m * f) for of, m in figures.items() if m > 0 for f in (factors, 1 / factors)]
    if not both_ways:
        return
    keys = first_with(place, np.concatenate([others - minutes for _, minutes, others in both_ways]))
    for (of, minutes, others), first in zip(both_ways, np.split(keys, len(both_ways)), strict=True):
        changed = np.flatnonzero(first != first[0])
        if len(changed):
            then_act, then_place = _OneStep.named(int(first[changed[0]]))
            yield TurningPoint(
                act=act,
                place=place,
                of=of,
                minutes=minutes,
                turns_at=float(others[changed[0]]),
                then_act=then_act,
                then_place=then_place,
            )


class _OneStep:
    """What comes first, one step looked ahead, where one of the minutes of a guide is another.

    A key names it: the place of a check, or below 0 the place of a remedy or the last resort.
    """

    def __init__(self, guide: GuideArrays) -> None:
        self.guide = guide
        self.asked = telling_checks(guide, guide.chances, range(len(guide.yes)))
        self.asking = np.asarray(guide.check_minutes)[self.asked]
        # What is believed after a check that is so, after one that is not, and without any.
        so = guide.chances * guide.yes[self.asked]
        self.beliefs = np.vstack([so, guide.chances - so, guide.chances])
        alone = repairs_alone(guide, self.beliefs, range(len(guide.fixes)))
        self.minutes = alone.minutes
        self.in_turn = alone.in_turn(len(self.beliefs) - 1)

    def with_check(self, check: int, more: Vector) -> Vector:
        """The keys of what comes first where a check takes so many minutes ``more``."""
        asking = np.repeat(self.asking[:, None], len(more), axis=1)
        asking[[at for at, asked in enumerate(self.asked) if asked == check]] += more
        first = np.full(len(more), self.in_turn[0] if self.in_turn else -1)
        return self._first(asking, np.repeat(self.minutes[:, None], len(more), axis=1), first)

    def with_repair(self, repair: int, more: Vector) -> Vector:
        """The keys of what comes first where a remedy takes so many minutes ``more``."""
        takes = self.guide.repair_minutes[repair] + more
        alone = alone_with_other_minutes(self.guide, self.beliefs, repair, takes)
        return self._first(self.asking[:, None], alone.minutes, alone.first[-1])

    def _first(self, asking: np.ndarray, minutes: np.ndarray, repair: Vector) -> Vector:
        """``asking`` are minutes of the checks that tell something, ``minutes`` those of remedies alone from each belief,
        ``repair`` which remedy comes first without a check, each by the minutes tried."""
        n = len(self.asked)
        otherwise = -2 - repair
        if not n:
            return otherwise
        takes = asking + minutes[:n] + minutes[n : 2 * n]
        # Of checks that take the same, the first in the guide.
        least = takes.min(axis=0)
        best = np.asarray(self.asked)[(takes <= least + 1e-12).argmax(axis=0)]
        return np.where(least < minutes[-1] - 1e-12, best, otherwise)

    @staticmethod
    def named(key: int) -> tuple[DoingKind, int]:
        """The kind and the place that a key stands for."""
        if key >= 0:
            return "check", key
        return ("last resort", -1) if key == -1 else ("repair", -2 - key)
