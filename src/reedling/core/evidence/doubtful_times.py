"""Times that cannot be: kept as they were sent, told to whoever reads the job, left out of figures.

A device's clock may be wrong, and a technician may forget to leave. What was recorded is never
changed for that; but a median that such times enter says nothing.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta

from reedling.core.runsheet.job_state import Job, StepTimes, Visit
from reedling.core.runsheet.lines import RunsheetLine

LONGEST_STRETCH = timedelta(hours=24)
"""A visit, or work on one step, that lasted longer was left running."""
TOLERANCE = timedelta(days=1)
"""So much earlier than the order, or later than it was received, a time may be: orders are logged late."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Bounds:
    """When the order was logged, and when what was recorded had been received; nothing where unknown."""

    logged_at: datetime | None = None
    received_at: datetime | None = None


ANY_TIME = Bounds()


@dataclass(frozen=True, slots=True, kw_only=True)
class DoubtfulTime:
    """A time that cannot be, in a sentence; ``line`` is empty when it is about a visit."""

    line: str
    sentence: str


def doubtful_times(job: Job, lines: tuple[RunsheetLine, ...], bounds: Bounds) -> tuple[DoubtfulTime, ...]:
    """Every doubt about a job's times: its visits in order, then its lines as the sheet has them."""
    visits = (
        DoubtfulTime(line="", sentence=f"Visit {n} {doubt}; it is left out of times on site.")
        for n, visit in enumerate(job.visits, 1)
        for doubt in visit_doubts(visit, bounds)
    )
    steps = (
        DoubtfulTime(line=line.id, sentence=f"“{line.text}” {doubt}; its minutes are left out of figures.")
        for line in lines
        if (times := job.times.get(line.id)) and (doubt := step_doubt(times))
    )
    return (*visits, *steps)


def visit_doubts(visit: Visit, bounds: Bounds) -> Iterator[str]:
    """What is wrong with a visit's times, each as the end of a sentence; nothing where nothing is."""
    told = [t for t in (visit.headed_out_at, visit.arrived_at, visit.left_at) if t is not None]
    if any(later < earlier for earlier, later in itertools.pairwise(told)):
        yield "has times that run backwards"
    elif visit.minutes_on_site is not None and visit.minutes_on_site > LONGEST_STRETCH.total_seconds() / 60:
        yield f"lasted more than {LONGEST_STRETCH.total_seconds() / 3600:.0f} h on site"
    for at in told:
        out = _outside(at, bounds)
        if out:
            yield out
            return


def _outside(at: datetime, bounds: Bounds) -> str:
    if bounds.logged_at is not None and at < bounds.logged_at - TOLERANCE:
        return f"lies {_days(bounds.logged_at - at)} before the order was logged"
    if bounds.received_at is not None and at > bounds.received_at + TOLERANCE:
        return f"lies {_days(at - bounds.received_at)} after it was received"
    return ""


def _days(span: timedelta) -> str:
    days = max(1, span.days)
    return f"{days} day" if days == 1 else f"{days:,} days"


def step_doubt(times: StepTimes) -> str:
    """What is wrong with the minutes of a line, as the end of a sentence; empty where nothing is."""
    if times.backwards:
        return "ended before it began"
    if times.minutes > LONGEST_STRETCH.total_seconds() / 60:
        return f"took more than {LONGEST_STRETCH.total_seconds() / 3600:.0f} h"
    return ""


def plausible_minutes_on_site(job: Job, bounds: Bounds) -> float | None:
    """Minutes on site over all visits; nothing where the times of one of them cannot be."""
    if any(True for visit in job.visits for _ in visit_doubts(visit, bounds)):
        return None
    return sum(v.minutes_on_site or 0 for v in job.visits)


def doubtful_finish(job: Job, bounds: Bounds) -> bool:
    """Whether the time at which the job was finished cannot be."""
    last = job.visits[-1] if job.visits else None
    return last is not None and any(True for _ in visit_doubts(last, bounds))
