"""What a completion did otherwise than its plan says."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from reedling.core.evidence.doubtful_times import ANY_TIME, Bounds, doubtful_times, step_doubt
from reedling.core.evidence.haste import is_hasty
from reedling.core.evidence.order_kept import order_kept
from reedling.core.guidance.catalogue import Part
from reedling.core.logic.conditions import lower_first, number_text
from reedling.core.runsheet.finishing import open_rules
from reedling.core.runsheet.job_runs import job_run
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import Runsheet, RunsheetLine
from reedling.core.runsheet.progress import Finding, Run, wanted_parts

LONG_RATIO = 1.5
"""A step this many times its planned minutes, and more than five minutes over, took long."""
LONG_MARGIN_MINUTES = 5.0

DepartureKind = Literal[
    "left out",
    "not done",
    "took long",
    "took next to no time",
    "out of order",
    "out of limit",
    "finding",
    "no longer asked",
    "doubtful time",
    "left open",
    "done beside",
    "part not planned",
    "part not used",
    "return",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Departure:
    """One difference from the plan, in a sentence; ``line`` is empty when it is about the whole job."""

    kind: DepartureKind
    line: str
    sentence: str


def departures(
    runsheet: Runsheet, job: Job, parts: Mapping[str, Part] | None = None, *, bounds: Bounds = ANY_TIME
) -> tuple[Departure, ...]:
    """Every difference between what was issued and what was done, in runsheet order.

    ``parts`` are those of the catalogue, by code; one that is not there goes by its code. ``bounds``
    are what the job's times are held against.
    """
    run = job_run(runsheet, job)
    names = {line.id: line for line in run.lines_ever}
    progress = run.progress
    out = [d for p in progress.lines for d in _line_departures(job, names[p.line], p.state)]
    out += _order_departures(job, run)
    out += [
        Departure(kind="out of limit" if f.by == "limit" else "finding", line=f.line, sentence=_with_owner(f))
        for f in progress.findings
    ]
    out += _part_departures(job, run, parts or {})
    if job.finished_at is not None:
        out += [
            Departure(kind="left open", line=rule.line or "", sentence=f"Finished without: {rule.says}")
            for rule in open_rules(run, job)
        ]
    out += [
        Departure(
            kind="done beside",
            line="",
            sentence=f"“{step.text}” was done in {number_text(step.minutes)} min; no step asks for it.",
        )
        for step in job.beside.steps.values()
    ]
    out += [
        Departure(
            kind="return",
            line="",
            sentence=f"Visit {i} ended with a return needed: {v.reason}."
            + (f" “{v.note}”" if v.note else ""),
        )
        for i, v in enumerate(job.visits, 1)
        if v.outcome == "return needed"
    ]
    out += [
        Departure(kind="doubtful time", line=d.line, sentence=d.sentence)
        for d in doubtful_times(job, run.lines_ever, bounds)
    ]
    return tuple(out)


def _with_owner(finding: Finding) -> str:
    """A finding with whose it is and by when, where the author said."""
    if finding.due_days is None:
        return finding.sentence
    return f"{finding.sentence} {finding.owner.capitalize()}, within {finding.due_days} days."


def _line_departures(job: Job, line: RunsheetLine, state: str) -> list[Departure]:
    out = []
    if state == "skipped":
        out.append(
            Departure(
                kind="left out", line=line.id, sentence=f"“{line.text}” was left out: {job.skipped[line.id]}"
            )
        )
    if state == "due" and job.finished_at is not None:
        again = " once it was asked again; it had been done before" if line.id in job.past.done else ""
        out.append(Departure(kind="not done", line=line.id, sentence=f"“{line.text}” was not done{again}."))
    if state == "no longer asked":
        out.append(Departure(kind="no longer asked", line=line.id, sentence=_closed(job, line)))
    times = job.times.get(line.id)
    planned = line.minutes.likely
    finished = state == "done" or line.id in job.past.done
    if times and finished and not step_doubt(times):
        kind: DepartureKind | None = None
        taken = number_text(round(times.minutes))
        if times.minutes > max(planned * LONG_RATIO, planned + LONG_MARGIN_MINUTES):
            kind = "took long"
        elif is_hasty(times.minutes, planned):
            kind, taken = "took next to no time", number_text(round(times.minutes, 1))
        if kind is not None:
            sentence = f"“{line.text}” took {taken} min, planned {number_text(planned)}."
            out.append(Departure(kind=kind, line=line.id, sentence=sentence))
    return out


def _closed(job: Job, line: RunsheetLine) -> str:
    """What was recorded on a line that a later answer closed."""
    if line.id in job.past.done:
        times = job.times.get(line.id)
        taken = f" in {number_text(round(times.minutes))} min" if times and times.minutes >= 1 else ""
        return f"“{line.text}” was done{taken}; a later answer closed it."
    if line.id in job.past.skipped:
        return f"“{line.text}” was left out ({job.past.skipped[line.id]}); a later answer closed it."
    return f"“{line.text}” was begun; a later answer closed it."


def _order_departures(job: Job, run: Run) -> list[Departure]:
    """Lines done out of turn, by the best alignment with the order of the runsheet."""
    texts = {line.id: line.text for line in run.lines}
    return [
        Departure(
            kind="out of order",
            line=one.line,
            sentence=f"“{texts[one.line]}” was done {'before' if one.is_early else 'after'} "
            f"“{lower_first(texts[one.other])}”.",
        )
        for one in order_kept(run, job).out_of_turn
    ]


def _part_departures(job: Job, run: Run, parts: Mapping[str, Part]) -> list[Departure]:
    planned: dict[str, float] = {}
    for line in run.lines:
        for need in wanted_parts(run, line) if line.id in job.done else ():
            planned[need.part] = planned.get(need.part, 0) + need.quantity
    used: dict[str, float] = {}
    for part in job.parts:
        used[part.part] = used.get(part.part, 0) + part.quantity
    out = []
    for code in sorted(planned.keys() | used.keys()):
        taken, wanted = used.get(code, 0), planned.get(code, 0)
        amount = parts.get(code, Part(code=code, name=code)).amount(taken)
        if taken > wanted:
            words = f"{amount} used, planned {number_text(wanted)}."
            out.append(Departure(kind="part not planned", line="", sentence=words))
        elif taken < wanted:
            words = f"{amount} used of {number_text(wanted)} planned."
            out.append(Departure(kind="part not used", line="", sentence=words))
    return out
