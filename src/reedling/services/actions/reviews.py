"""Note that a finished job was read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from reedling.core.evidence.jobs import EvidenceRead
from reedling.core.evidence.unusual import unusual
from reedling.core.orders.states import UNREAD
from reedling.core.people import Person
from reedling.errors import Conflict, InvalidInput
from reedling.services.context import Context
from reedling.services.shared.current import current_revision
from reedling.services.shared.kept_changes import keep_order_change
from reedling.services.shared.needed import need_order

MOST_AT_ONCE = 500


def mark_plain_reviewed(context: Context, person: Person, orders: Sequence[str]) -> int:
    """Note that several finished jobs with nothing unusual about them were read; gives how many.

    One that was read meanwhile is passed over.

    Raises
    ------
    InvalidInput
        ``completions.unusual`` when one of them has something unusual about it: it is to be read by itself;
        ``completions.many`` beyond :data:`MOST_AT_ONCE`. Nothing is marked then.
    """
    if len(orders) > MOST_AT_ONCE:
        raise InvalidInput(
            "completions.many", f"at most {MOST_AT_ONCE} are marked at once.", where="Completions"
        )
    with context.reading() as unit:
        found = [line.order for line in unit.job_figures.lines_of(orders) if unusual(line).score > 0]
    if found:
        raise InvalidInput(
            "completions.unusual",
            f"{', '.join(found[:3])} has something unusual about it.",
            where="Completions",
            hint="Read it by itself.",
        )
    n_marked = 0
    for order in orders:
        try:
            mark_reviewed(context, person, order, "")
            n_marked += 1
        except Conflict:
            continue
    return n_marked


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


def note_evidence_read(context: Context, person: Person, incident_type: str) -> None:
    """Note that somebody read what the field made of an incident type."""
    with context.writing() as unit:
        current_revision(unit, incident_type, ("incident type",))
        unit.evidence_reads.put(
            EvidenceRead(incident_type=incident_type, at=context.clock(), person=person.id)
        )
