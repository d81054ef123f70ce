"""What getting to the site of a finished job came to: minutes of travel, the way, and arrivals somewhere else."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime

from reedling.core.evidence.doubtful_times import Bounds, visit_doubts
from reedling.core.register.assets import Site, day_on_site
from reedling.core.register.distances import Position, km_off_site, position_of
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.visit_times import times_of

WAY = (
    "The way to the site from that of the visit before it, by the same technician on the same day at the site, in a "
    "straight line; visits of finished jobs count, those whose times cannot be do not. A job whose visits were each "
    "the first of a day has none."
)
"""The definition, as it is shown beside the figure."""


@dataclass(frozen=True, slots=True, kw_only=True)
class VisitMade:
    """A visit as far as ways go: whose, on which day at the site, and where; ``place`` is nothing where not known."""

    technician: str
    day: date
    headed_out_at: datetime
    place: Position | None


def visits_made(job: Job, site: Site, technician: str, bounds: Bounds) -> tuple[VisitMade, ...]:
    """The visits of a job to a site, without those whose times cannot be."""
    return tuple(
        VisitMade(
            technician=technician,
            day=day_on_site(site, visit.headed_out_at),
            headed_out_at=visit.headed_out_at,
            place=position_of(site),
        )
        for visit in job.visits
        if not any(True for _ in visit_doubts(visit, bounds))
    )


def plausible_minutes_of_travel(job: Job, bounds: Bounds) -> float | None:
    """Minutes from heading out to arriving over all visits; nothing where nobody arrived, or times of one cannot be."""
    if any(True for visit in job.visits for _ in visit_doubts(visit, bounds)):
        return None
    known = [travel for visit in job.visits if (travel := times_of(visit).travel) is not None]
    return sum(known) if known else None


def farthest_arrival(job: Job, site: Site) -> float | None:
    """How far from its site the farthest arrival was that is noted for it, in kilometres; nothing where none is."""
    far = [km for visit in job.visits if (km := km_off_site(site, visit.arrived_where)) is not None]
    return max(far, default=None)
