"""Take in what a device recorded: each submission once, whole, on the job or beside the order."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import MAXYEAR, datetime

from reedling.core.orders.orders import Order
from reedling.core.orders.receipts import LooseRecord, Receipt
from reedling.core.orders.states import takes_records
from reedling.core.people import Person
from reedling.core.runsheet.events import FieldEvent, by_right_clock
from reedling.core.runsheet.job import record, replay
from reedling.core.runsheet.job_state import Job, job_state
from reedling.errors import Conflict, InvalidInput, NotFound, ReedlingError
from reedling.services.context import Context
from reedling.services.shared.needed import need_field_order, need_order
from reedling.services.shared.recording import WorkedOut, check_references, digest_of, keep_job, work_out
from reedling.store.unit import Unit

MAX_EVENTS = 500
"""Events of one submission; a device with more sends several."""


@dataclass(frozen=True, slots=True, kw_only=True)
class _Received:
    """A submission looked into: what it makes of the job, why the job cannot take it in, or the first receipt."""

    order: Order
    found: WorkedOut | None = None
    refusal: ReedlingError | None = None
    held: Receipt | None = None


def submit_events(
    context: Context,
    person: Person,
    order_id: str,
    submission: str,
    events: Sequence[FieldEvent],
    *,
    recorded_by: str | None = None,
    sent_at: datetime | None = None,
    checked: bool = True,
) -> Receipt:
    """Take in a submission; a repeat is answered with the first receipt.

    What the job cannot take in, because the order was changed, closed or given to somebody else meanwhile,
    is kept beside the order as a loose record; the receipt says why. Where the device did not hold the events
    against the rules (``checked``), what its sender can mend is refused instead, to be mended. ``sent_at`` is the device's own clock at
    sending, from which its error is measured and kept: a clock that runs fast or slow is no reason to refuse.
    What follows is worked out while others read and write.

    Raises
    ------
    NotFound
        ``orders.unknown`` when the order never was this technician's.
    Conflict
        ``submissions.person`` when ``recorded_by`` is somebody else; ``submissions.reused`` when the identity
        was used for something else. Nothing is kept then.
    InvalidInput
        ``submissions.empty``, ``submissions.long``, ``events.zone``, ``events.time``; where it was not
        ``checked``, what :func:`reedling.core.runsheet.job.record` raises. Nothing is kept.
    """
    if recorded_by is not None and recorded_by != person.id:
        raise Conflict(
            "submissions.person",
            "somebody else recorded this on the device.",
            where=order_id,
            hint="It is kept there and goes when that person signs in.",
        )
    _check_shape(order_id, events)
    now = context.clock()
    ahead = (sent_at - now).total_seconds() if sent_at is not None else None
    digest = digest_of(events)

    def prepare(unit: Unit) -> _Received:
        held = _held(unit, person, order_id, submission, digest)
        order = need_order(unit, order_id) if held else need_field_order(unit, order_id, person)
        if held is not None:
            return _Received(order=order, held=held)
        try:
            job = _job_after(unit, order, person, [by_right_clock(event, ahead) for event in events])
        except (Conflict, InvalidInput) as refusal:
            if isinstance(refusal, InvalidInput) and not checked:
                raise
            return _Received(order=order, refusal=refusal)
        return _Received(order=order, found=work_out(unit, order, job, now))

    def write(unit: Unit, received: _Received) -> Receipt:
        if received.held is not None:
            return received.held
        order, refusal = received.order, received.refusal
        state = job_state(received.found.job) if received.found else None
        receipt = Receipt(
            submission=submission,
            order=order_id,
            n_events=len(events),
            state=state or order.state,
            received_at=now,
            loose=str(refusal) if refusal else "",
            n_recorded=unit.recorded.n_events(order_id) + (0 if refusal else len(events)),
        )
        unit.recorded.add_submission(receipt, person.id, digest=digest, ahead_s=ahead)
        if refusal is not None:
            unit.loose_records.add(
                LooseRecord(
                    submission=submission,
                    order=order_id,
                    person=person.id,
                    received_at=now,
                    events=tuple(events),
                    code=refusal.code,
                    why=str(refusal),
                )
            )
            return receipt
        assert received.found is not None
        unit.recorded.add_events(order_id, submission, person.id, events)
        keep_job(context, unit, person, received.found, events)
        return receipt

    return context.change(prepare, write, on=lambda unit: unit.recorded.mark(order_id, submission))


@dataclass(frozen=True, slots=True, kw_only=True)
class Sent:
    """One submission of several that a device sends at once; what its parts mean says :func:`submit_events`."""

    order: str
    submission: str
    events: tuple[FieldEvent, ...]
    recorded_by: str | None = None
    checked: bool = True


def submit_several(
    context: Context, person: Person, sent: Sequence[Sent], *, sent_at: datetime | None = None
) -> tuple[Receipt | ReedlingError, ...]:
    """Take in submissions in the order they were recorded, each by itself: a receipt or a refusal for each.

    One that is refused holds up none behind it. Where the server cannot go on, what was dealt with before is
    answered and the rest is not: the device still has it. Raises what stopped the first.
    """
    out: list[Receipt | ReedlingError] = []
    for one in sent:
        try:
            out.append(
                submit_events(
                    context,
                    person,
                    one.order,
                    one.submission,
                    one.events,
                    recorded_by=one.recorded_by,
                    sent_at=sent_at,
                    checked=one.checked,
                )
            )
        except (InvalidInput, Conflict, NotFound) as refusal:
            out.append(refusal)
        except ReedlingError:
            if not out:
                raise
            break
    return tuple(out)


def _held(unit: Unit, person: Person, order_id: str, submission: str, digest: str) -> Receipt | None:
    """The first receipt, where exactly this was applied before."""
    held = unit.recorded.receipt(submission)
    if held is None:
        return None
    if (held.person, held.receipt.order) != (person.id, order_id) or held.digest not in ("", digest):
        raise Conflict(
            "submissions.reused",
            "this identity was used before, for something else; nothing of this was taken in.",
            where=submission,
            hint="Send it under an identity of its own.",
        )
    return held.receipt


def _check_shape(order_id: str, events: Sequence[FieldEvent]) -> None:
    if not events:
        raise InvalidInput("submissions.empty", "a submission has at least one event.", where=order_id)
    if len(events) > MAX_EVENTS:
        raise InvalidInput(
            "submissions.long",
            f"a submission may have {MAX_EVENTS} events, this has {len(events)}.",
            where=order_id,
            hint="Send it in several.",
        )
    for event in events:
        if event.at.tzinfo is None:
            raise InvalidInput("events.zone", "a time needs its zone.", where=event.kind.capitalize())
        if not 1 < event.at.year < MAXYEAR:
            raise InvalidInput(
                "events.time", f"the year {event.at.year} cannot be.", where=event.kind.capitalize()
            )


def _job_after(unit: Unit, order: Order, person: Person, events: Sequence[FieldEvent]) -> Job:
    """The job after these events, each checked against those before it."""
    if not takes_records(order.state):
        raise Conflict("orders.state", f"it is {order.state.lower()}.", where=order.id)
    if order.technician != person.id:
        goes = unit.people.names().get(order.technician or "", "nobody")
        raise Conflict("orders.given_away", f"it was given to {goes} meanwhile.", where=order.id)
    job = replay(order.runsheet, unit.recorded.events(order.id))
    lists = unit.catalogues.get()
    for event in events:
        check_references(unit, order, lists, job, event)
        job = record(order.runsheet, job, event)
    return job
