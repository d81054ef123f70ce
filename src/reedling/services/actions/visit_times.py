"""Put the times of a visit right from the office, also once its job is finished."""

from __future__ import annotations

from datetime import datetime

from reedling.core.people import Person
from reedling.core.runsheet.site_events import TimeCorrected, TimeOfVisit
from reedling.services.context import Context
from reedling.services.shared.late_records import record_on_job
from reedling.services.shared.needed import need_order


def correct_time(
    context: Context, person: Person, order_id: str, visit: int, time: TimeOfVisit, to: datetime, reason: str
) -> None:
    """Correct a time of a visit, counted from 1; what was recorded stays beside it, and figures follow.

    Raises
    ------
    NotFound
        ``orders.unknown``.
    InvalidInput, Conflict
        What :func:`reedling.core.runsheet.visit_times.check_correction` raises.
    """
    event = TimeCorrected(at=context.clock(), visit=visit, time=time, to=to, reason=reason, by_office=True)
    with context.writing() as unit:
        record_on_job(context, unit, person, need_order(unit, order_id), event)
