"""What the field made of each step, followed by identity from revision to revision."""

from __future__ import annotations

from dataclasses import dataclass, fields
from datetime import datetime

from reedling.core.evidence.doubtful_times import step_doubt
from reedling.core.runsheet.job_runs import job_run
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import Runsheet, RunsheetLine
from reedling.core.runsheet.progress import was_judged
from reedling.core.statistics.intervals import Share, wilson_interval
from reedling.core.statistics.summaries import Spread


@dataclass(frozen=True, slots=True, kw_only=True)
class StepRecord:
    """One step of one job: what was planned, what it took, what came of it.

    A step that was done counts as wanted and done also where a later answer closed it. ``minutes`` is
    ``None`` when the step was not finished, or its times cannot be (``doubtful``). ``out_of_limit`` is
    ``None`` when it was not finished, or has no reading or computed value that was held against limits.
    ``helped`` says that help was asked for at it and the thread was kept with the job. ``done_at`` is when the last of
    it was done, where that is known; ``skip_reason`` is why it was left out, by the first of its repeats that was.
    """

    order: str
    document: str
    revision: str
    step: str
    planned_minutes: float
    wanted: bool
    done: bool
    skipped: bool
    minutes: float | None
    out_of_limit: bool | None
    doubtful: bool = False
    helped: bool = False
    done_at: datetime | None = None
    skip_reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class StepCounts:
    """Counts over jobs of one step.

    ``n_wanted`` jobs asked for it at all; ``n_done``, ``n_skipped`` and ``n_judged`` (a reading of it was
    held against limits) are of those, ``n_out_of_limit`` of the judged. ``n_doubtful`` finished it at
    times that cannot be; ``n_helped`` asked for help at it.
    """

    n_jobs: int = 0
    n_wanted: int = 0
    n_done: int = 0
    n_skipped: int = 0
    n_judged: int = 0
    n_out_of_limit: int = 0
    n_doubtful: int = 0
    n_helped: int = 0

    def plus(self, other: StepCounts) -> StepCounts:
        """The counts over both lots of jobs."""
        return StepCounts(
            **{f.name: getattr(self, f.name) + getattr(other, f.name) for f in fields(StepCounts)}
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class StepEvidence:
    """One step over many jobs. ``taken`` is in minutes; shares are of the jobs that wanted it.

    ``wanted`` is the share of all jobs in which the step was asked for at all; ``n_doubtful`` jobs are
    left out of ``taken`` because their times cannot be.
    """

    document: str
    step: str
    taken: Spread | None
    wanted: Share
    done: Share
    out_of_limit: Share
    helped: Share
    n_skipped: int
    n_doubtful: int


def step_records(order: str, runsheet: Runsheet, job: Job) -> tuple[StepRecord, ...]:
    """What one job says of each of its steps; the repeats of a step count together."""
    run = job_run(runsheet, job)
    progress = run.progress
    states = {p.line: p.state for p in progress.lines}
    out_of_limit = {f.line for f in progress.findings if f.by == "limit"}
    groups: dict[tuple[str, str, str], list[RunsheetLine]] = {}
    for line in run.lines_ever:
        groups.setdefault((line.document, line.revision, line.step), []).append(line)
    records = []
    for (document, revision, step), lines in groups.items():
        finished = {line.id for line in lines if states[line.id] == "done" or line.id in job.past.done}
        wanted = [line for line in lines if line.id in finished or states[line.id] in ("due", "skipped")]
        done = bool(wanted) and all(line.id in finished for line in wanted)
        times = [t for line in lines if (t := job.times.get(line.id))]
        doubtful = done and any(step_doubt(t) for t in times)
        ended = [t.finished_at for t in times if t.finished_at]
        skipped = [line.id for line in lines if states[line.id] == "skipped"]
        judged = any(was_judged(run, q) for line in lines for q in line.questions)
        records.append(
            StepRecord(
                order=order,
                document=document,
                revision=revision,
                step=step,
                planned_minutes=sum(line.minutes.likely for line in wanted or lines[:1]),
                wanted=bool(wanted),
                done=done,
                skipped=bool(skipped),
                minutes=sum(t.minutes for t in times) if times and done and not doubtful else None,
                out_of_limit=any(line.id in out_of_limit for line in lines) if done and judged else None,
                doubtful=doubtful,
                helped=any(t.kept and t.line == line.id for t in job.help.values() for line in lines),
                done_at=max(ended) if done and ended else None,
                skip_reason=job.skipped[skipped[0]] if skipped else "",
            )
        )
    return tuple(records)


def count_step(record: StepRecord) -> StepCounts:
    """What one job adds to the counts of a step."""
    judged = record.wanted and record.out_of_limit is not None
    return StepCounts(
        n_jobs=1,
        n_wanted=int(record.wanted),
        n_done=int(record.wanted and record.done),
        n_skipped=int(record.wanted and record.skipped),
        n_judged=int(judged),
        n_out_of_limit=int(judged and bool(record.out_of_limit)),
        n_doubtful=int(record.doubtful),
        n_helped=int(record.wanted and record.helped),
    )


def evidence_of(document: str, step: str, counts: StepCounts, taken: Spread | None) -> StepEvidence:
    """The evidence that counts and a spread of minutes make up."""
    return StepEvidence(
        document=document,
        step=step,
        taken=taken,
        wanted=wilson_interval(counts.n_wanted, counts.n_jobs),
        done=wilson_interval(counts.n_done, counts.n_wanted),
        out_of_limit=wilson_interval(counts.n_out_of_limit, counts.n_judged),
        helped=wilson_interval(counts.n_helped, counts.n_wanted),
        n_skipped=counts.n_skipped,
        n_doubtful=counts.n_doubtful,
    )
