"""Note that a finished job was read."""

from __future__ import annotations

from dataclasses import replace

from reedling.core.orders.states import UNREAD
from reedling.core.people import Person
from reedling.errors import Conflict
from reedling.services.context import Context
from reedling.services.shared.kept_changes import keep_order_change
from reedling.services.shared.needed import need_order


def mark_reviewed(context: Context, person: Person, order_id: str, note: str) -> None:
    """Note that a finished job was read."""
    with context.writing() as unit:
        order = need_order(unit, order_id)
        if order.state != UNREAD:
            raise Conflict("orders.state", f"it is {order.state.lower()}, not finished.", where=order_id)
        read = replace(
            order,
            state="Reviewed",
            reviewed_at=context.clock(),
            reviewed_by=person.id,
            review_note=note.strip(),
        )
        unit.orders.save(read)
        keep_order_change(context, unit, person, "reviewed", order, read)
