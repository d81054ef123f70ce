"""Where an order of work would begin otherwise: how far the minutes of a check or a remedy, or the price of a remedy's
parts, may be off."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal, NamedTuple

import numpy as np

from reedling.core.faultguide.guides import DoingKind, FaultGuide
from reedling.core.faultguide.strategies import first_ahead

FURTHEST = 4.0
"""Minutes are tried from a quarter of what they are to four times as much."""
TRIED = 17
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


class _Figure(NamedTuple):
    """A figure of a guide that is tried at other values."""

    act: DoingKind
    place: int
    of: TurnOf


def turning_points(guide: FaultGuide) -> tuple[TurningPoint, ...]:
    """For each figure of a check or remedy the nearest, below and above its own, at which the first thing to do changes.

    One step is looked ahead. What never changes it within :data:`FURTHEST` is left out, and so is a price of nothing; the
    nearest come first.
    """
    held = first_ahead(guide)
    factors = np.geomspace(1, FURTHEST, TRIED)
    found: list[TurningPoint] = []
    tried: list[tuple[_Figure, float]] = [
        *((_Figure("check", i, "minutes"), c.minutes) for i, c in enumerate(guide.checks)),
        *((_Figure("repair", i, "minutes"), r.minutes) for i, r in enumerate(guide.repairs)),
        *(
            (_Figure("repair", i, "parts"), r.cost_minutes)
            for i, r in enumerate(guide.repairs)
            if r.cost_minutes > 0
        ),
    ]
    for figure, minutes in tried:
        for direction in (1, -1):
            near = 1.0
            for factor in factors[1:] ** direction:
                if first_ahead(_with(guide, figure, minutes * factor)) == held:
                    near = float(factor)
                    continue
                turns_at, (then_act, then_place) = _between(
                    guide, figure, minutes, (near, float(factor)), held
                )
                found.append(
                    TurningPoint(
                        act=figure.act,
                        place=figure.place,
                        of=figure.of,
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
    figure: _Figure,
    minutes: float,
    ends: tuple[float, float],
    held: tuple[DoingKind, int],
) -> tuple[float, tuple[DoingKind, int]]:
    """The minutes between two factors, the first of which changes nothing, from which on it changes, and to what."""
    same, other = ends
    then = first_ahead(_with(guide, figure, minutes * other))
    while abs(other / same - 1) > TO_THIS_SHARE:
        middle = float(np.sqrt(same * other))
        first = first_ahead(_with(guide, figure, minutes * middle))
        if first == held:
            same = middle
        else:
            other, then = middle, first
    return minutes * other, then


def _with(guide: FaultGuide, figure: _Figure, minutes: float) -> FaultGuide:
    place = figure.place
    if figure.act == "check":
        check = replace(guide.checks[place], minutes=minutes)
        return replace(guide, checks=(*guide.checks[:place], check, *guide.checks[place + 1 :]))
    held = guide.repairs[place]
    repair = replace(held, minutes=minutes) if figure.of == "minutes" else replace(held, cost_minutes=minutes)
    return replace(guide, repairs=(*guide.repairs[:place], repair, *guide.repairs[place + 1 :]))
