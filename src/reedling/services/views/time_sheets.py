"""A technician's own time sheet."""

from __future__ import annotations

from datetime import timedelta

from reedling.core.orders.time_sheets import TimeSheetDay, time_sheet
from reedling.core.people import Person
from reedling.core.register.assets import day_on_site
from reedling.core.runsheet.job import replay
from reedling.services.context import Context
from reedling.services.shared.needed import need_order

MOST_DAYS = 62
"""Days of one time sheet."""


def own_time_sheet(context: Context, person: Person, days: int) -> tuple[TimeSheetDay, ...]:
    """The days up to today on which the technician set off to one of their orders, the latest first."""
    now = context.clock()
    since = now - timedelta(days=days + 1)
    with context.reading() as unit:
        jobs = []
        for heading in unit.orders.headings(technician=person.id):
            if heading.finished_at is not None and heading.finished_at < since:
                continue
            if heading.state in ("Logged", "Planned"):
                continue
            order = need_order(unit, heading.id)
            jobs.append((order.id, order.site, replay(order.runsheet, unit.recorded.events(order.id))))
        today = max((day_on_site(site, now) for _, site, _ in jobs), default=now.date())
        return time_sheet(jobs, today - timedelta(days=days - 1), today)
