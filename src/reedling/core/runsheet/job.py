"""A job: what the recorded events of an order add up to, and which event may come next."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from reedling.core.guidance.questions import answer_problem
from reedling.core.runsheet.costs import check_cost, with_cost
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
    PictureMark,
    PictureMarked,
    StepDone,
    StepSkipped,
    StepStarted,
)
from reedling.core.runsheet.finishing import open_rules
from reedling.core.runsheet.job_state import HelpThread, HelpWords, Job, Note, StepTimes, Used
from reedling.core.runsheet.job_visits import back_at_work, check_break, check_coming, leave, with_visit_event
from reedling.core.runsheet.lines import Runsheet, RunsheetLine, may_be_skipped
from reedling.core.runsheet.part_supplies import check_supply, check_taken_from, with_supply
from reedling.core.runsheet.past import (
    answered_again,
    met_again,
    set_aside,
)
from reedling.core.runsheet.progress import (
    Progress,
    Run,
    laid_question,
    line_progress,
    take_up,
)
from reedling.core.runsheet.site_events import (
    BreakBegan,
    BreakEnded,
    CheckSeen,
    CostRecorded,
    CustomerSaid,
    EquipmentFound,
    FixMarked,
    NoCauseFits,
    PartAskAnswered,
    PartAsked,
    PartPickedUp,
    PartReceived,
    PartSent,
    PartTyped,
    RecordSettled,
    RemedyTried,
    SignedOff,
    StepAdded,
    TimeCorrected,
    WorkAnswered,
    WorkRecommended,
)
from reedling.core.runsheet.site_records import SiteRecordEvent, check_site_record, with_site_record
from reedling.core.runsheet.standing import rules_of
from reedling.core.runsheet.step_times import pause, start, stop
from reedling.errors import Conflict, InvalidInput

_RECORDS = (
    PartTyped,
    EquipmentFound,
    StepAdded,
    WorkRecommended,
    WorkAnswered,
    SignedOff,
    CustomerSaid,
    FixMarked,
    CheckSeen,
    RemedyTried,
    NoCauseFits,
    RecordSettled,
)
_BESIDE = (*_RECORDS, CostRecorded)
_SUPPLIES = (PartAsked, PartAskAnswered, PartPickedUp, PartSent, PartReceived)
OfficeEvent = RecordSettled | PartSent | PartAskAnswered
"""What is recorded on a job by others than whoever carries it out."""
_ENDS_A_BREAK = (StepStarted, Answered, StepDone, StepSkipped, PartUsed, LeftSite)
"""What is recorded at work, so that a break that was not ended is over by then."""

MOST_MARKS = 40
"""Marks on one picture."""
MOST_WORDS = 120
"""Characters of words on a picture."""


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
    _check(runsheet, job, event)
    return _apply(runsheet, job, event)


def record_from_office(runsheet: Runsheet, job: Job, event: OfficeEvent) -> Job:
    """The job after the office, or a colleague, did something about it that the field does not record itself.

    Raises what :func:`check_site_record` and :func:`check_supply` raise.
    """
    if isinstance(event, RecordSettled):
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
        _check(runsheet, job, event, late=True)
        job = _apply(runsheet, job, event)
    is_there = job.visit is not None and job.visit.arrived_at is not None
    return job if is_there or not events else pause(job, events[-1].at)


def _check(runsheet: Runsheet, job: Job, event: FieldEvent, *, late: bool = False) -> None:
    if isinstance(event, OfficeEvent):
        raise Conflict(
            "jobs.office_only",
            "others than the technician record this.",
            where=event.kind.capitalize(),
        )
    if isinstance(event, HeadedOut | Arrived | TimeCorrected | PartAsked | PartPickedUp | PartReceived):
        return _check_anywhere(job, event, late=late)
    if not late or isinstance(event, LeftSite):
        _need_on_site(job, event)
    if isinstance(event, _BESIDE):
        return _check_beside(runsheet, job, event)
    match event:
        case BreakBegan() | BreakEnded():
            check_break(job, event)
        case StepStarted():
            _shown_line(runsheet, job, event.line)
        case Answered():
            _check_answer(runsheet, job, event)
        case StepDone():
            _check_done(runsheet, job, event)
        case StepSkipped():
            _check_skip(runsheet, job, event)
        case PartUsed():
            _check_part(runsheet, job, event)
        case NoteWritten(line=str()):
            _line(job_run(runsheet, job), event.line or "")
        case PictureMarked():
            _check_marks(job, event)
        case HelpAsked() | HelpAdded() | HelpEnded():
            _check_help(runsheet, job, event)
        case LeftSite():
            _check_leaving(runsheet, job, event)
    return None


def _apply(runsheet: Runsheet, job: Job, event: FieldEvent) -> Job:
    if isinstance(event, HeadedOut | Arrived | TimeCorrected | BreakBegan | BreakEnded):
        return with_visit_event(job, event)
    if isinstance(event, _SUPPLIES):
        return replace(job, supplies=with_supply(job.supplies, event))
    if isinstance(event, _BESIDE):
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


def _need_on_site(job: Job, event: FieldEvent) -> None:
    if job.visit is None or job.visit.arrived_at is None:
        raise Conflict(
            "jobs.order_of_events",
            "this is recorded on site, and nobody has arrived.",
            where=event.kind.capitalize(),
            hint="Head out and arrive first.",
        )


def _line(run: Run, line_id: str) -> RunsheetLine:
    line = next((line for line in run.lines_ever if line.id == line_id), None)
    if line is None:
        raise InvalidInput("jobs.line", f"there is no step {line_id} on this runsheet.")
    return line


def _shown_line(runsheet: Runsheet, job: Job, line_id: str) -> tuple[Run, RunsheetLine]:
    run = job_run(runsheet, job)
    line = _line(run, line_id)
    _need_wanted(run, line, line_id, "step")
    return run, line


def _need_wanted(run: Run, line: RunsheetLine, key: str, what: str) -> None:
    if run.standing.wanted.get(key) is not True:
        raise Conflict(
            "jobs.not_shown",
            f"this {what} is not wanted with the answers so far.",
            where=f"“{line.text}”",
            hint="Answer the earlier steps first.",
        )


def _check_answer(runsheet: Runsheet, job: Job, event: Answered) -> None:
    run = job_run(runsheet, job)
    found = laid_question(run, event.question)
    if found is None:
        raise InvalidInput("jobs.answer", f"there is no question {event.question} on this runsheet.")
    line, question = found
    _need_wanted(run, line, line.id, "step")
    _need_wanted(run, line, question.id, "question")
    problem = answer_problem(question, event.value, runsheet.facts)
    if problem:
        raise InvalidInput("jobs.answer", problem, where=f"“{line.text}”")


def _check_done(runsheet: Runsheet, job: Job, event: StepDone) -> None:
    run, line = _shown_line(runsheet, job, event.line)
    missing = line_progress(run, line).missing
    if missing:
        raise InvalidInput(
            "jobs.proof_missing",
            "still to answer: " + ", ".join(q.label for q in line.questions if q.id in missing) + ".",
            where=f"“{line.text}”",
        )


def _check_skip(runsheet: Runsheet, job: Job, event: StepSkipped) -> None:
    _, line = _shown_line(runsheet, job, event.line)
    if not may_be_skipped(line):
        raise InvalidInput(
            "jobs.skip",
            "a step that makes safe is never left out.",
            where=f"“{line.text}”",
            hint="If it cannot be done, leave and say why a return is needed.",
        )
    if not event.reason.strip():
        raise InvalidInput("jobs.reason", "say why it is left out.", where=f"“{line.text}”")


def _check_part(runsheet: Runsheet, job: Job, event: PartUsed) -> None:
    if event.line is not None:
        _line(job_run(runsheet, job), event.line)
    if not 0 < event.quantity < float("inf"):
        raise InvalidInput("jobs.quantity", "the quantity must be above 0.", where=f"Part {event.part}")
    if event.charged is not None and not 0 <= event.charged < float("inf"):
        raise InvalidInput(
            "jobs.quantity", "the quantity charged must be 0 or more.", where=f"Part {event.part}"
        )
    if event.supply is not None:
        used = ((u.supply, u.quantity) for u in job.parts)
        check_taken_from(job.supplies, used, event.supply, event.part, event.quantity)


def _check_anywhere(
    job: Job,
    event: HeadedOut | Arrived | TimeCorrected | PartAsked | PartPickedUp | PartReceived,
    *,
    late: bool,
) -> None:
    """Coming and going; and parts on their way, which may be before anybody sets off, but not after the job."""
    if isinstance(event, HeadedOut | Arrived | TimeCorrected):
        return check_coming(job, event)
    if job.finished_at is not None and not late:
        raise Conflict("jobs.order_of_events", "this job is finished already.", where=event.kind.capitalize())
    return check_supply(job.supplies, event)


def _check_beside(runsheet: Runsheet, job: Job, event: SiteRecordEvent | CostRecorded) -> None:
    if isinstance(event, CostRecorded):
        return check_cost(runsheet.cost_kinds, event)
    if isinstance(event, PartTyped) and event.line is not None:
        _line(job_run(runsheet, job), event.line)
    if isinstance(event, CheckSeen | RemedyTried | NoCauseFits):
        _check_guided(runsheet, event)
    return check_site_record(job.beside, event)


def _check_guided(runsheet: Runsheet, event: CheckSeen | RemedyTried | NoCauseFits) -> None:
    guide = runsheet.guide.guide if runsheet.guide is not None else None
    match event:
        case CheckSeen():
            named, there = event.check, {c.id for c in guide.checks} if guide else set()
        case RemedyTried():
            named, there = event.remedy, {r.id for r in guide.repairs} if guide else set()
        case NoCauseFits():
            named, there = "causes", {"causes"} if guide else set()
    if named not in there:
        raise InvalidInput(
            "jobs.guide", f"the fault guide of this order has no {named}.", where="Fault guide"
        )


def _with_beside(runsheet: Runsheet, job: Job, event: SiteRecordEvent | CostRecorded) -> Job:
    if isinstance(event, CostRecorded):
        return replace(job, costs=with_cost(job.costs, runsheet.cost_kinds, event))
    job = replace(job, beside=with_site_record(job.beside, event))
    typed = job.beside.parts.get(event.record) if isinstance(event, RecordSettled) else None
    if typed is None or event.kind != "record settled" or event.decision != "matched":
        return job
    used = Used(part=event.target, quantity=typed.quantity, line=typed.line)
    return replace(job, parts=(*job.parts, used))


def _check_marks(job: Job, event: PictureMarked) -> None:
    if event.picture not in {*job.answers.values(), *job.past.answers.values()}:
        raise Conflict("jobs.picture", "this picture is no answer on this job.", where="Marks")
    check_marks(event.marks)


def check_marks(marks: Sequence[PictureMark]) -> None:
    """Marks lie on their picture, say something where they are words, and are not too many.

    Raises
    ------
    InvalidInput
        ``jobs.marks``.
    """
    if len(marks) > MOST_MARKS:
        raise InvalidInput(
            "jobs.marks",
            f"a picture may have {MOST_MARKS} marks, this has {len(marks)}.",
            where="Marks",
        )
    for mark in marks:
        if not all(0 <= place <= 1 for place in (mark.x0, mark.y0, mark.x1, mark.y1)):
            raise InvalidInput("jobs.marks", "a mark lies outside the picture.", where="Marks")
        if mark.shape == "words" and not 0 < len(mark.text.strip()) <= MOST_WORDS:
            raise InvalidInput(
                "jobs.marks", f"words on a picture have from 1 to {MOST_WORDS} characters.", where="Marks"
            )


def _check_help(runsheet: Runsheet, job: Job, event: HelpAsked | HelpAdded | HelpEnded) -> None:
    held = job.help.get(event.thread)
    if isinstance(event, HelpAsked):
        if held is not None:
            raise Conflict("jobs.help", "this question was asked already.", where="Help")
        if event.line is not None:
            _line(job_run(runsheet, job), event.line)
        if not event.text.strip() and event.picture is None:
            raise InvalidInput("jobs.help_words", "there are no words and no picture in it.", where="Help")
    elif held is None or held.ended_at is not None:
        raise Conflict("jobs.help", "there is no such question open on this job.", where="Help")
    if isinstance(event, HelpAdded) and not event.text.strip() and not event.marks:
        raise InvalidInput("jobs.help_words", "there are no words and no marks in it.", where="Help")
    if not isinstance(event, HelpEnded):
        check_marks(event.marks)


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


def _check_leaving(runsheet: Runsheet, job: Job, event: LeftSite) -> None:
    if event.outcome == "return needed" and event.reason is None:
        raise InvalidInput("jobs.reason", "say why a return is needed.", where="Leaving")
    if event.outcome == "finished":
        _need_complete(runsheet, job)


def _need_complete(runsheet: Runsheet, job: Job) -> None:
    run = job_run(runsheet, job)
    names = {line.id: line.text for line in run.lines}
    due = [names[p.line] for p in run.progress.lines if p.state == "due"]
    if due:
        more = f" and {len(due) - 3} more" if len(due) > 3 else ""
        raise Conflict(
            "jobs.unfinished",
            "still due: " + "; ".join(f"“{text}”" for text in due[:3]) + more + ".",
            where="Finishing",
            hint="Do them, leave them out with a reason, or say that a return is needed.",
        )
    still_open = [rule.says for rule in open_rules(run, job) if rule.weight == "must"]
    if still_open:
        raise Conflict(
            "jobs.finish_rules",
            "still open: " + " ".join(_as_sentence(says) for says in still_open),
            where="Finishing",
            hint="See to it, or say that a return is needed.",
        )
    if job.cause is None or job.remedy is None:
        raise Conflict(
            "jobs.uncoded", "cause and remedy are not chosen yet.", where="Finishing", hint="Choose both."
        )


def _as_sentence(words: str) -> str:
    return words if words.endswith((".", "?")) else f"{words}."


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
    order = held.order or 1 + sum(1 for t in job.times.values() if t.order is not None)
    finished = replace(stop(held, event.at), finished_at=event.at, order=order)
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
