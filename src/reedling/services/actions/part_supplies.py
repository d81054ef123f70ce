"""Parts that come to a job from elsewhere: sent ahead by the office, or let go by a colleague."""

from __future__ import annotations

from reedling.core.orders.states import takes_parts
from reedling.core.people import Person
from reedling.core.runsheet.site_events import PartAskAnswered, PartSent
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.context import Context
from reedling.services.shared.late_records import record_on_job
from reedling.services.shared.needed import need_order


def send_part(context: Context, person: Person, order_id: str, part: str, quantity: float, text: str) -> None:
    """Send a part ahead of the visit; the technician confirms that it is there before it is used.

    Raises
    ------
    NotFound
        ``orders.unknown``.
    Conflict
        ``orders.state`` when nobody works on the order any more.
    InvalidInput
        ``events.unknown_code`` when there is no such part; what :func:`check_supply` raises.
    """
    event = PartSent(at=context.clock(), record=context.new_id(), part=part, quantity=quantity, text=text)
    with context.writing() as unit:
        order = need_order(unit, order_id)
        if not takes_parts(order.state):
            raise Conflict(
                "orders.state",
                f"{order_id} is {order.state.lower()}; nobody would use the part.",
                where=order_id,
            )
        if part not in {p.code for p in unit.catalogues.get().parts}:
            raise InvalidInput("events.unknown_code", f"there is no part {part}.", where=order_id)
        record_on_job(context, unit, person, order, event)


def answer_part_ask(
    context: Context, person: Person, order_id: str, record: str, *, granted: bool, text: str
) -> None:
    """Let a part go that a colleague asks for, or not.

    Raises
    ------
    NotFound
        ``parts.not_asked`` when this person is asked for no such part.
    Conflict
        ``jobs.supply`` when it was answered already.
    """
    event = PartAskAnswered(at=context.clock(), record=record, granted=granted, text=text)
    with context.writing() as unit:
        ask = unit.part_asks.get(order_id, record)
        if ask is None or ask.of != person.id:
            raise NotFound("parts.not_asked", "nobody asks you for such a part.", where=order_id)
        record_on_job(context, unit, person, need_order(unit, order_id), event)
