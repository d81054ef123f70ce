"""Settle what the field recorded beside its steps."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from reedling.core.guidance.likeness import words_of
from reedling.core.orders.orders import Order
from reedling.core.people import Person
from reedling.core.runsheet.job import record_from_office, replay
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.site_events import RecordSettled, Settling
from reedling.errors import InvalidInput
from reedling.services.actions.catalogue import rewrite_list
from reedling.services.actions.orders import log_order
from reedling.services.actions.register import Rewritten, rewrite_register
from reedling.services.context import Context
from reedling.services.shared.late_records import record_on_job
from reedling.services.shared.lists import ListPage
from reedling.services.shared.matched import OrderToMatch
from reedling.services.shared.needed import need_asset, need_order
from reedling.store.unit import Unit


def match_part(
    context: Context, person: Person, order_id: str, record: str, part: str, *, remember: bool
) -> None:
    """Say which part of the catalogue a typed one is: it counts as that part from now on.

    With ``remember`` the spelling is kept with the part, and finds it at once when it is typed again.

    Raises
    ------
    InvalidInput
        ``events.unknown_code`` when there is no such part.
    Conflict
        ``jobs.site_record`` when there is no such record waiting.
    """
    with context.reading() as unit:
        if part not in {p.code for p in unit.catalogues.get().parts}:
            raise InvalidInput("events.unknown_code", f"there is no part {part}.", where=order_id)
        text = _job(unit, need_order(unit, order_id)).beside.parts
    settled = _settled(context, person, order_id, record, "matched", target=part)
    if remember and record in text:
        _remember(context, person, part, text[record].text, order_id, also=settled)
        return
    with context.writing() as unit:
        settled(unit)


def enter_equipment(
    context: Context,
    person: Person,
    order_id: str,
    record: str,
    *,
    asset: str,
    entry: Mapping[str, Any] | None = None,
) -> None:
    """Say which asset of the register found equipment is; with ``entry`` it is entered there first.

    Raises
    ------
    NotFound
        ``assets.unknown`` when there is no such asset.
    InvalidInput
        What entering it raises.
    Conflict
        ``jobs.site_record`` when there is no such record waiting.
    """
    _need_waiting(context, order_id, record, "entered", target=asset)
    settled = _settled(context, person, order_id, record, "entered", target=asset)
    if entry is not None:

        def entries_after(_before: ListPage) -> Rewritten:
            return Rewritten(put=((None, {**entry, "code": asset}),))

        note = f"found on {order_id}"
        rewrite_register(context, person, "assets", entries_after, note=note, also=settled)
        return
    with context.writing() as unit:
        need_asset(unit, asset)
        settled(unit)


def order_work(context: Context, person: Person, order_id: str, record: str, symptom: str) -> Order:
    """Log an order for further work that was recommended; gives the new order.

    Raises
    ------
    Conflict
        ``jobs.site_record`` when there is no such record waiting; what logging an order raises.
    """
    order, job = _need_waiting(context, order_id, record, "ordered")

    def settle(unit: Unit, made: Order) -> None:
        _settled(context, person, order_id, record, "ordered", target=made.id)(unit)

    return log_order(
        context,
        person,
        OrderToMatch(asset=order.asset.code, symptom=symptom),
        f"Recommended on {order_id}: {job.beside.work[record].text}",
        also=settle,
    )


def set_record_aside(context: Context, person: Person, order_id: str, record: str, reason: str) -> None:
    """Leave a site record as it is, with a reason.

    Raises
    ------
    Conflict
        ``jobs.site_record`` when there is no such record waiting.
    InvalidInput
        ``jobs.reason`` without one.
    """
    settled = _settled(context, person, order_id, record, "set aside", reason=reason)
    with context.writing() as unit:
        settled(unit)


def _job(unit: Unit, order: Order) -> Job:
    return replay(order.runsheet, unit.recorded.events(order.id))


def _need_waiting(
    context: Context, order_id: str, record: str, decision: Settling, *, target: str = ""
) -> tuple[Order, Job]:
    """The order and its job; refused, before anything else is refused, where the record cannot be settled so."""
    event = RecordSettled(at=context.clock(), record=record, decision=decision, target=target)
    with context.reading() as unit:
        order = need_order(unit, order_id)
        job = _job(unit, order)
    record_from_office(order.runsheet, job, event)
    return order, job


def _settled(
    context: Context,
    person: Person,
    order_id: str,
    record: str,
    decision: Settling,
    *,
    target: str = "",
    reason: str = "",
) -> Callable[[Unit], None]:
    """What writes that a record is settled, and is refused where it no longer waits: of two who settle it, one does."""
    event = RecordSettled(at=context.clock(), record=record, decision=decision, target=target, reason=reason)

    def write(unit: Unit) -> None:
        record_on_job(context, unit, person, need_order(unit, order_id), event)

    return write


def _remember(
    context: Context, person: Person, part: str, text: str, order_id: str, *, also: Callable[[Unit], None]
) -> None:
    def entries_after(before: ListPage) -> list[dict[str, Any]]:
        return [_with_spelling(e, text) if e["code"] == part else e for e in before.entries]

    rewrite_list(context, person, "parts", entries_after, note=f"typed on {order_id}", also=also)


def _with_spelling(entry: dict[str, Any], text: str) -> dict[str, Any]:
    held = [entry["name"], entry["code"], *entry["spellings"]]
    if any(list(words_of(one)) == list(words_of(text)) for one in held):
        return entry
    return {**entry, "spellings": [*entry["spellings"], text]}
