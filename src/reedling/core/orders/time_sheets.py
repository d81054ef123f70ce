"""A technician's time sheet: what the visits of each day come to, by themselves."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date, datetime

from reedling.core.register.assets import Site, day_on_site
from reedling.core.register.distances import position_of, ways_between
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.visit_times import times_of


@dataclass(frozen=True, slots=True, kw_only=True)
class TimeSheetLine:
    """One visit: its times, and what they come to in minutes; nothing where a time is missing.

    ``corrected`` says that one of its times was put right. ``km`` is the way to its site from that of the visit before it
    on the same day, in a straight line; nothing for the first, or where the place of a site is not known.
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
    km: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class TimeSheetDay:
    """A day with its visits in time; minutes of travel, on site and on breaks, and kilometres between sites, are those of
    visits that have them."""

    day: date
    lines: tuple[TimeSheetLine, ...]
    travel: float
    on_site: float
    breaks: float
    km: float


def time_sheet(jobs: Iterable[tuple[str, Site, Job]], first: date, last: date) -> tuple[TimeSheetDay, ...]:
    """The days from ``first`` to ``last`` on which a visit was begun, the latest first; days are those at the site."""
    by_day: dict[date, list[tuple[TimeSheetLine, Site]]] = {}
    for order, site, job in jobs:
        for visit in job.visits:
            day = day_on_site(site, visit.headed_out_at)
            if not first <= day <= last:
                continue
            times = times_of(visit)
            line = TimeSheetLine(
                order=order,
                site=site.name,
                headed_out_at=visit.headed_out_at,
                arrived_at=visit.arrived_at,
                left_at=visit.left_at,
                travel=times.travel,
                on_site=times.on_site,
                breaks=times.breaks,
                corrected=bool(visit.corrections),
                km=None,
            )
            by_day.setdefault(day, []).append((line, site))
    return tuple(_day(day, visits) for day, visits in sorted(by_day.items(), reverse=True))


def _day(day: date, visits: list[tuple[TimeSheetLine, Site]]) -> TimeSheetDay:
    in_time = sorted(visits, key=lambda visit: (visit[0].headed_out_at, visit[0].order))
    ways = ways_between(position_of(site) for _, site in in_time)
    lines = tuple(replace(line, km=km) for (line, _), km in zip(in_time, ways, strict=True))
    return TimeSheetDay(
        day=day,
        lines=lines,
        travel=sum(line.travel or 0.0 for line in lines),
        on_site=sum(line.on_site or 0.0 for line in lines),
        breaks=sum(line.breaks for line in lines),
        km=sum(line.km or 0.0 for line in lines),
    )
