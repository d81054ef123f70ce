"""Decide on what a job could not take in: take it in all the same, or set it aside with a reason."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from reedling.core.orders.receipts import Decision, LooseRecord
from reedling.core.people import Person
from reedling.core.runsheet.events import by_right_clock
from reedling.core.runsheet.job import record_late, replay
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.context import Context
from reedling.services.shared.late_records import keep_late
from reedling.services.shared.needed import need_order
from reedling.services.shared.recording import check_references
from reedling.store.unit import Unit


def take_in(context: Context, person: Person, submissions: Sequence[str]) -> tuple[LooseRecord, ...]:
    """Take loose records in, as they were received, all or none.

    Their events go on the job as it stands, whether or not anybody is on site. A closed order stays closed;
    its figures are worked out anew.

    Raises
    ------
    Conflict
        ``loose_records.decided`` when somebody decided on one already; what
        :func:`reedling.core.runsheet.job.record_late` raises, with nothing changed.
    """
    with context.writing() as unit:
        records = _need_open(unit, submissions)
        for loose in records:
            _put_on_job(context, unit, person, loose)
        return tuple(_decide(context, unit, person, loose, "taken in") for loose in records)


def set_aside(
    context: Context, person: Person, submissions: Sequence[str], reason: str
) -> tuple[LooseRecord, ...]:
    """Leave loose records beside their order for good, with a reason; they stay readable."""
    if not reason.strip():
        raise InvalidInput("loose_records.reason", "say why it is set aside.")
    with context.writing() as unit:
        return tuple(
            _decide(context, unit, person, loose, "set aside", reason=reason.strip())
            for loose in _need_open(unit, submissions)
        )


def _put_on_job(context: Context, unit: Unit, person: Person, loose: LooseRecord) -> None:
    order = need_order(unit, loose.order)
    ahead = unit.recorded.ahead_s(loose.submission)
    events = [by_right_clock(event, ahead) for event in loose.events]
    before = replay(order.runsheet, unit.recorded.events(order.id))
    received_at = max(unit.recorded.received_at(order.id) or loose.received_at, loose.received_at)
    lists = unit.catalogues.get()
    for n, event in enumerate(events):
        check_references(unit, order, lists, record_late(order.runsheet, before, events[:n]), event)
    job = record_late(order.runsheet, before, events)
    unit.recorded.add_events(order.id, loose.submission, loose.person, loose.events)
    keep_late(context, unit, person, order, before, job, events, received_at)


def _need_open(unit: Unit, submissions: Sequence[str]) -> list[LooseRecord]:
    """The loose records that nobody has decided on, as they were received."""
    found = []
    for submission in submissions:
        loose = unit.loose_records.get(submission)
        if loose is None:
            raise NotFound("loose_records.unknown", f"there is no loose record {submission}.")
        if loose.decision is not None:
            raise Conflict("loose_records.decided", f"it was {loose.decision} already.", where=loose.order)
        found.append(loose)
    return sorted(found, key=lambda record: (record.received_at, submissions.index(record.submission)))


def _decide(
    context: Context, unit: Unit, person: Person, loose: LooseRecord, decision: Decision, *, reason: str = ""
) -> LooseRecord:
    decided = replace(
        loose, decision=decision, decided_at=context.clock(), decided_by=person.id, reason=reason
    )
    unit.loose_records.decide(decided)
    return decided
