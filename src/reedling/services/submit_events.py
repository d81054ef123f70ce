"""Take in what a device recorded: each submission is applied once, whole or not at all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import timedelta

from reedling.core.evidence.steps import step_records
from reedling.core.guidance.catalogue import Catalogue
from reedling.core.runsheet.events import Answered, Coded, FieldEvent, PartUsed
from reedling.core.runsheet.job import Job, job_run, job_state, record, replay
from reedling.core.runsheet.progress import laid_question, write_backs
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.context import Context
from reedling.services.take_orders import need_order
from reedling.store.records import MeterState, Order, Person, Receipt
from reedling.store.unit import Unit

CLOCK_TOLERANCE = timedelta(minutes=10)
"""How far a device's clock may run ahead of ours."""


def submit_events(
    context: Context, person: Person, order_id: str, submission: str, events: Sequence[FieldEvent]
) -> Receipt:
    """Apply a submission to an order; a repeat is answered with the first receipt.

    Raises
    ------
    NotFound
        ``orders.unknown`` when the order is not this technician's.
    Conflict
        ``submissions.reused`` when the identity was used for something else; what
        :func:`reedling.core.runsheet.job.record` raises, with nothing applied.
    """
    now = context.clock()
    with context.store.writing() as unit:
        held = unit.orders.receipt(submission)
        if held is not None:
            if held[0] != person.id or held[1].order != order_id:
                raise Conflict("submissions.reused", "this identity was used before.", where=submission)
            return held[1]
        order = need_order(unit, order_id)
        if order.technician != person.id:
            raise NotFound("orders.unknown", f"there is no order {order_id} for you.")
        if order.state in ("Cancelled", "Reviewed", "Finished"):
            raise Conflict("orders.state", f"it is {order.state.lower()}.", where=order_id)
        if not events:
            raise InvalidInput("submissions.empty", "a submission has at least one event.", where=order_id)
        lists = unit.catalogues.get()
        job = replay(unit.orders.events(order_id))
        for event in events:
            if event.at.tzinfo is None:
                raise InvalidInput("events.zone", "a time needs its zone.", where=event.kind)
            if event.at > now + CLOCK_TOLERANCE:
                raise InvalidInput(
                    "events.future",
                    f"{event.at:%d %b %H:%M} is still to come.",
                    where=event.kind.capitalize(),
                    hint="Set the clock of the device.",
                )
            _check_references(unit, order, lists, job, event)
            job = record(order.runsheet, job, event)
        state = job_state(job) or order.state
        receipt = Receipt(
            submission=submission, order=order_id, n_events=len(events), state=state, received_at=now
        )
        unit.orders.add_events(receipt, person.id, events)
        order = replace(order, state=state, finished_at=job.finished_at)
        if state == "Finished":
            order = _write_back(unit, order, job)
        unit.orders.save(order)
        unit.orders.replace_step_records(order_id, step_records(order_id, order.runsheet, job))
        return receipt


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


def _write_back(unit: Unit, order: Order, job: Job) -> Order:
    """Write the answers that say so to the asset and the order; the order as it is then."""
    assert job.finished_at is not None
    fields = dict(order.fields)
    for back in write_backs(job_run(order.runsheet, job)):
        whose, field = back.field.split(".", 1)
        if whose == "meter" and isinstance(back.after, int | float):
            state = MeterState(
                asset=order.asset.id,
                meter=field,
                value=float(back.after),
                at=job.finished_at,
                order=order.id,
            )
            unit.places.add_meter_reading(state)
        elif whose == "asset" and field == "serial":
            unit.places.set_serial(order.asset.id, str(back.after))
        elif whose == "asset":
            unit.places.set_fields(order.asset.id, {field: back.after})
        elif whose == "order":
            fields[field] = back.after
    return replace(order, fields=fields)
