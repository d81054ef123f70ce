"""The minutes worked on each line: stretches that begin and end, one at a time."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from reedling.core.runsheet.job_state import Job, StepTimes


def start(job: Job, line: str, at: datetime) -> Job:
    """The job with work on a line begun, and ended on any other."""
    job = pause(job, at, keep=line)
    held = job.times.get(line)
    if held is not None and held.running_since is not None:
        return job
    times = replace(held, running_since=at) if held else StepTimes(line=line, started_at=at, running_since=at)
    return replace(job, times={**job.times, line: times})


def pause(job: Job, at: datetime, *, keep: str | None = None) -> Job:
    """One pair of hands: starting a step, or leaving, ends the stretch of the one before."""
    times = {
        key: t if t.running_since is None or key == keep else stop(t, at) for key, t in job.times.items()
    }
    return replace(job, times=times)


def stop(times: StepTimes, at: datetime) -> StepTimes:
    """The times of a line with the stretch that runs ended; as they are where none does."""
    if times.running_since is None:
        return times
    worked = (at - times.running_since).total_seconds() / 60
    return replace(
        times,
        minutes=times.minutes + max(0.0, worked),
        running_since=None,
        backwards=times.backwards or worked < 0,
    )
