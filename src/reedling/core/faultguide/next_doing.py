"""What to do next on site, with the standard library alone: a phone works it out after each answer.

Sums are exactly rounded, so that every device comes to the same. One step ahead, as :mod:`reedling.core.faultguide.strategies` looks where a guide is too large to be exact.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from math import fsum

from reedling.core.faultguide.guides import DoingKind, FaultGuide, bits


@dataclass(frozen=True, slots=True, kw_only=True)
class NextDoing:
    """What to do next; ``place`` is of the check or remedy in the guide, -1 for the last resort.

    ``chance`` is that of yes, or of being fixed; ``minutes`` are expected from here until the equipment works, with
    remedies alone after it.
    """

    act: DoingKind
    place: int
    chance: float
    minutes: float


def next_doing(
    guide: FaultGuide, chances: Sequence[float], checks: Collection[int], repairs: Collection[int]
) -> NextDoing:
    """The check after which remedies alone do best, as long as it pays for itself; else the remedy to try first.

    ``chances`` of the causes as they stand; ``checks`` and ``repairs`` are the places of those not done yet.
    """
    last = NextDoing(act="last resort", place=-1, chance=1.0, minutes=guide.last_resort_minutes)
    minutes, first = _repairs_alone(guide, chances, repairs)
    best = last
    if first is not None:
        best = NextDoing(act="repair", place=first, chance=_fixed(guide, first, chances), minutes=minutes)
    telling = bits(guide, chances)
    for check in sorted(checks):
        yes = guide.checks[check].yes
        p = fsum(c * y for c, y in zip(chances, yes, strict=True))
        if telling[check] <= 1e-12 or not 1e-12 < p < 1 - 1e-12:
            continue
        after = guide.checks[check].minutes
        if_so = [c * y / p for c, y in zip(chances, yes, strict=True)]
        if_not = [c * (1 - y) / (1 - p) for c, y in zip(chances, yes, strict=True)]
        after += p * _repairs_alone(guide, if_so, repairs)[0]
        after += (1 - p) * _repairs_alone(guide, if_not, repairs)[0]
        if after < best.minutes - 1e-12:
            best = NextDoing(act="check", place=check, chance=p, minutes=after)
    return best


def _repairs_alone(
    guide: FaultGuide, chances: Sequence[float], repairs: Collection[int]
) -> tuple[float, int | None]:
    """Expected minutes of remedies alone, at each turn the one with the most chance for its minutes, and the first."""
    takes = guide.repair_minutes
    left, minutes, first = list(chances), 0.0, None
    to_do = sorted(repairs)
    while to_do and (total := fsum(left)) > 1e-12:
        helps = [_fixed(guide, r, left) for r in to_do]
        i = max(range(len(to_do)), key=lambda n: (helps[n] / takes[to_do[n]], -n))
        repair, helped = to_do.pop(i), helps[i]
        # Where the best is not worth trying, the last resort being quicker even though it may help, none is.
        if takes[repair] * total >= helped * guide.last_resort_minutes:
            break
        minutes += total * takes[repair]
        left = [c * (1 - f) for c, f in zip(left, guide.repairs[repair].fixes, strict=True)]
        first = repair if first is None else first
    return minutes + fsum(left) * guide.last_resort_minutes, first


def _fixed(guide: FaultGuide, repair: int, chances: Sequence[float]) -> float:
    return fsum(c * f for c, f in zip(chances, guide.repairs[repair].fixes, strict=True))
