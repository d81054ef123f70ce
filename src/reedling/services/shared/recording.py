"""Put recorded events on a job: what they may name, and everything that is kept of the job after them."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from uuid import UUID

from reedling.core.evidence.job_summary import JobSummary
from reedling.core.evidence.steps import StepRecord, step_records
from reedling.core.guidance.catalogue import Catalogue
from reedling.core.orders.orders import Order
from reedling.core.orders.states import state_after
from reedling.core.people import Person
from reedling.core.register.assets import MeterState
from reedling.core.runsheet.events import Answered, Coded, FieldEvent, HelpAsked, PartUsed
from reedling.core.runsheet.job_runs import job_run
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.progress import laid_question, write_backs
from reedling.core.runsheet.site_events import EquipmentFound, FixMarked, PartAsked, SignedOff, StepAdded
from reedling.errors import InvalidInput
from reedling.exchange.content import dump_value
from reedling.services.context import Context
from reedling.services.shared.first_time import Related, note_returns, related_symptoms, summary_of
from reedling.services.shared.lists import keep_list_changes
from reedling.services.shared.register import entries_of_assets
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkedOut:
    """What an order's job comes to with further events, worked out before it is written."""

    order: Order
    job: Job
    records: tuple[StepRecord, ...]
    summary: JobSummary | None
    related: Related


def work_out(unit: Unit, order: Order, job: Job, received_at: datetime) -> WorkedOut:
    """All that is kept of a job, given what was received by then."""
    records = step_records(order.id, order.runsheet, job)
    return WorkedOut(
        order=order,
        job=job,
        records=records,
        summary=summary_of(order, job, records, received_at),
        related=related_symptoms(unit),
    )


def keep_job(
    context: Context, unit: Unit, person: Person, found: WorkedOut, events: Sequence[FieldEvent]
) -> Order:
    """Write what further events made of a job; the order as it is then.

    A closed order stays as it is: what was read of it is not unread by a late record.
    """
    order, job = found.order, found.job
    unit.summaries.note_codes(order.id, events)
    order = replace(order, state=state_after(order.state, job), finished_at=job.finished_at)
    if found.summary is not None:
        before = entries_of_assets(unit, [order.asset.code])
        order = _write_back(unit, order, job, found.summary)
        after = entries_of_assets(unit, [order.asset.code])
        keep_list_changes(context, unit, person, "assets", before, after, note=f"written back by {order.id}")
    unit.orders.save(order)
    unit.help.keep(order.id, person.id, job)
    unit.site_records.keep(order.id, person.id, job)
    unit.part_asks.keep(order.id, order.technician or person.id, job)
    unit.recorded.replace_step_records(
        order.id, found.records, incident_type=order.incident_type, closed=found.summary is not None
    )
    if found.summary is not None:
        unit.summaries.add(found.summary, found.records)
        note_returns(unit, (order.asset.code,), found.related)
    return order


def check_references(unit: Unit, order: Order, lists: Catalogue, job: Job, event: FieldEvent) -> None:
    """An event may name only parts, causes and remedies that exist, and pictures of its own order.

    A picture may still be on its way: what was recorded never waits for it.

    Raises
    ------
    InvalidInput
        ``events.unknown_code``.
    """
    known = True
    named = ""
    if isinstance(event, PartUsed | PartAsked):
        known, named = event.part in {p.code for p in lists.parts}, f"part {event.part}"
        if known and isinstance(event, PartAsked):
            asked = unit.people.get(event.of)
            known = asked is not None and asked.role == "technician" and event.of != order.technician
            named = "technician of that name to ask"
    elif isinstance(event, StepAdded) and (event.standard or event.asset):
        known, named = _may_be_added(unit, order, event)
    elif isinstance(event, Coded | FixMarked):
        if event.cause not in {c.code for c in lists.causes}:
            known, named = False, f"cause {event.cause}"
        elif event.remedy not in {r.code for r in lists.remedies}:
            known, named = False, f"remedy {event.remedy}"
    elif isinstance(event, Answered):
        found = laid_question(job_run(order.runsheet, job), event.question)
        if found and found[1].kind in ("photo", "signature"):
            known, named = _may_be(unit, order, str(event.value)), "picture of that name"
    elif isinstance(event, HelpAsked | EquipmentFound | SignedOff) and event.picture is not None:
        known, named = _may_be(unit, order, event.picture), "picture of that name"
    if not known:
        raise InvalidInput("events.unknown_code", f"there is no {named}.", where=event.kind.capitalize())


def digest_of(events: Sequence[FieldEvent]) -> str:
    """The content of a submission in one line, to tell a repeat from another use of its identity."""
    text = json.dumps([dump_value(e) for e in events], sort_keys=True, ensure_ascii=True)
    return hashlib.sha256(text.encode()).hexdigest()


def _may_be(unit: Unit, order: Order, picture: str) -> bool:
    """Whether a picture is one of the order's, or may be on its way."""
    found = unit.pictures.get(picture)
    return found.order == order.id if found else _is_identity(picture)


def _may_be_added(unit: Unit, order: Order, event: StepAdded) -> tuple[bool, str]:
    """Whether a step added names a standard step and an asset of the order's site; else what it names."""
    if event.standard and unit.documents.kind(event.standard) != "standard step":
        return False, f"standard step {event.standard}"
    found = unit.register.assets_of({event.asset}).get(event.asset) if event.asset else None
    is_here = not event.asset or (found is not None and found.site.code == order.site.code)
    return is_here, f"asset {event.asset} at {order.site.name}"


def _is_identity(text: str) -> bool:
    try:
        return str(UUID(text)) == text.lower()
    except ValueError:
        return False


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
