"""Days and times as whole minutes, counted from the year 1, for the solver."""

from __future__ import annotations

from datetime import date

from reedling.core.logic.conditions import is_day, is_day_and_time

MINUTES_A_DAY = 24 * 60
"""Minutes of a day."""
FIRST, LAST = date.min.toordinal() * MINUTES_A_DAY, date.max.toordinal() * MINUTES_A_DAY
"""All moments there can be: from the first, up to and without the last."""


def minutes_of(item: object) -> tuple[int, int] | None:
    """When a named day or time begins and ends, in minutes; nothing for what is neither."""
    if not isinstance(item, str) or not (is_day(item) or is_day_and_time(item)):
        return None
    start = date.fromisoformat(item[:10]).toordinal() * MINUTES_A_DAY
    if len(item) == 10:
        return start, start + MINUTES_A_DAY
    start += int(item[11:13]) * 60 + int(item[14:16])
    return start, start + 1


def moment(minutes: int, *, with_time: bool) -> str:
    """A moment in minutes as a day, or as a day and a time (ISO 8601)."""
    day = date.fromordinal(minutes // MINUTES_A_DAY)
    return f"{day}T{minutes % MINUTES_A_DAY // 60:02}:{minutes % 60:02}" if with_time else str(day)
