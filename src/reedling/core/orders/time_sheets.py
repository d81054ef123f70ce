"""A technician's time sheet: what the visits of each day come to, by themselves."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime

from reedling.core.register.assets import Site, day_on_site
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.visit_times import times_of


@dataclass(frozen=True, slots=True, kw_only=True)
class TimeSheetLine:
    """One visit: its times, and what they come to in minutes; nothing where a time is missing.

    ``corrected`` says that one of its times was put right.
    """

    order: str
    site: str
    headed_out_at: datetime
    arrived_at: datetime | None
    left_at: datetime | None
    travel: float | None
    on_site: float | None
    breaks: float
    corrected: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TimeSheetDay:
    """A day with its visits in time; minutes of travel, on site and on breaks are those of visits that have them."""

    day: date
    lines: tuple[TimeSheetLine, ...]
    travel: float
    on_site: float
    breaks: float


def time_sheet(jobs: Iterable[tuple[str, Site, Job]], first: date, last: date) -> tuple[TimeSheetDay, ...]:
    """The days from ``first`` to ``last`` on which a visit was begun, the latest first; days are those at the site."""
    by_day: dict[date, list[TimeSheetLine]] = {}
    for order, site, job in jobs:
        for visit in job.visits:
            day = day_on_site(site, visit.headed_out_at)
            if not first <= day <= last:
                continue
            times = times_of(visit)
            by_day.setdefault(day, []).append(
                TimeSheetLine(
                    order=order,
                    site=site.name,
                    headed_out_at=visit.headed_out_at,
                    arrived_at=visit.arrived_at,
                    left_at=visit.left_at,
                    travel=times.travel,
                    on_site=times.on_site,
                    breaks=times.breaks,
                    corrected=bool(visit.corrections),
                )
            )
    return tuple(
        TimeSheetDay(
            day=day,
            lines=tuple(sorted(lines, key=lambda line: (line.headed_out_at, line.order))),
            travel=sum(line.travel or 0.0 for line in lines),
            on_site=sum(line.on_site or 0.0 for line in lines),
            breaks=sum(line.breaks for line in lines),
        )
        for day, lines in sorted(by_day.items(), reverse=True)
    )
