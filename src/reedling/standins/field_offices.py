"""How the simulated field hands in what it does: one thing at a time as real ones do, or a whole history at once.

Both go by the same rules of the core and come to the same; taking all of it in at once is quicker.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import ExitStack
from dataclasses import dataclass, field, replace
from datetime import datetime
from functools import lru_cache
from typing import Any, Protocol

from reedling.core.changes import Change, ChangeAct
from reedling.core.orders.orders import Order
from reedling.core.orders.photo_looks import PhotoLook, same_photo
from reedling.core.orders.receipts import Picture, Receipt
from reedling.core.orders.states import state_after
from reedling.core.people import Person
from reedling.core.refining.trials import Trial
from reedling.core.runsheet.events import FieldEvent
from reedling.core.runsheet.job import replay
from reedling.core.runsheet.job_state import Job, job_state
from reedling.services.actions.orders import cancel_order, log_order, plan_visit
from reedling.services.actions.past_jobs import PastJob, PastSubmission, take_in_past_jobs
from reedling.services.actions.pictures import keep_picture
from reedling.services.actions.reviews import mark_reviewed
from reedling.services.actions.submissions import submit_events
from reedling.services.context import Context
from reedling.services.shared.guidance_in_force import Readied, guidance_in_force
from reedling.services.shared.inspecting import look_of
from reedling.services.shared.kept_changes import standing_of
from reedling.services.shared.matched import OrderToMatch, as_logged
from reedling.services.shared.trials import match_with_trials
from reedling.standins.camera import HEIGHT, WIDTH, Shot, take_picture
from reedling.store.pictures import hash_of
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True)
class Shown:
    """What a picture shows: a thing, which of a few pictures of it, and how it was taken."""

    what: str
    n: int
    shot: Shot = "well"


@dataclass(frozen=True, slots=True)
class TakenPicture:
    """A picture that was taken: its identity, the question that it answers, what it shows; a signature is no photo."""

    id: str
    question: str
    shown: Shown
    is_photo: bool = True


@lru_cache(maxsize=600)
def picture_of(shown: Shown) -> bytes:
    """The bytes of a picture."""
    return take_picture(shown.what, seed=shown.n, shot=shown.shot)


@lru_cache(maxsize=600)
def _look_of(shown: Shown) -> PhotoLook:
    return look_of(picture_of(shown))


@dataclass(frozen=True, slots=True, kw_only=True)
class HandedIn:
    """What a technician hands in at one time, and the job that it comes to."""

    submission: str
    events: Sequence[FieldEvent]
    pictures: Sequence[TakenPicture]
    job: Job


class Office(Protocol):
    """What the field needs of an office."""

    def log(self, planner: Person, asked: OrderToMatch, report: str) -> Order:
        """Log an order now."""

    def plan(self, planner: Person, order: str, technician: str, at: datetime) -> None:
        """Give an order to a technician."""

    def call_off(self, planner: Person, order: str, reason: str) -> None:
        """Cancel an order."""

    def job_of(self, order: Order) -> Job:
        """What was recorded on an order so far."""

    def take_in(self, technician: Person, order: str, handed: HandedIn) -> None:
        """Take in what was recorded and photographed."""

    def read(self, engineer: Person, order: str) -> None:
        """Note that a job was read."""

    def settle(self) -> None:
        """Be sure that all that was handed in is kept."""


@dataclass(frozen=True, slots=True)
class OneByOne:
    """An office that is handed one thing at a time, through the services."""

    context: Context

    def log(self, planner: Person, asked: OrderToMatch, report: str) -> Order:
        """As :class:`Office`."""
        return log_order(self.context, planner, asked, report)

    def plan(self, planner: Person, order: str, technician: str, at: datetime) -> None:
        """As :class:`Office`."""
        plan_visit(self.context, planner, order, technician, at)

    def call_off(self, planner: Person, order: str, reason: str) -> None:
        """As :class:`Office`."""
        cancel_order(self.context, planner, order, reason)

    def job_of(self, order: Order) -> Job:
        """As :class:`Office`."""
        with self.context.reading() as unit:
            return replay(order.runsheet, unit.recorded.events(order.id))

    def take_in(self, technician: Person, order: str, handed: HandedIn) -> None:
        """As :class:`Office`."""
        for taken in handed.pictures:
            data = picture_of(taken.shown)
            keep_picture(self.context, technician, order, taken.id, data, question=taken.question)
        submit_events(self.context, technician, order, handed.submission, handed.events)

    def read(self, engineer: Person, order: str) -> None:
        """As :class:`Office`."""
        mark_reviewed(self.context, engineer, order, "")

    def settle(self) -> None:
        """As :class:`Office`."""


class PastJobWriter(Protocol):
    """Writes histories."""

    def write(self, now: datetime, jobs: Sequence[PastJob], numbers: Mapping[str, int]) -> None:
        """Take in past jobs, at the latest when :meth:`finish` comes back; as :func:`take_in_past_jobs`."""

    def finish(self) -> None:
        """Be sure that all of it is kept. Raises what went wrong in writing."""


@dataclass(frozen=True, slots=True)
class WritesHere:
    """Writes at once, in this process."""

    context: Context

    def write(self, now: datetime, jobs: Sequence[PastJob], numbers: Mapping[str, int]) -> None:
        """As :class:`PastJobWriter`."""
        take_in_past_jobs(replace(self.context, clock=lambda: now), jobs, numbers)

    def finish(self) -> None:
        """As :class:`PastJobWriter`."""


@dataclass(slots=True)
class Together:
    """An office that keeps a history by itself and hands it in together, as often as ``most_held`` orders are held.

    Orders are carried out to their end one after the other: those before the one that is logged do not change again.
    """

    context: Context
    writer: PastJobWriter
    most_held: int | None = None
    past: dict[str, PastJob] = field(default_factory=dict)
    number: int = 0
    ready: Readied | None = None
    trials: Mapping[str, Trial] | None = None
    opened: ExitStack = field(default_factory=ExitStack)
    unit: Unit | None = None

    def log(self, planner: Person, asked: OrderToMatch, report: str) -> Order:
        """As :class:`Office`."""
        now = self.context.clock()
        if len(self.past) == self.most_held:
            self._hand_in()
        # What is written meanwhile is no guidance, so that one reading serves for every order until all is settled.
        unit = self.unit = self.unit or self.opened.enter_context(self.context.reading())
        self.ready = self.ready or guidance_in_force(unit)
        if self.trials is None:
            self.trials = unit.trials.under_way()
        matched, taking = match_with_trials(
            unit, asked, now, report=report, ready=self.ready, under_way=self.trials
        )
        self.number += 1
        order = as_logged(
            matched,
            asked,
            identity=f"WO-{self.number:04d}",
            report=report,
            at=now,
            person=planner,
        )
        self.past[order.id] = PastJob(
            order=order, job=Job(), submissions=(), changes=(), pictures=(), trials=taking
        )
        return order

    def plan(self, planner: Person, order: str, technician: str, at: datetime) -> None:
        """As :class:`Office`."""
        before = self.past[order].order
        self._change(
            planner, "planned", order, replace(before, technician=technician, planned_for=at, state="Planned")
        )

    def call_off(self, planner: Person, order: str, reason: str) -> None:
        """As :class:`Office`."""
        before = self.past[order].order
        self._change(planner, "cancelled", order, replace(before, state="Cancelled", review_note=reason))

    def job_of(self, order: Order) -> Job:
        """As :class:`Office`."""
        return self.past[order.id].job

    def take_in(self, technician: Person, order: str, handed: HandedIn) -> None:
        """As :class:`Office`."""
        now, held = self.context.clock(), self.past[order]
        job = handed.job
        state = job_state(job)
        assert state is not None
        receipt = Receipt(
            submission=handed.submission,
            order=order,
            n_events=len(handed.events),
            state=state,
            received_at=now,
            n_recorded=sum(len(s.events) for s in held.submissions) + len(handed.events),
        )
        kept = list(held.pictures)
        for taken in handed.pictures:
            data, look = picture_of(taken.shown), _look_of(taken.shown) if taken.is_photo else None
            others = {one.id: one.look.fingerprint for one, _ in kept if one.look is not None}
            picture = Picture(
                id=taken.id,
                sha256=hash_of(data),
                media_type="image/jpeg",
                width=WIDTH,
                height=HEIGHT,
                taken_at=now,
                person=technician.id,
                order=order,
                look=look,
                same_as=(look and same_photo(look, others)) or "",
            )
            kept.append((picture, data))
        self.past[order] = replace(
            held,
            job=job,
            order=replace(held.order, state=state_after(held.order.state, job), finished_at=job.finished_at),
            submissions=(
                *held.submissions,
                PastSubmission(receipt=receipt, person=technician.id, events=tuple(handed.events)),
            ),
            pictures=tuple(kept),
        )

    def read(self, engineer: Person, order: str) -> None:
        """As :class:`Office`."""
        before = self.past[order].order
        read = replace(before, state="Reviewed", reviewed_at=self.context.clock(), reviewed_by=engineer.id)
        self._change(engineer, "reviewed", order, read)

    def settle(self) -> None:
        """As :class:`Office`."""
        self.opened.close()
        self.unit = self.ready = self.trials = None
        self._hand_in()
        self.writer.finish()

    def _hand_in(self) -> None:
        self.writer.write(self.context.clock(), tuple(self.past.values()), {"WO": self.number})
        self.past.clear()

    def _change(self, person: Person, act: ChangeAct, order: str, after: Order) -> None:
        held = self.past[order]
        change: dict[str, Any] = {"before": standing_of(held.order), "after": standing_of(after)}
        made = Change(
            batch=self.context.new_id(),
            at=self.context.clock(),
            person=person.id,
            subject="order",
            key=order,
            act=act,
            **change,
        )
        self.past[order] = replace(held, order=after, changes=(*held.changes, made))
