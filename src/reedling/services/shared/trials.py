"""Which trial takes an order, and what is known of a plan before it is tried."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from reedling.core.evidence.cross_filter import FACETS, JobColumns, with_values
from reedling.core.evidence.expected_minutes import expected_minutes, over_expected_by_the_others
from reedling.core.guidance.documents import Revision
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.refining.trials import Trial
from reedling.core.register.assets import PlacedAsset
from reedling.errors import NotFound
from reedling.store.unit import Unit

PACE_DAYS = 182
"""How many days back jobs are counted to say how many come in a week."""


@dataclass(frozen=True, slots=True)
class TakenByTrial:
    """An order that a trial takes: with the revision on trial, or beside it with the one in force."""

    trial: str
    revision: Revision
    tried: bool


def trials_taking(
    unit: Unit, documents: Sequence[str], placed: PlacedAsset, order: str
) -> dict[str, TakenByTrial]:
    """The trials that take an order for which these documents were found, by document.

    ``order`` is what tells the order from all others; it decides the draw.
    """
    taking = {}
    for document, trial in unit.trials.under_way().items():
        if document in documents:
            revision = unit.documents.revision(document, trial.letter)
            assert revision is not None
            tried = trial.takes(order, placed.site.district)
            taking[document] = TakenByTrial(trial.id, revision, tried)
    return taking


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


@dataclass(frozen=True, slots=True, kw_only=True)
class JobsOfTrial:
    """The finished jobs of a trial, those of several incident types one after the other, in the order they were finished.

    ``over_expected`` are minutes on site over what was to be expected by the jobs before the trial, nan where its times
    cannot be.
    """

    tried: np.ndarray
    repeat: np.ndarray
    over_expected: np.ndarray


def jobs_of_trial(unit: Unit, trial: Trial) -> JobsOfTrial:
    """The finished jobs of the orders that a trial took."""
    taken = unit.trials.orders(trial.id)
    found, finished = [], []
    for columns in _columns(unit, trial.document):
        inside = np.array([order in taken for order in columns.orders], dtype=bool)
        past = _past(columns, trial.document, trial.before, trial.began_at) & ~inside
        over = columns.minutes - expected_minutes(columns, past)
        tried = np.array([taken.get(order, False) for order in columns.orders], dtype=bool)
        found.append(np.array([tried, columns.repeat, over], dtype=float)[:, inside])
        finished.append(columns.finished[inside])
    joined = np.concatenate(found, axis=1) if found else np.zeros((3, 0))
    tried, repeat, over = joined[:, np.argsort(np.concatenate(finished), kind="stable")] if found else joined
    return JobsOfTrial(tried=tried.astype(bool), repeat=repeat.astype(bool), over_expected=over)


@dataclass(frozen=True, slots=True, kw_only=True)
class PastJobs:
    """The jobs that a plan was carried out in with the revision in force: each one's district and the minutes by which it
    took longer than the others would have had one expect; ``weekly`` jobs of any revision are finished in a week."""

    districts: np.ndarray
    over_expected: np.ndarray
    weekly: float


def past_jobs_of_plan(unit: Unit, document: str, letter: str, now: datetime) -> PastJobs:
    """The finished jobs of a plan with the revision of this letter."""
    since = (now - timedelta(days=PACE_DAYS)).timestamp()
    districts, over, n_since = [], [], 0
    for columns in _columns(unit, document):
        past = _past(columns, document, letter, now)
        place = FACETS.index("district")
        districts.append(np.asarray(columns.values[place], dtype=object)[columns.codes[place]][past])
        over.append(over_expected_by_the_others(columns, past))
        with_plan = columns.codes[FACETS.index("revision")]
        named = [n for n, value in enumerate(columns.values[FACETS.index("revision")]) if value]
        n_since += int(((columns.finished >= since) & np.isin(with_plan, named)).sum())
    return PastJobs(
        districts=np.concatenate(districts) if districts else np.zeros(0),
        over_expected=np.concatenate(over) if over else np.zeros(0),
        weekly=n_since / (PACE_DAYS / 7),
    )


def _past(columns: JobColumns, document: str, letter: str, until: datetime) -> np.ndarray:
    of_revision = with_values(columns, "revision", (f"{document} {letter}",))
    return of_revision & (columns.finished <= until.timestamp())


def _columns(unit: Unit, document: str) -> Iterator[JobColumns]:
    for incident in unit.documents.all_released("incident type"):
        if isinstance(incident.content, IncidentType) and document in incident.content.plans:
            yield unit.job_evidence.columns(incident.document, (document,))
