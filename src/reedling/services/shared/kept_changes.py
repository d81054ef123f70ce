"""Keep who changed what, from what to what: for lists, places, orders, people and drafts thrown away."""

from __future__ import annotations

from typing import Any

from reedling.core.changes import Change, ChangeAct, ChangeSubject
from reedling.core.orders.orders import Order
from reedling.core.people import Person
from reedling.services.context import Context
from reedling.store.unit import Unit


def keep_change(
    context: Context,
    unit: Unit,
    person: Person | None,
    subject: ChangeSubject,
    key: str,
    act: ChangeAct,
    *,
    before: Any = None,
    after: Any = None,
    note: str = "",
    batch: str = "",
) -> str:
    """Keep one change; gives its batch, which others done at the same time may share."""
    change = Change(
        batch=batch or context.new_id(),
        at=context.clock(),
        person=person.id if person else None,
        subject=subject,
        key=key,
        act=act,
        before=before,
        after=after,
        note=note,
    )
    unit.changes.add([change])
    return change.batch


def keep_order_change(
    context: Context, unit: Unit, person: Person, act: ChangeAct, before: Order, after: Order
) -> None:
    """Keep what somebody at a desk did to an order."""
    keep_change(
        context, unit, person, "order", before.id, act, before=standing_of(before), after=standing_of(after)
    )


def standing_of(order: Order) -> dict[str, Any]:
    """What is kept of how an order stood before and after somebody at a desk did something to it."""
    return {
        "state": order.state,
        "technician": order.technician,
        "planned_for": order.planned_for.isoformat() if order.planned_for else None,
        "note": order.review_note,
    }
