"""Slow, obvious twins of what the core computes: to be read at a glance and compared on random input."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Mapping, Sequence
from datetime import timedelta

from reedling.core.evidence.outcomes import OrderOutcome
from reedling.core.guidance.plans import Plan
from reedling.core.logic.conditions import Answer
from reedling.core.runsheet.standing import Entered, Rules, settle


def fixed_first_time(
    order: OrderOutcome, everything: Sequence[OrderOutcome], now: object, related: Callable[[str, str], bool]
) -> bool | None:
    """The definition read aloud, for one order; ``None`` when it does not count either way."""
    if order.finished_at is None or order.cancelled or order.doubtful:
        return None
    thirty_days_later = order.finished_at + timedelta(days=30)
    if now < thirty_days_later:  # type: ignore[operator]
        return None
    if order.working_visits != 1:
        return False
    for other in everything:
        same_asset = other.asset == order.asset and other.order != order.order
        in_time = order.finished_at < other.logged_at <= thirty_days_later
        counts = not other.cancelled and not other.routine
        if same_asset and in_time and counts and related(order.symptom, other.symptom):
            return False
    return True


def fewest_moved(older: Plan, newer: Plan) -> int:
    """The fewest steps that must be called moved so that all others kept their order: by trying."""
    before = [s.id for s in older.steps if any(n.id == s.id for n in newer.steps)]
    after = [s.id for s in newer.steps if s.id in before]
    for n_moved in range(len(after) + 1):
        for moved in itertools.combinations(after, n_moved):
            if [i for i in before if i not in moved] == [i for i in after if i not in moved]:
                return n_moved
    raise AssertionError("moving every step always works")


def opened_by_trying_again(rules: Rules, answers: Mapping[str, Answer]) -> dict[str, set[str]]:
    """For each answer, what is wanted with it and not without it: the whole sheet settled anew each time."""
    whole = settle(rules, Entered(answers))
    out: dict[str, set[str]] = {}
    for question in answers:
        without = settle(rules, Entered({q: a for q, a in answers.items() if q != question}))
        out[question] = {
            key for key, truth in whole.wanted.items() if truth is True and without.wanted[key] is not True
        }
    return out
