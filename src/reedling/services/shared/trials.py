"""Which trial takes an order, and the jobs of the plan that is tried."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from reedling.core.evidence.cross_filter import JobColumns
from reedling.core.guidance.documents import Revision
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.refining.trials import Trial
from reedling.core.register.assets import PlacedAsset
from reedling.errors import NotFound
from reedling.services.shared.guidance_in_force import Readied, guidance_in_force
from reedling.services.shared.job_columns import job_columns
from reedling.services.shared.matched import Matched, OrderToMatch, match_asked
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True)
class TakenByTrial:
    """An order that a trial takes: with the revision on trial, or beside it with the one in force."""

    trial: str
    revision: Revision
    tried: bool


def trials_taking(
    unit: Unit, under_way: Mapping[str, Trial], documents: Sequence[str], placed: PlacedAsset, order: str
) -> dict[str, TakenByTrial]:
    """Those trials under way that take an order for which these documents were found, by document.

    ``order`` is what tells the order from all others; it decides the draw.
    """
    taking = {}
    for document, trial in under_way.items():
        if document in documents:
            revision = unit.documents.revision(document, trial.letter)
            assert revision is not None
            tried = trial.takes(order, placed.site.district)
            taking[document] = TakenByTrial(trial.id, revision, tried)
    return taking


def match_with_trials(
    unit: Unit,
    asked: OrderToMatch,
    at: datetime,
    *,
    report: str,
    ready: Readied | None = None,
    under_way: Mapping[str, Trial] | None = None,
) -> tuple[Matched, tuple[TakenByTrial, ...]]:
    """What an order that comes in now gets, and the trials that take it; a refused match comes as it is.

    What is in force and the trials under way are read here where they are not given.
    """
    ready = ready or guidance_in_force(unit)
    under_way = unit.trials.under_way() if under_way is None else under_way
    matched = match_asked(unit, asked, at, report=report, ready=ready)
    if matched.match.refused:
        return matched, ()
    found = [taken.document for taken in matched.match.taken]
    taking = trials_taking(
        unit, under_way, found, matched.placed, f"{asked.asset} {asked.symptom} {at.isoformat()}"
    )
    tried = {document: by.revision for document, by in taking.items() if by.tried}
    if tried:
        matched = match_asked(unit, asked, at, report=report, ready=ready, tried=tried)
    return matched, tuple(taking.values())


def need_trial(unit: Unit, identity: str) -> Trial:
    """The trial of this identity.

    Raises
    ------
    NotFound
        ``trials.unknown`` when there is none.
    """
    for trial in unit.trials.all():
        if trial.id == identity:
            return trial
    raise NotFound("trials.unknown", f"there is no trial {identity}.", hint="Open Refine for the list.")


def columns_of_plan(unit: Unit, document: str) -> Iterator[JobColumns]:
    """The finished jobs of each incident type in force that uses a plan, told apart by its revisions."""
    for incident in unit.documents.all_released("incident type"):
        if isinstance(incident.content, IncidentType) and document in incident.content.plans:
            yield job_columns(unit, incident.document, (document,))
