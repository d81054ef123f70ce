"""What a completion did otherwise than its plan says."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from reedling.core.logic.conditions import lower_first, number_text
from reedling.core.runsheet.job import Job, job_progress
from reedling.core.runsheet.lines import Line, Runsheet, lines_by_id

LONG_RATIO = 1.5
"""A step this many times its planned minutes, and more than five minutes over, took long."""
LONG_MARGIN_MINUTES = 5.0

DepartureKind = Literal[
    "left out",
    "not done",
    "took long",
    "out of order",
    "out of limit",
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


def departures(runsheet: Runsheet, job: Job) -> tuple[Departure, ...]:
    """Every difference between what was issued and what was done, in runsheet order."""
    names = lines_by_id(runsheet)
    progress = job_progress(runsheet, job)
    out = [d for p in progress.lines for d in _line_departures(job, names[p.line], p.state)]
    out += _order_departures(job, runsheet)
    out += [Departure(kind="out of limit", line=f.line, sentence=f.sentence) for f in progress.findings]
    out += _part_departures(job, runsheet)
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
    return tuple(out)


def _line_departures(job: Job, line: Line, state: str) -> list[Departure]:
    out = []
    if state == "skipped":
        out.append(
            Departure(
                kind="left out", line=line.id, sentence=f"“{line.text}” was left out: {job.skipped[line.id]}"
            )
        )
    if state == "due" and job.finished_at is not None:
        out.append(Departure(kind="not done", line=line.id, sentence=f"“{line.text}” was not done."))
    times = job.times.get(line.id)
    planned = line.minutes.likely
    if times and state == "done" and times.minutes > max(planned * LONG_RATIO, planned + LONG_MARGIN_MINUTES):
        out.append(
            Departure(
                kind="took long",
                line=line.id,
                sentence=f"“{line.text}” took {number_text(round(times.minutes))} min, "
                f"planned {number_text(planned)}.",
            )
        )
    return out


def _order_departures(job: Job, runsheet: Runsheet) -> list[Departure]:
    """Lines finished before a line that stands ahead of them and was finished later."""
    finished = [(line, t.order) for line in runsheet.lines if (t := job.times.get(line.id)) and t.order]
    out = []
    for i, (line, order) in enumerate(finished):
        overtaken = [earlier for earlier, place in finished[:i] if place > order]
        if overtaken:
            out.append(
                Departure(
                    kind="out of order",
                    line=line.id,
                    sentence=f"“{line.text}” was done before “{lower_first(overtaken[0].text)}”.",
                )
            )
    return out


def _part_departures(job: Job, runsheet: Runsheet) -> list[Departure]:
    planned: dict[str, float] = {}
    for line in runsheet.lines:
        for need in line.parts if line.id in job.done else ():
            planned[need.part] = planned.get(need.part, 0) + need.quantity
    used: dict[str, float] = {}
    for part in job.parts:
        used[part.part] = used.get(part.part, 0) + part.quantity
    out = []
    for code in sorted(planned.keys() | used.keys()):
        taken, wanted = used.get(code, 0), planned.get(code, 0)
        if taken > wanted:
            words = f"{number_text(taken)} × {code} used, planned {number_text(wanted)}."
            out.append(Departure(kind="part not planned", line="", sentence=words))
        elif taken < wanted:
            words = f"{number_text(taken)} × {code} used of {number_text(wanted)} planned."
            out.append(Departure(kind="part not used", line="", sentence=words))
    return out
