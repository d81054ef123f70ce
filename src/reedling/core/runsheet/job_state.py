"""How far the work on an order has come: its visits, times, answers, parts and notes, and the state they imply."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime
from typing import Literal

from reedling.core.logic.conditions import Answer
from reedling.core.register.distances import Position
from reedling.core.runsheet.costs import RecordedCost
from reedling.core.runsheet.events import PictureMark, ReturnReason
from reedling.core.runsheet.part_supplies import PartSupply
from reedling.core.runsheet.past import NOTHING, Past
from reedling.core.runsheet.site_events import TimeOfVisit
from reedling.core.runsheet.site_records import SiteRecords

OrderState = Literal[
    "Logged", "Planned", "Heading out", "On site", "Return needed", "Finished", "Reviewed", "Cancelled"
]
OPEN_STATES: tuple[OrderState, ...] = ("Logged", "Planned", "Heading out", "On site", "Return needed")
"""States in which an order still waits for work."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Break:
    """A break on site; ``ended_at`` is ``None`` while it goes on."""

    began_at: datetime
    ended_at: datetime | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Correction:
    """A time of a visit that was put right: which, what it was before, why, and whether by the office."""

    at: datetime
    time: TimeOfVisit
    was: datetime
    reason: str
    by_office: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Visit:
    """One trip of one technician to the site; ``left_at`` is ``None`` while it goes on.

    ``arrived_where`` is where the device was on arriving, where it knew.
    """

    headed_out_at: datetime
    arrived_at: datetime | None = None
    left_at: datetime | None = None
    outcome: Literal["finished", "return needed"] | None = None
    reason: ReturnReason | None = None
    note: str = ""
    breaks: tuple[Break, ...] = ()
    corrections: tuple[Correction, ...] = ()
    arrived_where: Position | None = None

    @property
    def on_break(self) -> bool:
        """Whether a break goes on."""
        return bool(self.breaks) and self.breaks[-1].ended_at is None

    @property
    def break_minutes(self) -> float:
        """Minutes of the breaks that are over."""
        return sum((b.ended_at - b.began_at).total_seconds() / 60 for b in self.breaks if b.ended_at)

    @property
    def minutes_on_site(self) -> float | None:
        """Minutes from arrival to leaving, without the breaks; nothing while either is missing."""
        if self.arrived_at is None or self.left_at is None:
            return None
        return (self.left_at - self.arrived_at).total_seconds() / 60 - self.break_minutes


@dataclass(frozen=True, slots=True, kw_only=True)
class StepTimes:
    """When a line was first started and last finished, and the minutes worked on it.

    ``rank`` counts from 1 in which turn the line was finished. A line left and taken up
    again adds its stretches; ``running_since`` is set while one is open. ``backwards`` says that a
    stretch ended before it began, by the device's clock; it adds no minutes.
    """

    line: str
    started_at: datetime
    finished_at: datetime | None = None
    minutes: float = 0.0
    rank: int | None = None
    running_since: datetime | None = None
    backwards: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Used:
    """A part consumed, from a part supply or the technician's own van; ``charged`` as in :class:`PartUsed`."""

    part: str
    quantity: float
    line: str | None
    supply: str | None = None
    charged: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Note:
    """Words kept with the job, at a line or for the whole."""

    at: datetime
    text: str
    line: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class HelpWords:
    """What was said or marked on a help thread at one time, from site."""

    at: datetime
    text: str
    marks: tuple[PictureMark, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class HelpThread:
    """A question from site about a line, with its picture and all that was said of it there since.

    While nobody has ended it ``ended_at`` and ``kept`` are ``None``.
    """

    id: str
    line: str | None
    picture: str | None
    said: tuple[HelpWords, ...]
    ended_at: datetime | None = None
    kept: bool | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    """The state of an order's work, made by :func:`record`. ``reasons`` stand beside answers.

    ``past`` is what was recorded and a later answer closed; it is not among ``answers`` or ``done``. ``marks``
    is what was drawn on pictures, by the picture; ``help`` are the help threads, ``supplies`` the parts that come from
    elsewhere and ``costs`` what was spent besides parts, each by its identity; ``beside`` is what was recorded beside the steps.
    """

    answers: dict[str, Answer] = field(default_factory=dict)
    reasons: dict[str, str] = field(default_factory=dict)
    done: tuple[str, ...] = ()
    skipped: dict[str, str] = field(default_factory=dict)
    past: Past = NOTHING
    times: dict[str, StepTimes] = field(default_factory=dict)
    visits: tuple[Visit, ...] = ()
    parts: tuple[Used, ...] = ()
    notes: tuple[Note, ...] = ()
    marks: dict[str, tuple[PictureMark, ...]] = field(default_factory=dict)
    help: dict[str, HelpThread] = field(default_factory=dict)
    beside: SiteRecords = field(default_factory=SiteRecords)
    supplies: dict[str, PartSupply] = field(default_factory=dict)
    costs: dict[str, RecordedCost] = field(default_factory=dict)
    cause: str | None = None
    remedy: str | None = None

    @property
    def visit(self) -> Visit | None:
        """The visit that is going on."""
        return self.visits[-1] if self.visits and self.visits[-1].left_at is None else None

    @property
    def finished_at(self) -> datetime | None:
        """When the last visit ended with the job finished."""
        last = self.visits[-1] if self.visits else None
        return last.left_at if last and last.outcome == "finished" else None


def job_state(job: Job) -> OrderState | None:
    """The order state that the recorded work implies; nothing when nobody has set off yet."""
    if not job.visits:
        return None
    visit = job.visits[-1]
    if visit.outcome == "finished":
        return "Finished"
    if visit.outcome == "return needed":
        return "Return needed"
    return "On site" if visit.arrived_at else "Heading out"
