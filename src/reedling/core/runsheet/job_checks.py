"""Whether an event may be recorded on a job now: what it is held against before it counts."""

from __future__ import annotations

from collections.abc import Sequence

from reedling.core.guidance.questions import answer_problem
from reedling.core.runsheet.costs import check_cost
from reedling.core.runsheet.events import (
    Answered,
    Arrived,
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
from reedling.core.runsheet.job_runs import job_run
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.job_visits import check_break, check_coming
from reedling.core.runsheet.lines import Runsheet, RunsheetLine, may_be_skipped
from reedling.core.runsheet.part_supplies import check_supply, check_taken_from
from reedling.core.runsheet.progress import (
    Run,
    laid_question,
    line_progress,
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
from reedling.core.runsheet.site_records import SiteRecordEvent, check_site_record
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


BESIDE = (*_RECORDS, CostRecorded)
"""What is recorded beside the steps."""


OfficeEvent = RecordSettled | PartSent | PartAskAnswered
"""What is recorded on a job by others than whoever carries it out."""


MOST_MARKS = 40
"""Marks on one picture."""

MOST_WORDS = 120
"""Characters of words on a picture."""


def check_event(runsheet: Runsheet, job: Job, event: FieldEvent, *, late: bool = False) -> None:
    """Nothing where an event may come next on a job; ``late`` for what somebody takes in when nobody is on site.

    Raises what :func:`reedling.core.runsheet.job.record` raises.
    """
    if isinstance(event, OfficeEvent) or (isinstance(event, TimeCorrected) and event.by_office):
        raise Conflict(
            "jobs.office_only",
            "others than the technician record this.",
            where=event.kind.capitalize(),
        )
    if isinstance(event, HeadedOut | Arrived | TimeCorrected | PartAsked | PartPickedUp | PartReceived):
        return _check_anywhere(job, event, late=late)
    if not late or isinstance(event, LeftSite):
        _need_on_site(job, event)
    if isinstance(event, BESIDE):
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
