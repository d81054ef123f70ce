"""Put further events on a job whose figures may have been counted already."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from reedling.core.evidence.steps import step_records
from reedling.core.orders.orders import Order
from reedling.core.orders.receipts import Receipt
from reedling.core.people import Person
from reedling.core.runsheet.events import FieldEvent
from reedling.core.runsheet.job import record_from_office, replay
from reedling.core.runsheet.job_checks import OfficeEvent
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.site_events import TimeCorrected
from reedling.services.context import Context
from reedling.services.shared.first_time import summary_of
from reedling.services.shared.needed import need_order
from reedling.services.shared.recording import WorkedOut, keep_job, work_out
from reedling.store.unit import Unit


def keep_late(
    context: Context,
    unit: Unit,
    person: Person,
    order: Order,
    before: Job,
    after: Job,
    events: Sequence[FieldEvent],
    received_at: datetime,
) -> None:
    """Write what further events made of a job; a closed order stays closed, its figures are worked out anew."""
    counted = work_out(unit, order, before, received_at)
    if counted.summary is not None:
        _uncount(unit, order, counted)
    keep_job(context, unit, person, work_out(unit, order, after, received_at), events)


def record_on_job(
    context: Context, unit: Unit, person: Person, order: Order, event: OfficeEvent | TimeCorrected
) -> None:
    """Record on a job what the office or a colleague did about it; raises what :func:`record_from_office` raises."""
    before = replay(order.runsheet, unit.recorded.events(order.id))
    after = record_from_office(order.runsheet, before, event)
    received_at = unit.recorded.received_at(order.id) or event.at
    receipt = Receipt(
        submission=context.new_id(),
        order=order.id,
        n_events=1,
        state=order.state,
        received_at=event.at,
        loose="",
        n_recorded=unit.recorded.n_events(order.id) + 1,
    )
    unit.recorded.add_submission(receipt, person.id, digest="")
    unit.recorded.add_events(order.id, receipt.submission, person.id, [event])
    keep_late(context, unit, person, order, before, after, [event], received_at)


def _uncount(unit: Unit, order: Order, counted: WorkedOut) -> None:
    """Take a finished job out of the figures, and put back what earlier jobs on the asset answered last."""
    assert counted.summary is not None
    unit.summaries.forget(counted.summary, counted.records)
    for other in unit.job_figures.orders_on((order.asset.code,)):
        if other.order == order.id:
            continue
        found = need_order(unit, other.order)
        job = replay(found.runsheet, unit.recorded.events(found.id))
        records = step_records(found.id, found.runsheet, job)
        summary = summary_of(found, job, records, unit.recorded.received_at(found.id))
        if summary is not None:
            unit.summaries.keep_answers([summary])
