"""Take in what a device recorded: each submission is applied once, whole or not at all."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import MAXYEAR, datetime

from reedling.core.evidence.job_summary import JobSummary
from reedling.core.evidence.steps import StepRecord, step_records
from reedling.core.guidance.catalogue import Catalogue
from reedling.core.orders.orders import Order
from reedling.core.orders.receipts import Receipt
from reedling.core.orders.states import takes_records
from reedling.core.people import Person
from reedling.core.register.assets import MeterState
from reedling.core.runsheet.events import Answered, Coded, FieldEvent, PartUsed
from reedling.core.runsheet.job import Job, job_run, job_state, record, replay
from reedling.core.runsheet.progress import laid_question, write_backs
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.exchange.content import dump_value
from reedling.services.context import Context
from reedling.services.shared.first_time import Related, note_returns, related_symptoms, summary_of
from reedling.services.shared.lists import keep_list_changes
from reedling.services.shared.needed import need_order
from reedling.services.shared.register import entries_of_assets
from reedling.store.unit import Unit

MAX_EVENTS = 500
"""Events of one submission; a device with more sends several."""


@dataclass(frozen=True, slots=True, kw_only=True)
class _Applied:
    """A submission worked out: what it makes of the order, or the receipt of the first time."""

    order: Order
    job: Job
    records: tuple[StepRecord, ...]
    summary: JobSummary | None
    related: Related
    held: Receipt | None


def submit_events(
    context: Context,
    person: Person,
    order_id: str,
    submission: str,
    events: Sequence[FieldEvent],
    *,
    recorded_by: str | None = None,
    sent_at: datetime | None = None,
) -> Receipt:
    """Apply a submission to an order; a repeat is answered with the first receipt.

    ``sent_at`` is the device's own clock at sending, from which its error is measured and kept: a clock
    that runs fast or slow is no reason to refuse. What follows is worked out while others read and write.

    Raises
    ------
    NotFound
        ``orders.unknown`` when the order is not this technician's.
    Conflict
        ``submissions.person`` when ``recorded_by`` is somebody else; ``submissions.reused`` when the identity was used for something else, with nothing applied; what
        :func:`reedling.core.runsheet.job.record` raises.
    """
    if recorded_by is not None and recorded_by != person.id:
        raise Conflict(
            "submissions.person",
            "somebody else recorded this on the device.",
            where=order_id,
            hint="It is kept there and goes when that person signs in.",
        )
    now = context.clock()
    digest = _digest(events)

    def prepare(unit: Unit) -> _Applied:
        held = _held(unit, person, order_id, submission, digest)
        order = need_order(unit, order_id) if held else _own_order(unit, person, order_id)
        job = replay(order.runsheet, unit.orders.events(order_id))
        if held is None:
            job = _after(unit, order, job, events)
        records = step_records(order_id, order.runsheet, job)
        return _Applied(
            order=order,
            job=job,
            records=records,
            summary=summary_of(order, job, records, now),
            related=related_symptoms(unit),
            held=held,
        )

    def write(unit: Unit, applied: _Applied) -> Receipt:
        if applied.held is not None:
            return applied.held
        order, job = applied.order, applied.job
        state = job_state(job) or order.state
        receipt = Receipt(
            submission=submission, order=order_id, n_events=len(events), state=state, received_at=now
        )
        ahead = (sent_at - now).total_seconds() if sent_at is not None else None
        unit.orders.add_events(receipt, person.id, events, digest=digest, ahead_s=ahead)
        unit.summaries.note_codes(order_id, events)
        order = replace(order, state=state, finished_at=job.finished_at)
        if state == "Finished":
            before = entries_of_assets(unit, [order.asset.code])
            order = _write_back(unit, order, job, applied.summary)
            after = entries_of_assets(unit, [order.asset.code])
            keep_list_changes(
                context, unit, person, "assets", before, after, note=f"written back by {order_id}"
            )
        unit.orders.save(order)
        unit.orders.replace_step_records(
            order_id,
            applied.records,
            incident_type=order.incident_type,
            closed=applied.summary is not None,
        )
        if applied.summary is not None:
            unit.summaries.add(applied.summary, applied.records)
            note_returns(unit, order.asset.code, applied.related)
        return receipt

    return context.change(prepare, write, on=lambda unit: unit.orders.mark(order_id, submission))


def _digest(events: Sequence[FieldEvent]) -> str:
    """The content of a submission in one line, to tell a repeat from another use of its identity."""
    text = json.dumps([dump_value(e) for e in events], sort_keys=True, ensure_ascii=True)
    return hashlib.sha256(text.encode()).hexdigest()


def _held(unit: Unit, person: Person, order_id: str, submission: str, digest: str) -> Receipt | None:
    """The first receipt, where exactly this was applied before."""
    held = unit.orders.receipt(submission)
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


def _own_order(unit: Unit, person: Person, order_id: str) -> Order:
    order = need_order(unit, order_id)
    if order.technician != person.id:
        raise NotFound("orders.unknown", f"there is no order {order_id} for you.")
    return order


def _after(unit: Unit, order: Order, job: Job, events: Sequence[FieldEvent]) -> Job:
    """The job after these events, each checked against those before it."""
    if not takes_records(order.state):
        raise Conflict("orders.state", f"it is {order.state.lower()}.", where=order.id)
    if not events:
        raise InvalidInput("submissions.empty", "a submission has at least one event.", where=order.id)
    if len(events) > MAX_EVENTS:
        raise InvalidInput(
            "submissions.long",
            f"a submission may have {MAX_EVENTS} events, this has {len(events)}.",
            where=order.id,
            hint="Send it in several.",
        )
    lists = unit.catalogues.get()
    for event in events:
        _check_time(event)
        _check_references(unit, order, lists, job, event)
        job = record(order.runsheet, job, event)
    return job


def _check_time(event: FieldEvent) -> None:
    if event.at.tzinfo is None:
        raise InvalidInput("events.zone", "a time needs its zone.", where=event.kind.capitalize())
    if not 1 < event.at.year < MAXYEAR:
        raise InvalidInput(
            "events.time", f"the year {event.at.year} cannot be.", where=event.kind.capitalize()
        )


def _check_references(unit: Unit, order: Order, lists: Catalogue, job: Job, event: FieldEvent) -> None:
    """An event may name only parts, causes, remedies and pictures that exist."""
    known = True
    named = ""
    if isinstance(event, PartUsed):
        known, named = event.part in {p.code for p in lists.parts}, f"part {event.part}"
    elif isinstance(event, Coded):
        if event.cause not in {c.code for c in lists.causes}:
            known, named = False, f"cause {event.cause}"
        elif event.remedy not in {r.code for r in lists.remedies}:
            known, named = False, f"remedy {event.remedy}"
    elif isinstance(event, Answered):
        found = laid_question(job_run(order.runsheet, job), event.question)
        if found and found[1].kind in ("photo", "signature"):
            picture = unit.pictures.get(str(event.value))
            known, named = picture is not None and picture.order == order.id, "picture of that name"
    if not known:
        raise InvalidInput("events.unknown_code", f"there is no {named}.", where=event.kind.capitalize())


def _write_back(unit: Unit, order: Order, job: Job, summary: JobSummary | None) -> Order:
    """Write the answers that say so to the asset and the order; the order as it is then."""
    assert summary is not None
    fields = dict(order.fields)
    for back in write_backs(job_run(order.runsheet, job)):
        whose, field = back.field.split(".", 1)
        if whose == "meter" and isinstance(back.after, int | float):
            state = MeterState(
                asset=order.asset.code,
                meter=field,
                value=float(back.after),
                at=summary.known_at,
                order=order.id,
            )
            unit.register.add_meter_reading(state)
        elif whose == "asset" and field == "serial":
            unit.register.set_serial(order.asset.code, str(back.after))
        elif whose == "asset":
            unit.register.set_fields(order.asset.code, {field: back.after})
        elif whose == "order":
            fields[field] = back.after
    return replace(order, fields=fields)
