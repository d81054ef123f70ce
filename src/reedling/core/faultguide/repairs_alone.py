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


@dataclass(frozen=True, slots=True, kw_only=True)
class OtherMinutes:
    """For each belief and each of the minutes that a remedy was tried at: ``minutes`` until the equipment works, times
    the weight of the belief, and the place of the remedy that comes ``first``, -1 for the last resort."""

    minutes: np.ndarray
    first: np.ndarray


def repairs_alone(
    guide: GuideArrays, beliefs: np.ndarray, repairs: Collection[int], *, done: np.ndarray | None = None
) -> RepairsAlone:
    """Remedies alone, at each turn the one with the most chance for its minutes, as long as it beats the last resort.

    ``beliefs`` are weights of the causes, beliefs by causes; ``repairs`` the places of the remedies not done yet, of
    which ``done``, beliefs by ``repairs`` in rising order, says what was done with one belief and not with another.
    Where remedies are sure and each puts right one cause, no order does better (Kadane and Simon 1977).
    """
    places = np.array(sorted(repairs), dtype=int)
    fixes, takes = guide.fixes[places], guide.repair_minutes[places]
    fixes_for_minutes = np.ascontiguousarray(fixes.T / takes)
    misses = 1 - fixes
    tried = np.full((len(beliefs), len(places)), -1)
    minutes = np.zeros(len(beliefs))
    # The beliefs that are still worked on, what is left of them, and which remedies are not done yet, 1 or 0.
    going, left = np.arange(len(beliefs)), beliefs.astype(float)
    ones = np.ones(left.shape[1])
    weight = left @ ones
    least = NOTHING_LEFT * weight
    still_to_try = np.ones((len(beliefs), len(places))) if done is None else 1.0 - done
    for turn in range(len(places)):
        gains = left @ fixes_for_minutes
        gains *= still_to_try
        chosen = gains.argmax(axis=1)
        # Where the best is not worth trying, the last resort being quicker even though it may help, none is.
        best = gains[np.arange(len(going)), chosen]
        tries = (weight > least) & (weight < best * guide.last_resort_minutes)
        if not tries.all():
            minutes[going[~tries]] += weight[~tries] * guide.last_resort_minutes
            going, left, weight, least = going[tries], left[tries], weight[tries], least[tries]
            still_to_try, chosen = still_to_try[tries], chosen[tries]
        if not len(going):
            break
        still_to_try[np.arange(len(going)), chosen] = 0.0
        tried[going, turn] = places[chosen]
        minutes[going] += takes[chosen] * weight
        left = left * misses.take(chosen, axis=0)
        weight = left @ ones
    minutes[going] += weight * guide.last_resort_minutes
    return RepairsAlone(minutes=minutes, tried=tried)


def alone_with_other_minutes(
    guide: GuideArrays, beliefs: np.ndarray, repair: int, tried: Vector
) -> OtherMinutes:
    """What remedies alone take where the remedy at the place ``repair`` takes each of the minutes ``tried``.

    ``beliefs`` are as for :func:`repairs_alone`, which gives the same for one of the minutes. The others come in one
    order as long as this one has not had its turn, and how many come before it is all that its minutes decide: what
    follows is worked out once for each place among them that some of the minutes lead to.
    """
    others = [place for place in range(len(guide.fixes)) if place != repair]
    course = _course(guide, beliefs, others)
    # It has its turn as soon as its chance for its minutes beats what is next without it.
    with np.errstate(divide="ignore", invalid="ignore"):
        below = (course.left @ guide.fixes[repair]) / course.next_gain
    below[course.weight <= NOTHING_LEFT * course.weight[0]] = 0.0
    has_turn = below[:, :, None] > tried
    turn, has_any = has_turn.argmax(axis=0), has_turn.any(axis=0)

    # What follows is the same for all minutes that give it the same turn.
    belief_of = np.broadcast_to(np.arange(len(beliefs))[:, None], turn.shape)
    wanted, back = np.unique(turn[has_any] * len(beliefs) + belief_of[has_any], return_inverse=True)
    turns, of = np.divmod(wanted, len(beliefs))
    after = repairs_alone(
        guide,
        course.left[turns, of] * (1 - guide.fixes[repair]),
        others,
        done=course.done_before(turns, of, others),
    ).minutes

    minutes = np.repeat(course.minutes[:, None], len(tried), axis=1)
    minutes[has_any] = (
        course.before[turns, of][back]
        + course.weight[turns, of][back] * np.broadcast_to(tried, turn.shape)[has_any]
        + after[back]
    )
    without = course.in_turn[0] if len(course.in_turn) else np.full(len(beliefs), -1)
    return OtherMinutes(minutes=minutes, first=np.where(has_any & (turn == 0), repair, without[:, None]))


@dataclass(frozen=True, slots=True, kw_only=True)
class _Course:
    """Remedies alone, turn by turn, each an array of turns by beliefs: the remedies ``in_turn``, -1 after the last one;
    and before each turn and after the last the causes ``left`` with their ``weight``, the minutes taken ``before``, and
    the ``next_gain``: the chance for its minutes of the next remedy, or where there is none that of the last resort.
    ``minutes`` are those of the whole."""

    in_turn: np.ndarray
    left: np.ndarray
    weight: np.ndarray
    before: np.ndarray
    next_gain: np.ndarray
    minutes: Vector

    def done_before(self, turns: np.ndarray, beliefs: np.ndarray, places: list[int]) -> np.ndarray:
        """Which of the remedies at ``places``, in rising order, were done before each of the turns of a belief."""
        done = np.zeros((len(turns), len(places)), dtype=bool)
        for turn, tried in enumerate(self.in_turn):
            so = np.flatnonzero((turns > turn) & (tried[beliefs] >= 0))
            done[so, np.searchsorted(places, tried[beliefs[so]])] = True
        return done


def _course(guide: GuideArrays, beliefs: np.ndarray, repairs: Collection[int]) -> _Course:
    """What :func:`repairs_alone` does, turn by turn."""
    alone = repairs_alone(guide, beliefs, repairs)
    in_turn = alone.tried[:, (alone.tried >= 0).any(axis=0)].T
    is_tried = in_turn >= 0
    misses = np.where(is_tried[:, :, None], 1 - guide.fixes[in_turn], 1.0)
    left = np.concatenate([beliefs[None].astype(float), beliefs * np.cumprod(misses, axis=0)])
    weight = left.sum(axis=2)
    takes = guide.repair_minutes[in_turn]
    spent = np.cumsum(np.where(is_tried, takes * weight[:-1], 0.0), axis=0)
    next_gain = weight / guide.last_resort_minutes
    gains = (left[:-1] * guide.fixes[in_turn]).sum(axis=2) / takes
    next_gain[:-1] = np.where(is_tried, gains, next_gain[:-1])
    return _Course(
        in_turn=in_turn,
        left=left,
        weight=weight,
        before=np.concatenate([np.zeros((1, len(beliefs))), spent]),
        next_gain=next_gain,
        minutes=alone.minutes,
    )
