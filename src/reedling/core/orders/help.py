"""Help threads as both sides see them: a question from site, and what was said and marked on it since."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from reedling.core.runsheet.events import PictureMark
from reedling.core.runsheet.job_state import HelpThread

Side = Literal["site", "office"]
"""Who said something on a help thread: the technician on site, or somebody in the office."""


@dataclass(frozen=True, slots=True, kw_only=True)
class HelpReply:
    """What somebody in the office said or marked on a help thread."""

    id: str
    thread: str
    person: str
    at: datetime
    text: str
    marks: tuple[PictureMark, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class HelpStanding:
    """How a help thread stands: who asked it, at which line, and who said something last."""

    thread: str
    order: str
    person: str
    line: str
    asked_at: datetime
    last_said_at: datetime
    last_reply_at: datetime | None
    ended_at: datetime | None
    kept: bool | None

    @property
    def waits_for_office(self) -> bool:
        """Whether it is open and what was said last was said from site."""
        return self.ended_at is None and (
            self.last_reply_at is None or self.last_reply_at < self.last_said_at
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class HelpMessage:
    """One thing said or marked on a thread, from either side; ``person`` is nothing for the technician."""

    side: Side
    person: str
    at: datetime
    text: str
    marks: tuple[PictureMark, ...] = ()


def help_messages(thread: HelpThread, replies: Iterable[HelpReply]) -> tuple[HelpMessage, ...]:
    """All that was said on a thread, in time; what was said from site stands before a reply of the same time."""
    said = [
        HelpMessage(side="site", person="", at=words.at, text=words.text, marks=words.marks)
        for words in thread.said
    ]
    said += [
        HelpMessage(side="office", person=r.person, at=r.at, text=r.text, marks=r.marks)
        for r in replies
        if r.thread == thread.id
    ]
    return tuple(sorted(said, key=lambda message: message.at))
