"""A job: what the recorded events of an order add up to."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from reedling.core.runsheet.costs import with_cost
from reedling.core.runsheet.events import (
    Answered,
    Arrived,
    Coded,
    FieldEvent,
    HeadedOut,
    HelpAdded,
    HelpAsked,
    HelpEnded,
    LeftSite,
    NoteWritten,
    PartUsed,
    PictureMarked,
    StepDone,
    StepSkipped,
    StepStarted,
)
from reedling.core.runsheet.job_checks import BESIDE, OfficeEvent, check_event
from reedling.core.runsheet.job_runs import job_run
from reedling.core.runsheet.job_state import HelpThread, HelpWords, Job, Note, StepTimes, Used
from reedling.core.runsheet.job_visits import back_at_work, leave, with_visit_event
from reedling.core.runsheet.lines import Runsheet
from reedling.core.runsheet.part_supplies import check_supply, with_supply
from reedling.core.runsheet.past import (
    answered_again,
    met_again,
    set_aside,
)
from reedling.core.runsheet.site_events import (
    BreakBegan,
    BreakEnded,
    CostRecorded,
    PartAskAnswered,
    PartAsked,
    PartPickedUp,
    PartReceived,
    PartSent,
    RecordSettled,
    TimeCorrected,
)
from reedling.core.runsheet.site_records import SiteRecordEvent, check_site_record, with_site_record
from reedling.core.runsheet.standing import rules_of
from reedling.core.runsheet.step_times import pause, start, stop
from reedling.core.runsheet.visit_times import check_correction

_SUPPLIES = (PartAsked, PartAskAnswered, PartPickedUp, PartSent, PartReceived)


_ENDS_A_BREAK = (StepStarted, Answered, StepDone, StepSkipped, PartUsed, LeftSite)
"""What is recorded at work, so that a break that was not ended is over by then."""


def replay(runsheet: Runsheet, events: Iterable[FieldEvent]) -> Job:
    """The job that a whole record adds up to. What was recorded was checked when it came."""
    job = Job()
    for event in events:
        job = _apply(runsheet, job, event)
    return job


def record(runsheet: Runsheet, job: Job, event: FieldEvent) -> Job:
    """The job after one more event.

    Raises
    ------
    Conflict
        ``jobs.order_of_events`` when the event cannot come now (arriving twice, work before
        arrival); ``jobs.not_shown`` when it is about a line or question that is not wanted;
        ``jobs.unfinished`` when the job is said to be finished and steps are still due;
        ``jobs.break`` for a break that cannot begin or end now; ``jobs.office_only`` for what only the
        office records.
    InvalidInput
        ``jobs.answer`` when an answer does not fit its question; ``jobs.line`` for a line the
        runsheet does not have; ``jobs.proof_missing``, ``jobs.reason`` and ``jobs.skip`` as
        their sentences say.
    """
    check_event(runsheet, job, event)
    return _apply(runsheet, job, event)


def record_from_office(runsheet: Runsheet, job: Job, event: OfficeEvent | TimeCorrected) -> Job:
    """The job after the office, or a colleague, did something about it that the field does not record itself.

    Times are put right also once the job is finished. Raises what :func:`check_site_record`, :func:`check_supply` and
    :func:`check_correction` raise.
    """
    if isinstance(event, TimeCorrected):
        check_correction(job.visits, event)
    elif isinstance(event, RecordSettled):
        check_site_record(job.beside, event)
    else:
        check_supply(job.supplies, event)
    return _apply(runsheet, job, event)


def record_late(runsheet: Runsheet, job: Job, events: Sequence[FieldEvent]) -> Job:
    """The job after events that somebody takes in later: work may be recorded though nobody is on site.

    Coming and going is still as :func:`record` has it. Work that they leave running ends with the last of
    them. Raises what :func:`record` raises.
    """
    for event in events:
        check_event(runsheet, job, event, late=True)
        job = _apply(runsheet, job, event)
    is_there = job.visit is not None and job.visit.arrived_at is not None
    return job if is_there or not events else pause(job, events[-1].at)


def _apply(runsheet: Runsheet, job: Job, event: FieldEvent) -> Job:
    if isinstance(event, HeadedOut | Arrived | TimeCorrected | BreakBegan | BreakEnded):
        return with_visit_event(job, event)
    if isinstance(event, _SUPPLIES):
        return replace(job, supplies=with_supply(job.supplies, event))
    if isinstance(event, BESIDE):
        return _with_beside(runsheet, job, event)
    if isinstance(event, _ENDS_A_BREAK):
        job = back_at_work(job, event.at)
    match event:
        case StepStarted():
            return start(job, event.line, event.at)
        case Answered():
            return _answer(runsheet, job, event)
        case StepDone():
            return _finish_step(runsheet, job, event)
        case StepSkipped():
            return _skip(runsheet, job, event)
        case PartUsed():
            used = Used(
                part=event.part,
                quantity=event.quantity,
                line=event.line,
                supply=event.supply,
                charged=event.charged,
            )
            return replace(job, parts=(*job.parts, used))
        case NoteWritten():
            return replace(job, notes=(*job.notes, Note(at=event.at, text=event.text, line=event.line)))
        case PictureMarked():
            return replace(job, marks={**job.marks, event.picture: event.marks})
        case HelpAsked() | HelpAdded() | HelpEnded():
            return replace(job, help={**job.help, event.thread: _help_after(job, event)})
        case Coded():
            return replace(job, cause=event.cause, remedy=event.remedy)
        case LeftSite():
            return leave(job, event)


def _with_beside(runsheet: Runsheet, job: Job, event: SiteRecordEvent | CostRecorded) -> Job:
    if isinstance(event, CostRecorded):
        return replace(job, costs=with_cost(job.costs, runsheet.cost_kinds, event))
    job = replace(job, beside=with_site_record(job.beside, event))
    typed = job.beside.parts.get(event.record) if isinstance(event, RecordSettled) else None
    if typed is None or event.kind != "record settled" or event.decision != "matched":
        return job
    used = Used(part=event.target, quantity=typed.quantity, line=typed.line)
    return replace(job, parts=(*job.parts, used))


def _help_after(job: Job, event: HelpAsked | HelpAdded | HelpEnded) -> HelpThread:
    if isinstance(event, HelpAsked):
        said = HelpWords(at=event.at, text=event.text.strip(), marks=event.marks)
        return HelpThread(id=event.thread, line=event.line, picture=event.picture, said=(said,))
    held = job.help[event.thread]
    if isinstance(event, HelpEnded):
        return replace(held, ended_at=event.at, kept=event.kept)
    return replace(
        held, said=(*held.said, HelpWords(at=event.at, text=event.text.strip(), marks=event.marks))
    )


def _answer(runsheet: Runsheet, job: Job, event: Answered) -> Job:
    question = event.question
    held = job.answers.get(question)
    reasons = {q: why for q, why in job.reasons.items() if q != question}
    if event.reason.strip():
        reasons[question] = event.reason.strip()
    job = replace(
        job,
        answers={**job.answers, question: event.value},
        reasons=reasons,
        past=answered_again(job.past, question, event.value),
    )
    changed = held is not None and held != event.value
    return _close(runsheet, job) if changed or _may_close(runsheet, job) else job


def _finish_step(runsheet: Runsheet, job: Job, event: StepDone) -> Job:
    held = job.times.get(event.line) or StepTimes(line=event.line, started_at=event.at)
    rank = held.rank or 1 + sum(1 for t in job.times.values() if t.rank is not None)
    finished = replace(stop(held, event.at), finished_at=event.at, rank=rank)
    job = replace(
        job,
        times={**job.times, event.line: finished},
        done=(*(d for d in job.done if d != event.line), event.line),
        skipped={key: why for key, why in job.skipped.items() if key != event.line},
        past=met_again(job.past, event.line),
    )
    return _close(runsheet, job) if _may_close(runsheet, job) else job


def _skip(runsheet: Runsheet, job: Job, event: StepSkipped) -> Job:
    job = replace(
        job,
        skipped={**job.skipped, event.line: event.reason},
        done=tuple(d for d in job.done if d != event.line),
        past=met_again(job.past, event.line),
    )
    return _close(runsheet, job) if _may_close(runsheet, job) else job


def _may_close(runsheet: Runsheet, job: Job) -> bool:
    return rules_of(runsheet, job.answers).may_close


def _close(runsheet: Runsheet, job: Job) -> Job:
    """Set aside what was recorded for lines and questions that are not wanted any more."""
    while True:
        wanted = job_run(runsheet, job).standing.wanted
        past = set_aside(job.past, wanted, job.answers, job.reasons, job.done, job.skipped)
        kept = replace(
            job,
            answers={q: a for q, a in job.answers.items() if wanted.get(q) is True},
            reasons={q: r for q, r in job.reasons.items() if wanted.get(q) is True},
            done=tuple(line for line in job.done if wanted.get(line) is True),
            skipped={line: why for line, why in job.skipped.items() if wanted.get(line) is True},
            past=past,
        )
        if (kept.answers, kept.done, kept.skipped) == (job.answers, job.done, job.skipped):
            return job
        job = kept
