"""What remedies alone take, without any check, from many beliefs at once."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from reedling.core.faultguide.arrays import GuideArrays, Vector

NOTHING_LEFT = 1e-12
"""The share of a belief below which it counts as put right."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RepairsAlone:
    """For each belief: ``minutes`` until the equipment works, times the weight of the belief, and which remedies are
    tried before the last resort, ``tried``, beliefs by turns, -1 after the last one."""

    minutes: Vector
    tried: np.ndarray

    def in_turn(self, belief: int) -> tuple[int, ...]:
        """The places of the remedies tried from one belief, the first first."""
        return tuple(int(place) for place in self.tried[belief] if place >= 0)


def repairs_alone(guide: GuideArrays, beliefs: np.ndarray, repairs: Collection[int]) -> RepairsAlone:
    """Remedies alone, at each turn the one with the most chance for its minutes, as long as it beats the last resort.

    ``beliefs`` are weights of the causes, beliefs by causes; ``repairs`` the places of the remedies not done yet. Where
    remedies are sure and each puts right one cause, no order does better (Kadane and Simon 1977).
    """
    places = np.array(sorted(repairs), dtype=int)
    fixes, takes = guide.fixes[places], guide.repair_minutes[places]
    fixes_for_minutes = np.ascontiguousarray(fixes.T / takes)
    tried = np.full((len(beliefs), len(places)), -1)
    minutes = np.zeros(len(beliefs))
    # The beliefs that are still worked on, what is left of them, and which remedies each has had.
    going, left = np.arange(len(beliefs)), beliefs.astype(float)
    weight = left.sum(axis=1)
    least = NOTHING_LEFT * weight
    had = np.zeros((len(beliefs), len(places)), dtype=bool)
    for turn in range(len(places)):
        gains = left @ fixes_for_minutes
        gains[had] = -1.0
        chosen = gains.argmax(axis=1)
        # Where the best is not worth trying, the last resort being quicker even though it may help, none is.
        best = gains[np.arange(len(going)), chosen]
        tries = (weight > least) & (weight < best * guide.last_resort_minutes)
        if not tries.all():
            minutes[going[~tries]] += weight[~tries] * guide.last_resort_minutes
            going, left, weight, least = going[tries], left[tries], weight[tries], least[tries]
            had, chosen = had[tries], chosen[tries]
        if not len(going):
            break
        had[np.arange(len(going)), chosen] = True
        tried[going, turn] = places[chosen]
        minutes[going] += takes[chosen] * weight
        left = left * (1 - fixes[chosen])
        weight = left.sum(axis=1)
    minutes[going] += weight * guide.last_resort_minutes
    return RepairsAlone(minutes=minutes, tried=tried)
