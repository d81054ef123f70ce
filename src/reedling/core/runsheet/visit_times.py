"""The times of a visit: breaks, times put right with a reason, and what they come to."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from reedling.core.runsheet.job_state import Break, Correction, Visit
from reedling.core.runsheet.site_events import TimeCorrected
from reedling.errors import Conflict, InvalidInput

AHEAD = timedelta(minutes=5)
"""So far beyond the moment of the correction a time may lie: clocks differ."""


@dataclass(frozen=True, slots=True, kw_only=True)
class VisitTimes:
    """What a visit comes to, in minutes; nothing where a time is missing. ``on_site`` is without the breaks."""

    travel: float | None
    on_site: float | None
    breaks: float


def times_of(visit: Visit) -> VisitTimes:
    """What the times of a visit come to."""
    travel = (visit.arrived_at - visit.headed_out_at).total_seconds() / 60 if visit.arrived_at else None
    return VisitTimes(travel=travel, on_site=visit.minutes_on_site, breaks=visit.break_minutes)


def check_correction(visits: Sequence[Visit], event: TimeCorrected) -> None:
    """Whether a time may be put right as the event says.

    Raises
    ------
    InvalidInput
        ``jobs.correction`` where the visit or its time is not there, the new times would run backwards, or lie
        in the future; ``jobs.reason`` where no reason is given.
    Conflict
        ``jobs.correction`` where a break would lie outside the visit.
    """
    if not event.reason.strip():
        raise InvalidInput("jobs.reason", "say why the time is corrected.", where="Times")
    if not 1 <= event.visit <= len(visits):
        raise InvalidInput("jobs.correction", f"there is no visit {event.visit}.", where="Times")
    where = f"Visit {event.visit}"
    visit = visits[event.visit - 1]
    if _time(visit, event) is None:
        raise InvalidInput(
            "jobs.correction", f"“{event.time}” is not recorded yet.", where=where, hint="Record it first."
        )
    if event.to > event.at + AHEAD:
        raise InvalidInput("jobs.correction", "the time lies in the future.", where=where)
    after = corrected(visits, event)[event.visit - 1]
    told = [t for t in (after.headed_out_at, after.arrived_at, after.left_at) if t is not None]
    if any(later < earlier for earlier, later in itertools.pairwise(told)):
        raise InvalidInput(
            "jobs.correction",
            "the times would run backwards: heading out, arriving, leaving.",
            where=where,
            hint="Correct the other time first.",
        )
    ends = [b.ended_at or b.began_at for b in after.breaks]
    if any(b.began_at < (after.arrived_at or b.began_at) for b in after.breaks) or any(
        after.left_at is not None and end > after.left_at for end in ends
    ):
        raise Conflict("jobs.correction", "a break would lie outside the visit.", where=where)


def corrected(visits: Sequence[Visit], event: TimeCorrected) -> tuple[Visit, ...]:
    """The visits with the time put right; what was recorded before stays beside it."""
    visit = visits[event.visit - 1]
    was = _time(visit, event)
    assert was is not None
    made = Correction(
        at=event.at, time=event.time, was=was, reason=event.reason.strip(), by_office=event.by_office
    )
    match event.time:
        case "headed out":
            after = replace(visit, headed_out_at=event.to)
        case "arrived":
            after = replace(visit, arrived_at=event.to)
        case "left":
            after = replace(visit, left_at=event.to)
    after = replace(after, corrections=(*visit.corrections, made))
    return (*visits[: event.visit - 1], after, *visits[event.visit :])


def with_break(visit: Visit, at: datetime) -> Visit:
    """The visit with a break that begins."""
    return replace(visit, breaks=(*visit.breaks, Break(began_at=at)))


def without_break(visit: Visit, at: datetime) -> Visit:
    """The visit with the break that goes on ended; as it is where none does."""
    if not visit.on_break:
        return visit
    *before, last = visit.breaks
    return replace(visit, breaks=(*before, replace(last, ended_at=max(at, last.began_at))))


def _time(visit: Visit, event: TimeCorrected) -> datetime | None:
    match event.time:
        case "headed out":
            return visit.headed_out_at
        case "arrived":
            return visit.arrived_at
        case "left":
            return visit.left_at
