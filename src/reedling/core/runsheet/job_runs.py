"""The runsheet of a job as it stands with what the job has recorded."""

from __future__ import annotations

from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import Runsheet
from reedling.core.runsheet.progress import (
    Progress,
    Run,
    take_up,
)


def job_run(runsheet: Runsheet, job: Job) -> Run:
    """The runsheet taken up with the job's record; of the last few jobs asked about it is kept."""
    since = None
    for held_sheet, held in reversed(_recent):
        if held_sheet is not runsheet:
            continue
        if _is_run_of(held, job):
            return held
        since = since or held
    run = take_up(
        runsheet,
        job.answers,
        done=job.done,
        skipped=job.skipped,
        reasons=job.reasons,
        past=job.past,
        since=since,
    )
    _recent.append((runsheet, run))
    del _recent[:-4]
    return run


_recent: list[tuple[Runsheet, Run]] = []
"""An event is checked on a job, applied to it, and then shown on it: each asks for the same run."""


def _is_run_of(run: Run, job: Job) -> bool:
    """Whether a run is of what this job has recorded; what it has beside that, such as times, decides nothing."""
    held = run.entered
    return (
        held.answers is job.answers
        and held.done is job.done
        and held.skipped is job.skipped
        and run.reasons is job.reasons
        and run.past is job.past
    )


def job_progress(runsheet: Runsheet, job: Job) -> Progress:
    """Where the job stands on its runsheet."""
    return job_run(runsheet, job).progress
