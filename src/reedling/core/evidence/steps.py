"""What the field made of each step, followed by identity from revision to revision."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from reedling.core.runsheet.job import Job, job_run
from reedling.core.runsheet.lines import Line, Runsheet
from reedling.core.runsheet.progress import progress_of
from reedling.core.statistics.intervals import Share, wilson_interval
from reedling.core.statistics.summaries import Spread, spread


@dataclass(frozen=True, slots=True, kw_only=True)
class StepRecord:
    """One step of one job: what was planned, what it took, what came of it.

    ``minutes`` is ``None`` when the step was not finished. ``out_of_limit`` is ``None`` when the
    step takes no reading or none was taken.
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


@dataclass(frozen=True, slots=True, kw_only=True)
class StepEvidence:
    """One step over many jobs. ``taken`` is in minutes; shares are of the jobs that wanted it.

    ``wanted`` is the share of all jobs in which the step was asked for at all.
    """

    document: str
    step: str
    taken: Spread | None
    wanted: Share
    done: Share
    out_of_limit: Share
    n_skipped: int
    orders: tuple[str, ...]


def step_records(order: str, runsheet: Runsheet, job: Job) -> tuple[StepRecord, ...]:
    """What one job says of each of its steps; the repeats of a step count together."""
    run = job_run(runsheet, job)
    progress = progress_of(run)
    states = {p.line: p.state for p in progress.lines}
    out_of_limit = {f.line for f in progress.findings}
    groups: dict[tuple[str, str, str], list[Line]] = {}
    for line in run.lines:
        groups.setdefault((line.document, line.revision, line.step), []).append(line)
    records = []
    for (document, revision, step), lines in groups.items():
        of_step = [states[line.id] for line in lines]
        wanted = [line for line in lines if states[line.id] in ("due", "done", "skipped")]
        done = bool(wanted) and all(states[line.id] == "done" for line in wanted)
        times = [t.minutes for line in lines if (t := job.times.get(line.id))]
        reads = any(p.kind == "reading" and p.id in job.answers for line in lines for p in line.proofs)
        records.append(
            StepRecord(
                order=order,
                document=document,
                revision=revision,
                step=step,
                planned_minutes=sum(line.minutes.likely for line in wanted or lines[:1]),
                wanted=bool(wanted),
                done=done,
                skipped="skipped" in of_step,
                minutes=sum(times) if times and done else None,
                out_of_limit=any(line.id in out_of_limit for line in lines) if done and reads else None,
            )
        )
    return tuple(records)


def step_evidence(records: Iterable[StepRecord]) -> Mapping[tuple[str, str], StepEvidence]:
    """Evidence per (document, step), over all the records given."""
    groups: dict[tuple[str, str], list[StepRecord]] = {}
    for record in records:
        groups.setdefault((record.document, record.step), []).append(record)
    return {key: _summarise(key, group) for key, group in groups.items()}


def _summarise(key: tuple[str, str], group: list[StepRecord]) -> StepEvidence:
    wanted = [r for r in group if r.wanted]
    judged = [r for r in wanted if r.out_of_limit is not None]
    return StepEvidence(
        document=key[0],
        step=key[1],
        taken=spread([r.minutes for r in group if r.minutes is not None]),
        wanted=wilson_interval(len(wanted), len(group)),
        done=wilson_interval(sum(r.done for r in wanted), len(wanted)),
        out_of_limit=wilson_interval(sum(bool(r.out_of_limit) for r in judged), len(judged)),
        n_skipped=sum(r.skipped for r in wanted),
        orders=tuple(r.order for r in wanted),
    )
