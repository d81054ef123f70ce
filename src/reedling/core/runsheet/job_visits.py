"""ComingEvent, going and breaks: which may be recorded next, and what they make of a job's visits."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from reedling.core.register.distances import Position
from reedling.core.runsheet.events import Arrived, HeadedOut, LeftSite
from reedling.core.runsheet.job_state import Job, Visit
from reedling.core.runsheet.site_events import BreakBegan, BreakEnded, TimeCorrected
from reedling.core.runsheet.step_times import pause
from reedling.core.runsheet.visit_times import check_correction, corrected, with_break, without_break
from reedling.errors import Conflict

ComingEvent = HeadedOut | Arrived | TimeCorrected
"""What is recorded of a visit wherever its technician is."""
VisitEvent = ComingEvent | BreakBegan | BreakEnded


def check_coming(job: Job, event: ComingEvent) -> None:
    """Whether somebody may head out or arrive now, or a time be put right.

    Raises
    ------
    Conflict
        ``jobs.order_of_events``; what :func:`check_correction` raises.
    """
    match event:
        case HeadedOut():
            _check_head_out(job)
        case Arrived():
            _check_arrival(job)
        case TimeCorrected():
            check_correction(job.visits, event)


def _check_head_out(job: Job) -> None:
    if job.visit is not None:
        raise Conflict("jobs.order_of_events", "you are already on the way or on site.", where="Heading out")
    if job.finished_at is not None:
        raise Conflict("jobs.order_of_events", "this job is finished.", where="Heading out")


def _check_arrival(job: Job) -> None:
    visit = job.visit
    if visit is None or visit.arrived_at is not None:
        raise Conflict(
            "jobs.order_of_events",
            "you can arrive once, after heading out.",
            where="Arriving",
            hint="Head out first." if visit is None else "",
        )


def check_break(job: Job, event: BreakBegan | BreakEnded) -> None:
    """Whether a break may begin or end now; raises ``jobs.break`` as a Conflict."""
    begins = isinstance(event, BreakBegan)
    if job.visit is None or job.visit.on_break is begins:
        words = "a break goes on already." if begins else "there is no break to end."
        raise Conflict("jobs.break", words, where="Break")


def with_visit_event(job: Job, event: VisitEvent) -> Job:
    """The job after the event, which was checked when it came."""
    match event:
        case HeadedOut():
            return replace(job, visits=(*job.visits, Visit(headed_out_at=event.at)))
        case Arrived():
            return replace(job, visits=(*job.visits[:-1], _arrived(job.visits[-1], event)))
        case BreakBegan():
            return _on_break(pause(job, event.at), event.at)
        case BreakEnded():
            return back_at_work(job, event.at)
        case TimeCorrected():
            return replace(job, visits=corrected(job.visits, event))


def _arrived(visit: Visit, event: Arrived) -> Visit:
    known = event.east is not None and event.north is not None
    where = Position(east=event.east or 0.0, north=event.north or 0.0) if known else None
    return replace(visit, arrived_at=event.at, arrived_where=where)


def _on_break(job: Job, at: datetime) -> Job:
    return replace(job, visits=(*job.visits[:-1], with_break(job.visits[-1], at))) if job.visit else job


def back_at_work(job: Job, at: datetime) -> Job:
    """The job with the break that goes on ended; as it is where none does."""
    if job.visit is None or not job.visit.on_break:
        return job
    return replace(job, visits=(*job.visits[:-1], without_break(job.visits[-1], at)))


def leave(job: Job, event: LeftSite) -> Job:
    """The job with its visit ended."""
    job = pause(job, event.at)
    assert job.visit is not None
    visit = replace(
        job.visit,
        left_at=event.at,
        outcome=event.outcome,
        reason=event.reason if event.outcome == "return needed" else None,
        note=event.note,
    )
    return replace(job, visits=(*job.visits[:-1], visit))
