"""What the office asks a technician about a job that is over."""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime

from reedling.errors import Conflict, InvalidInput

MOST_WAITING = 20
"""Questions about one job that may wait for an answer at a time."""


@dataclass(frozen=True, slots=True, kw_only=True)
class AskedBack:
    """A question about a job, or about one of its lines, to the technician who carried it out.

    ``line`` is empty for the whole job; until it is answered ``answer`` is empty and ``answered_at`` nothing.
    """

    id: str
    order: str
    line: str
    text: str
    asked_at: datetime
    asked_by: str
    technician: str
    answer: str = ""
    answered_at: datetime | None = None


def answer_back(asked: AskedBack, text: str, at: datetime) -> AskedBack:
    """The question with its answer; the same answer sent again changes nothing.

    Raises
    ------
    InvalidInput
        ``asked_back.empty`` for an answer without words.
    Conflict
        ``asked_back.answered`` when it has another answer already.
    """
    if not text.strip():
        raise InvalidInput("asked_back.empty", "there are no words in it.", where="Answer")
    if asked.answered_at is None:
        return replace(asked, answer=text.strip(), answered_at=at)
    if asked.answer != text.strip():
        raise Conflict(
            "asked_back.answered",
            f"it is answered already: “{asked.answer}”.",
            where=asked.order,
            hint="Reload the page.",
        )
    return asked
