"""Time sheets: a technician's own, and those of all for whoever plans."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta

from reedling.core.orders.time_sheets import TimeSheetDay, time_sheet
from reedling.core.people import Person
from reedling.core.register.assets import day_on_site
from reedling.core.runsheet.job import replay
from reedling.errors import InvalidInput
from reedling.exchange.csv_cells import cell_of
from reedling.services.context import Context
from reedling.services.shared.needed import need_order
from reedling.store.unit import Unit

MOST_DAYS = 62
"""Days of one time sheet."""
COLUMNS = (
    "technician",
    "district",
    "day",
    "order",
    "site",
    "headed_out",
    "arrived",
    "left",
    "travel_min",
    "on_site_min",
    "breaks_min",
    "corrected",
    "km_from_site_before",
)


@dataclass(frozen=True, slots=True, kw_only=True)
class TechnicianSheet:
    """The time sheet of one technician; ``n_visits``, minutes and kilometres are those of its days together."""

    person: str
    name: str
    district: str
    days: tuple[TimeSheetDay, ...]
    n_visits: int
    travel: float
    on_site: float
    breaks: float
    km: float


def own_time_sheet(context: Context, person: Person, days: int) -> tuple[TimeSheetDay, ...]:
    """The days up to today on which the technician set off to one of their orders, the latest first."""
    now = context.clock()
    with context.reading() as unit:
        return _sheet(unit, person, now - timedelta(days=days - 1), now)


def time_sheets(context: Context, first: date, last: date) -> tuple[TechnicianSheet, ...]:
    """The time sheets of all technicians from ``first`` to ``last``, by name; those without a visit are left out.

    Raises
    ------
    InvalidInput
        ``time_sheets.days`` for an order of days that cannot be, or too many.
    """
    if not 0 <= (last - first).days < MOST_DAYS:
        raise InvalidInput(
            "time_sheets.days",
            f"a time sheet goes from an earlier day to a later one, {MOST_DAYS} days at most.",
            where=f"{first} to {last}",
        )
    since = datetime.combine(first, time(12), UTC)
    until = datetime.combine(last, time(12), UTC)
    out = []
    with context.reading() as unit:
        for person in sorted(unit.people.all(), key=lambda p: p.name):
            days = _sheet(unit, person, since, until) if person.role == "technician" else ()
            if days:
                out.append(
                    TechnicianSheet(
                        person=person.id,
                        name=person.name,
                        district=person.district,
                        days=days,
                        n_visits=sum(len(day.lines) for day in days),
                        travel=sum(day.travel for day in days),
                        on_site=sum(day.on_site for day in days),
                        breaks=sum(day.breaks for day in days),
                        km=sum(day.km for day in days),
                    )
                )
    return tuple(out)


def _sheet(unit: Unit, person: Person, since: datetime, until: datetime) -> tuple[TimeSheetDay, ...]:
    """The days at the site on which a technician set off, from that of one instant to that of another."""
    jobs = []
    for heading in unit.orders.headings(technician=person.id):
        if heading.finished_at is not None and heading.finished_at < since - timedelta(days=2):
            continue
        if heading.logged_at > until + timedelta(days=2):
            continue
        if heading.state in ("Logged", "Planned"):
            continue
        order = need_order(unit, heading.id)
        jobs.append((order.id, order.site, replay(order.runsheet, unit.recorded.events(order.id))))
    first = min((day_on_site(site, since) for _, site, _ in jobs), default=since.date())
    last = max((day_on_site(site, until) for _, site, _ in jobs), default=until.date())
    return time_sheet(jobs, first, last)


def time_sheets_csv(context: Context, first: date, last: date) -> str:
    """The visits of :func:`time_sheets` as CSV (RFC 4180): times in UTC (ISO 8601), minutes as whole numbers, kilometres
    from the site before with one decimal."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for sheet in time_sheets(context, first, last):
        for day in sheet.days:
            for line in day.lines:
                writer.writerow(
                    [
                        cell_of(sheet.name),
                        cell_of(sheet.district),
                        day.day.isoformat(),
                        line.order,
                        cell_of(line.site),
                        *(_instant(at) for at in (line.headed_out_at, line.arrived_at, line.left_at)),
                        *(_whole(minutes) for minutes in (line.travel, line.on_site, line.breaks)),
                        "yes" if line.corrected else "",
                        "" if line.km is None else f"{line.km:.1f}",
                    ]
                )
    return out.getvalue()


def _instant(at: datetime | None) -> str:
    return at.isoformat(timespec="minutes") if at else ""


def _whole(minutes: float | None) -> str:
    return "" if minutes is None else str(round(minutes))
