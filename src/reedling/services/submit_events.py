"""Take in what a device recorded: each submission is applied once, whole or not at all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import timedelta

from reedling.core.evidence.steps import step_records
from reedling.core.guidance.catalogue import Catalogue
from reedling.core.runsheet.events import Answered, Coded, FieldEvent, PartUsed
from reedling.core.runsheet.job import job_state, record, replay
from reedling.core.runsheet.lines import find_proof
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.context import Context
from reedling.services.take_orders import need_order
from reedling.store.records import Order, Person, Receipt
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
        job = replay(order.runsheet, unit.orders.events(order_id))
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
            _check_references(unit, order, lists, event)
            job = record(order.runsheet, job, event)
        state = job_state(job) or order.state
        receipt = Receipt(
            submission=submission, order=order_id, n_events=len(events), state=state, received_at=now
        )
        unit.orders.add_events(receipt, person.id, events)
        unit.orders.save(replace(order, state=state, finished_at=job.finished_at))
        unit.orders.replace_step_records(order_id, step_records(order_id, order.runsheet, job))
        return receipt


def _check_references(unit: Unit, order: Order, lists: Catalogue, event: FieldEvent) -> None:
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
        found = find_proof(order.runsheet, event.question)
        if found and found[1].kind == "photo":
            picture = unit.pictures.get(str(event.value))
            known, named = picture is not None and picture.order == order.id, "picture of that name"
    if not known:
        raise InvalidInput("events.unknown_code", f"there is no {named}.", where=event.kind.capitalize())
