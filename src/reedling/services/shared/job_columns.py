"""The finished jobs of an incident type as filters see them, kept while no job is finished."""

from __future__ import annotations

from collections.abc import Sequence

from reedling.core.evidence.cross_filter import JobColumns
from reedling.store.unit import Unit


def job_columns(unit: Unit, incident_type: str, documents: Sequence[str]) -> JobColumns:
    """The jobs; the revisions of these documents tell apart what they were issued with."""
    return unit.kept_of_jobs(
        ("columns", incident_type, *documents),
        lambda at: at.job_evidence.columns(incident_type, documents),
    )
