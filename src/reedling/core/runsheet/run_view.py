"""A runsheet as it is met: the lines, where they stand, and what each answer brought about."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from reedling.core.guidance.questions import Computed, Question, Reading, answer_text, wanted_range
from reedling.core.logic.conditions import Answer
from reedling.core.runsheet.finishing import OpenRule, open_rules
from reedling.core.runsheet.guided import GuideNow, guide_now
from reedling.core.runsheet.job_runs import job_run
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import Runsheet, may_be_skipped
from reedling.core.runsheet.progress import (
    Consequence,
    Progress,
    Run,
    consequences_of,
    offered_answers,
    wanted_parts,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Offer:
    """An answer that may be taken over, where it is from, and how it reads."""

    answer: Answer
    words: str
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RunView:
    """A runsheet with its progress, its lines laid out for each repeat, also for one no longer named.

    ``wanted`` gives the limits of each reading in words, ``computed`` the values worked out so far,
    ``offered`` the answers that may be taken over, ``last_meters`` what each meter read last,
    ``may_be_skipped`` the lines that a technician may leave out, ``still_open`` what finishing still wants,
    ``guide`` where the fault guide stands, if there is one.
    """

    runsheet: Runsheet
    progress: Progress
    consequences: Mapping[str, Consequence]
    wanted: Mapping[str, str]
    computed: Mapping[str, str]
    offered: Mapping[str, Offer]
    last_meters: Mapping[str, str]
    may_be_skipped: frozenset[str]
    still_open: tuple[OpenRule, ...] = ()
    guide: GuideNow | None = None


def job_view(runsheet: Runsheet, job: Job) -> RunView:
    """A runsheet as it is met with what was recorded on a job."""
    return run_view(job_run(runsheet, job), job)


def run_view(run: Run, job: Job) -> RunView:
    """Put a run together with all that follows from its answers and from the rest of the job."""
    sheet = run.rules.runsheet
    lines = tuple(
        replace(line, parts=wanted_parts(run, line)) if any(p.condition for p in line.parts) else line
        for line in run.lines_ever
    )
    questions = {q.id: q for line in lines for q in line.questions}
    progress = run.progress
    return RunView(
        runsheet=replace(sheet, lines=lines),
        progress=progress,
        consequences=consequences_of(run),
        wanted={
            q.id: text
            for q in questions.values()
            if isinstance(q, Reading | Computed) and (text := wanted_range(q))
        },
        computed={q: answer_text(questions[q], value) for q, value in progress.computed.items()},
        offered={
            q: Offer(
                answer=answer,
                words=answer_text(questions[q], answer),
                source=_source(run, questions[q]),
            )
            for q, answer in offered_answers(run).items()
        },
        may_be_skipped=frozenset(line.id for line in lines if may_be_skipped(line)),
        still_open=open_rules(run, job),
        guide=guide_now(
            sheet.guide,
            job.beside.guided,
            {q: a for q, a in run.standing.known.items() if a is not None},
            [f.question for f in progress.findings if f.by == "limit"],
            [line.id for line in lines],
        )
        if sheet.guide is not None
        else None,
        last_meters={
            q.id: answer_text(q, last)
            for q in questions.values()
            if q.kind == "meter" and (last := sheet.facts.get(f"meter.{q.meter}")) is not None
        },
    )


def _source(run: Run, question: Question) -> str:
    if question.id in run.past.answers:
        return "earlier on this job"
    return "the last visit" if question.prefill == "last" else "the order"
