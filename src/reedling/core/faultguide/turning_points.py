"""Where an order of work would begin otherwise: how far the minutes of a check or a remedy may be off."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from reedling.core.faultguide.guides import DoingKind, FaultGuide
from reedling.core.faultguide.strategies import first_ahead

FURTHEST = 4.0
"""Minutes are tried from a quarter of what they are to four times as much."""
TRIED = 17
TO_THIS_SHARE = 0.02
"""A turning point is found to this share of the minutes."""


@dataclass(frozen=True, slots=True, kw_only=True)
class TurningPoint:
    """The minutes of a check or remedy (``act``, ``place``) at which something else would come first: the check or
    remedy that ``then_act`` and ``then_place`` name.

    ``minutes`` are those it has; those of a remedy go without its parts and its proof.
    """

    act: DoingKind
    place: int
    minutes: float
    turns_at: float
    then_act: DoingKind
    then_place: int


def turning_points(guide: FaultGuide) -> tuple[TurningPoint, ...]:
    """For each check and remedy the nearest minutes, below and above its own, at which the first thing to do changes.

    One step is looked ahead. What never changes it within :data:`FURTHEST` is left out; the nearest come first.
    """
    held = first_ahead(guide)
    factors = np.geomspace(1, FURTHEST, TRIED)
    found: list[TurningPoint] = []
    places: list[tuple[DoingKind, int, float]] = [
        *(("check", i, c.minutes) for i, c in enumerate(guide.checks)),
        *(("repair", i, r.minutes) for i, r in enumerate(guide.repairs)),
    ]
    for act, place, minutes in places:
        for direction in (1, -1):
            near = 1.0
            for factor in factors[1:] ** direction:
                if first_ahead(_with(guide, act, place, minutes * factor)) == held:
                    near = float(factor)
                    continue
                turns_at, (then_act, then_place) = _between(
                    guide, act, place, minutes, (near, float(factor)), held
                )
                found.append(
                    TurningPoint(
                        act=act,
                        place=place,
                        minutes=minutes,
                        turns_at=turns_at,
                        then_act=then_act,
                        then_place=then_place,
                    )
                )
                break
    return tuple(sorted(found, key=lambda t: abs(np.log(t.turns_at / t.minutes))))


def _between(
    guide: FaultGuide,
    act: DoingKind,
    place: int,
    minutes: float,
    ends: tuple[float, float],
    held: tuple[DoingKind, int],
) -> tuple[float, tuple[DoingKind, int]]:
    """The minutes between two factors, the first of which changes nothing, from which on it changes, and to what."""
    same, other = ends
    then = first_ahead(_with(guide, act, place, minutes * other))
    while abs(other / same - 1) > TO_THIS_SHARE:
        middle = float(np.sqrt(same * other))
        first = first_ahead(_with(guide, act, place, minutes * middle))
        if first == held:
            same = middle
        else:
            other, then = middle, first
    return minutes * other, then


def _with(guide: FaultGuide, act: DoingKind, place: int, minutes: float) -> FaultGuide:
    if act == "check":
        checks = tuple(replace(c, minutes=minutes) if i == place else c for i, c in enumerate(guide.checks))
        return replace(guide, checks=checks)
    repairs = tuple(replace(r, minutes=minutes) if i == place else r for i, r in enumerate(guide.repairs))
    return replace(guide, repairs=repairs)
