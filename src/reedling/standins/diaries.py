"""When simulated technicians are on a visit: nobody is on two at once."""

from __future__ import annotations

from bisect import insort
from dataclasses import dataclass, field
from datetime import datetime, timedelta

LONGEST_VISIT = timedelta(hours=12)
"""No visit of the simulation takes longer."""
TO_THE_NEXT = timedelta(minutes=10)
"""From the end of a visit until its technician heads out again."""
LAST_HOUR = 18
"""Who is free this late heads out the next working morning."""
FIRST_HOUR = 8


@dataclass(frozen=True, slots=True)
class Diaries:
    """The visits of each technician, from heading out to leaving, in time."""

    visits: dict[str, list[tuple[datetime, datetime]]] = field(default_factory=dict)

    def free_from(self, technician: str, at: datetime) -> datetime:
        """When they may head out, ``at`` or as soon after it as they are on no visit and none begins too soon."""
        for begins, ends in self.visits.get(technician, ()):
            if begins - LONGEST_VISIT < at < ends + TO_THE_NEXT:
                at = _by_day(ends + TO_THE_NEXT)
        return at

    def enter(self, technician: str, begins: datetime, ends: datetime) -> None:
        """Write down a visit."""
        insort(self.visits.setdefault(technician, []), (begins, ends))


def working_morning(at: datetime) -> datetime:
    """Eight o'clock of this day, or of the next working day where it is none."""
    morning = at.replace(hour=FIRST_HOUR, minute=0, second=0, microsecond=0)
    while morning.weekday() > 4:
        morning += timedelta(days=1)
    return morning


def _by_day(at: datetime) -> datetime:
    """This instant, or the next working morning where it is late."""
    return at if at.hour < LAST_HOUR else working_morning(at + timedelta(days=1))
