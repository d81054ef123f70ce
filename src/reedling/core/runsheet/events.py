"""What the field records: one value per thing that happened, in the order it happened.

``at`` is an aware UTC instant from the device. Lines and questions are named as the runsheet
names them. Events are only ever added; the state of a job is what they add up to.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Literal

from reedling.core.logic.conditions import Answer
from reedling.core.runsheet.site_events import SiteEvent

ReturnReason = Literal[
    "part to order", "part to fetch", "more time", "other trade", "no access", "watch and see"
]
"""Why a job needs another visit."""


@dataclass(frozen=True, slots=True, kw_only=True)
class HeadedOut:
    """The technician set off for the site: a visit begins."""

    at: datetime
    kind: Literal["headed out"] = "headed out"


@dataclass(frozen=True, slots=True, kw_only=True)
class Arrived:
    """The technician reached the site; degrees east and north where the device knew them."""

    at: datetime
    east: float | None = None
    north: float | None = None
    kind: Literal["arrived"] = "arrived"


@dataclass(frozen=True, slots=True, kw_only=True)
class StepStarted:
    """Work on a line began, or began again."""

    at: datetime
    line: str
    kind: Literal["step started"] = "step started"


@dataclass(frozen=True, slots=True, kw_only=True)
class Answered:
    """A question was answered; a later answer replaces an earlier one.

    ``reason`` goes with an answer that needs one, such as a meter that went backwards.
    """

    at: datetime
    question: str
    value: Answer
    reason: str = ""
    kind: Literal["answered"] = "answered"


@dataclass(frozen=True, slots=True, kw_only=True)
class StepDone:
    """A line was finished."""

    at: datetime
    line: str
    kind: Literal["step done"] = "step done"


@dataclass(frozen=True, slots=True, kw_only=True)
class StepSkipped:
    """A line was left out, with the technician's reason."""

    at: datetime
    line: str
    reason: str
    kind: Literal["step skipped"] = "step skipped"


@dataclass(frozen=True, slots=True, kw_only=True)
class PartUsed:
    """A part was consumed, in its own unit, at a line or for the job.

    ``supply`` names the part supply it was taken from; without one it came from the technician's own van.
    ``charged`` is the quantity that the customer is charged for, where it is another one.
    """

    at: datetime
    part: str
    quantity: float
    line: str | None = None
    supply: str | None = None
    charged: float | None = None
    kind: Literal["part used"] = "part used"


@dataclass(frozen=True, slots=True, kw_only=True)
class NoteWritten:
    """Something the technician wanted kept."""

    at: datetime
    text: str
    line: str | None = None
    kind: Literal["note written"] = "note written"


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureMark:
    """One thing drawn on a picture, over the original: an arrow to a point, a ring, a box, or words at a point.

    Places are parts of the picture's width and height, from 0 at its left and top to 1. An arrow goes from
    ``(x0, y0)`` to its point ``(x1, y1)``; a ring and a box fill the rectangle between them; words begin at
    ``(x0, y0)``.
    """

    shape: Literal["arrow", "ring", "box", "words"]
    x0: float
    y0: float
    x1: float
    y1: float
    text: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureMarked:
    """What is drawn on a picture; the picture itself stays as it was taken. Later marks replace earlier ones."""

    at: datetime
    picture: str
    marks: tuple[PictureMark, ...]
    kind: Literal["picture marked"] = "picture marked"


@dataclass(frozen=True, slots=True, kw_only=True)
class HelpAsked:
    """A help thread was begun: a question about a line, with a frozen picture and marks on it where one was taken.

    ``thread`` is the identity the device gave it.
    """

    at: datetime
    thread: str
    text: str
    line: str | None = None
    picture: str | None = None
    marks: tuple[PictureMark, ...] = ()
    kind: Literal["help asked"] = "help asked"


@dataclass(frozen=True, slots=True, kw_only=True)
class HelpAdded:
    """The technician said or marked more on a help thread."""

    at: datetime
    thread: str
    text: str = ""
    marks: tuple[PictureMark, ...] = ()
    kind: Literal["help added"] = "help added"


@dataclass(frozen=True, slots=True, kw_only=True)
class HelpEnded:
    """The technician ended a help thread; ``kept`` says whether it stays with the job as evidence of its step."""

    at: datetime
    thread: str
    kept: bool
    kind: Literal["help ended"] = "help ended"


@dataclass(frozen=True, slots=True, kw_only=True)
class Coded:
    """Cause and remedy found, by their codes."""

    at: datetime
    cause: str
    remedy: str
    kind: Literal["coded"] = "coded"


@dataclass(frozen=True, slots=True, kw_only=True)
class LeftSite:
    """The visit ended: the job finished, or it needs another visit for the reason given."""

    at: datetime
    outcome: Literal["finished", "return needed"]
    reason: ReturnReason | None = None
    note: str = ""
    kind: Literal["left site"] = "left site"


FieldEvent = (
    HeadedOut
    | Arrived
    | StepStarted
    | Answered
    | StepDone
    | StepSkipped
    | PartUsed
    | NoteWritten
    | PictureMarked
    | HelpAsked
    | HelpAdded
    | HelpEnded
    | Coded
    | LeftSite
    | SiteEvent
)


CLOCK_TOLERANCE_S = 120.0
"""Seconds by which a device's clock may differ from the server's before its times are put right; what lies
within is mostly the time on the way."""


def by_right_clock(event: FieldEvent, ahead_s: float | None) -> FieldEvent:
    """The event at the time it was by the server's clock, for a device whose clock ran ahead by so many seconds.

    Unchanged where the difference is not known or no more than :data:`CLOCK_TOLERANCE_S`, and where the right
    time lies beyond what a date can hold.
    """
    if ahead_s is None or abs(ahead_s) <= CLOCK_TOLERANCE_S:
        return event
    try:
        return replace(event, at=event.at - timedelta(seconds=ahead_s))
    except OverflowError:
        return event
