"""Past jobs walked through a draft: what it would have cost them, in minutes, parts and visits.

Each job is walked through the guidance as it is and as it would be, by the same rules that a technician's phone
goes by. Where a sheet asks what the job never recorded, the answer, or the minutes of a step, is drawn from jobs
that were like it: of its model and cause, where there are enough, else of its cause for an answer and of its model
for minutes, else of all. How much of the outcome rests on such draws is told, and their uncertainty is part of the
range.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from reedling.core.refining.past_work import Donors, PastWork
from reedling.core.refining.replayed import N_FILLINGS, Replayed, Walked, replayed_of
from reedling.core.runsheet.lines import Runsheet, RunsheetLine
from reedling.core.runsheet.progress import Run, take_up, wanted_parts

MOST_ROUNDS = 60
"""Answers fill in one after the other, as one opens the next; more rounds than this no sheet needs."""
OPEN_CHANCE = 0.5
"""How often a branch is taken that no job and no author says anything about."""


def replay_jobs(
    sheets: Sequence[tuple[Runsheet, Runsheet]],
    jobs: Sequence[PastWork],
    *,
    chances: Mapping[str, float] | None = None,
    n_fillings: int = N_FILLINGS,
) -> Replayed:
    """Walk closed jobs through the guidance as it is and as it would be.

    ``sheets`` are these two for each job; where they are one and the same, the draft changes nothing for it. ``chances``
    are the author's, by line of the draft, for branches that no job tells anything of.
    """
    donors = [Donors(jobs, n) for n in range(n_fillings)]
    of_job = {job.order: pair for job, pair in zip(jobs, sheets, strict=True)}

    def walk_both(job: PastWork, filling: int) -> tuple[Walked, Walked]:
        before, draft = of_job[job.order]
        old = walk(before, job, donors[filling], chances=chances)
        return old, old if before is draft else walk(draft, job, donors[filling], chances=chances)

    return replayed_of(
        jobs,
        walk_both,
        before=_words(before for before, _ in sheets),
        draft=_words(draft for _, draft in sheets),
        n_fillings=n_fillings,
    )


def walk(
    sheet: Runsheet, job: PastWork, donors: Donors, *, chances: Mapping[str, float] | None = None
) -> Walked:
    """Walk a job through a sheet, filling in what it never recorded."""
    own = replace(sheet, facts=job.facts, last=job.last)
    run, n_filled = _filled_in(own, job, donors)
    states = {p.line: p.state for p in run.progress.lines}
    by_line: dict[str, float] = {}
    filled = 0.0
    parts: dict[str, float] = {}
    for line in run.lines:
        state = states[line.id]
        if state not in ("due", "open question"):
            continue
        share = 1.0 if state == "due" else (chances or {}).get(line.id, OPEN_CHANCE)
        recorded = job.minutes.get(line.id)
        taken = _minutes(line, job, donors) if recorded is None else recorded
        by_line[line.id] = share * taken
        if recorded is None or state != "due":
            filled += share * taken
        if state == "due":
            for need in wanted_parts(run, line):
                parts[need.part] = parts.get(need.part, 0.0) + need.quantity
    return Walked(
        minutes=sum(by_line.values()), filled=filled, n_filled=n_filled, parts=parts, by_line=by_line
    )


def _filled_in(sheet: Runsheet, job: PastWork, donors: Donors) -> tuple[Run, int]:
    """The sheet taken up with what the job recorded, and with draws for what decides something and was not."""
    answers = {q: a for q, a in job.answers.items() if a is not None}
    run = take_up(sheet, answers)
    n_filled = 0
    for _ in range(MOST_ROUNDS):
        missing = [
            q.id
            for line in run.lines
            for q in line.questions
            if q.id in run.rules.dependents
            and run.standing.wanted[q.id] is True
            and run.standing.known.get(q.id) is None
        ]
        drawn = {q: a for q in missing if (a := donors.answer(q, job)) is not None}
        if not drawn:
            break
        answers |= drawn
        n_filled += len(drawn)
        run = take_up(sheet, answers)
    return run, n_filled


def _minutes(line: RunsheetLine, job: PastWork, donors: Donors) -> float:
    found = donors.minutes(line.id, job)
    return line.minutes.likely if found is None else found


def _words(sheets: Iterable[Runsheet]) -> dict[str, str]:
    """What each line says, by line; many jobs were issued with the same sheet."""
    different = {id(sheet): sheet for sheet in sheets}.values()
    return {line.id: line.text for sheet in different for line in sheet.lines}
