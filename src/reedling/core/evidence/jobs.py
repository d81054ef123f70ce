"""Finished jobs as lists and figures ask for them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from reedling.core.evidence.order_kept import OutOfTurn


@dataclass(frozen=True, slots=True, kw_only=True)
class WantedJobs:
    """Which finished jobs are asked about: those that meet all that is given.

    ``issued_with`` are documents and a revision of theirs, one of which the job was issued with;
    ``step`` is a document and a step that the job wanted; ``unread`` are those nobody has read,
    ``out_of_turn`` those that did a line out of turn so.
    """

    incident_type: str | None = None
    issued_with: tuple[tuple[str, ...], str] | None = None
    step: tuple[str, str] | None = None
    unread: bool = False
    out_of_turn: OutOfTurn | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class EvidenceRead:
    """When somebody last read what the field made of an incident type."""

    incident_type: str
    at: datetime
    person: str


@dataclass(frozen=True, slots=True, kw_only=True)
class JobLine:
    """A finished job as lists show it; its counts are those of :class:`reedling.core.evidence.job_summary.JobSummary`.

    ``is_repeat`` says that an order on the same asset, with the same or a related symptom, had been finished no longer
    than :data:`reedling.core.evidence.outcomes.SETTLING_DAYS` days before it was logged. ``km`` is its way
    (:data:`reedling.core.evidence.getting_there.WAY`) over all its visits.
    """

    order: str
    finished_at: datetime
    n_visits: int
    working_visits: int
    minutes_on_site: float | None
    n_departures: int
    n_findings: int
    fixed: bool
    doubtful_finish: bool
    planned_minutes: float | None = None
    n_helped: int = 0
    n_beside: int = 0
    rating: int | None = None
    n_out_of_limit: int = 0
    n_parts_unplanned: int = 0
    n_long: int = 0
    n_hasty: int = 0
    tone: float | None = None
    is_repeat: bool = False
    return_reasons: tuple[str, ...] = ()
    arrived_km_off: float | None = None
    travel_minutes: float | None = None
    km: float | None = None
