"""Which orders a technician's device takes along, so that they can be carried out without a network."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from reedling.core.runsheet.job_state import OrderState
from reedling.errors import InvalidInput

UNDER_WAY: tuple[OrderState, ...] = ("Heading out", "On site")
"""Always taken along."""
MOST_DAYS = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class TakingAlong:
    """The rule: orders planned from ``days_back`` days ago to ``days_ahead`` days from now, both included.

    ``pictures`` says whether the pictures of their instructions go along too.
    """

    days_back: int = 1
    days_ahead: int = 7
    pictures: bool = True


def check_rule(rule: TakingAlong) -> None:
    """Refuse a rule that cannot be followed.

    Raises
    ------
    InvalidInput
        ``taking_along.days`` when a number of days is below 0 or above :data:`MOST_DAYS`.
    """
    for name, days in (("Days back", rule.days_back), ("Days ahead", rule.days_ahead)):
        if not 0 <= days <= MOST_DAYS:
            raise InvalidInput(
                "taking_along.days", f"it must be from 0 to {MOST_DAYS}, got {days}.", where=name
            )


def is_taken_along(rule: TakingAlong, state: OrderState, planned_for: date | None, today: date) -> bool:
    """Whether an order goes along: one under way always, else by the day it is planned for.

    >>> is_taken_along(TakingAlong(), "Planned", date(2026, 3, 9), date(2026, 3, 2))
    True
    >>> is_taken_along(TakingAlong(), "Planned", date(2026, 3, 10), date(2026, 3, 2))
    False
    """
    if state in UNDER_WAY:
        return True
    if planned_for is None:
        return False
    first, last = today - timedelta(days=rule.days_back), today + timedelta(days=rule.days_ahead)
    return first <= planned_for <= last
