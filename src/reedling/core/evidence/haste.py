"""Steps done in so little time that they can hardly have been done."""

from __future__ import annotations

HASTY_SHARE = 0.2
"""A step done in less than this part of its planned minutes took next to no time."""
HASTY_FROM_MINUTES = 2.0
"""A step planned shorter than this is never hasty: a tap on a telephone takes a part of it."""


def is_hasty(minutes: float, planned_minutes: float) -> bool:
    """Whether a step took next to no time.

    >>> is_hasty(0.5, 8), is_hasty(4, 8), is_hasty(0.1, 1)
    (True, False, False)
    """
    return planned_minutes >= HASTY_FROM_MINUTES and minutes < HASTY_SHARE * planned_minutes
