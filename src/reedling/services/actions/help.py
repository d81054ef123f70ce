"""Answer a question from site."""

from __future__ import annotations

from collections.abc import Sequence

from reedling.core.orders.help import HelpReply
from reedling.core.people import Person
from reedling.core.runsheet.events import PictureMark
from reedling.core.runsheet.job_checks import check_marks
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.context import Context


def reply_to_help(
    context: Context,
    person: Person,
    thread: str,
    text: str,
    marks: Sequence[PictureMark],
    *,
    identity: str,
) -> None:
    """Say or mark something on a help thread; a repeat under the same ``identity`` changes nothing.

    Raises
    ------
    NotFound
        ``help.unknown`` when there is no such thread.
    Conflict
        ``help.ended`` when the technician has ended it.
    InvalidInput
        ``help.empty`` when there are neither words nor marks; ``jobs.marks``.
    """
    if not text.strip() and not marks:
        raise InvalidInput("help.empty", "there are no words and no marks in it.", where="Reply")
    check_marks(marks)
    with context.writing() as unit:
        held = unit.help.get(thread)
        if held is None:
            raise NotFound("help.unknown", "there is no such question from site.", where=thread)
        if held.ended_at is not None:
            raise Conflict(
                "help.ended",
                "the technician ended this thread meanwhile.",
                where=held.order,
                hint="Write a comment on the step instead, or ask the technician.",
            )
        unit.help.add_reply(
            HelpReply(
                id=identity,
                thread=thread,
                person=person.id,
                at=context.clock(),
                text=text.strip(),
                marks=tuple(marks),
            )
        )
