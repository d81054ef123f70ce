"""The jobs that a trial rests on: those before it, and those of its orders."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from reedling.core.evidence.cross_filter import FACETS, JobColumns, with_values
from reedling.core.evidence.expected_minutes import expected_minutes, over_expected_by_the_others
from reedling.core.refining.trials import Trial, TrialReading, read_trial
from reedling.core.statistics.intervals import Share, wilson_interval

PACE_DAYS = 182
"""How many days back jobs are counted to say how many come in a week."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PastJobs:
    """The jobs that a plan was carried out in with one revision: each one's district, and the minutes by which it took
    longer than the others would have had one expect; ``weekly`` jobs of any revision are finished in a week."""

    districts: np.ndarray
    over_expected: np.ndarray
    weekly: float

    @property
    def spread(self) -> float:
        """Standard deviation of a job's minutes once what is known beforehand is taken out; 0 of fewer than two."""
        return float(self.over_expected.std(ddof=1)) if len(self.over_expected) > 1 else 0.0

    def share_in(self, districts: Iterable[str]) -> float:
        """The share of the jobs that were in these districts; 0 where there are none."""
        return float(np.isin(self.districts, list(districts)).mean()) if len(self.districts) else 0.0


def past_jobs(columns: Iterable[JobColumns], document: str, letter: str, now: datetime) -> PastJobs:
    """The finished jobs of a plan with the revision of this letter; one lot of columns for each incident type."""
    since = (now - timedelta(days=PACE_DAYS)).timestamp()
    districts, over, n_since = [np.zeros(0, dtype=str)], [np.zeros(0)], 0
    for of_type in columns:
        past = _before(of_type, document, letter, now)
        place, revision = FACETS.index("district"), FACETS.index("revision")
        districts.append(np.asarray(of_type.values[place], dtype=str)[of_type.codes[place]][past])
        over.append(over_expected_by_the_others(of_type, past))
        issued = with_values(of_type, "revision", [value for value in of_type.values[revision] if value])
        n_since += int((issued & (of_type.finished >= since)).sum())
    return PastJobs(
        districts=np.concatenate(districts),
        over_expected=np.concatenate(over),
        weekly=n_since / (PACE_DAYS / 7),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialJobs:
    """What the finished jobs of a trial show, with the share on either side that took several visits."""

    reading: TrialReading
    repeat_tried: Share
    repeat_others: Share


def read_jobs(columns: Iterable[JobColumns], trial: Trial, taken: Mapping[str, bool]) -> TrialJobs:
    """Read a trial off its jobs; ``taken`` are the orders that it took, and whether each has the revision on trial.

    What a job was to be expected to take is learned from jobs with the revision in force before the trial alone. Jobs
    whose times cannot be count among visits only.
    """
    found = [np.zeros((4, 0))]
    for of_type in columns:
        inside = np.array([order in taken for order in of_type.orders], dtype=bool)
        past = _before(of_type, trial.document, trial.before, trial.began_at) & ~inside
        over = of_type.minutes - expected_minutes(of_type, past)
        tried = np.array([taken.get(order, False) for order in of_type.orders], dtype=bool)
        found.append(np.array([of_type.finished, tried, of_type.repeat, over], dtype=float)[:, inside])
    joined = np.concatenate(found, axis=1)
    _, tried, repeat, over = joined[:, np.argsort(joined[0], kind="stable")]
    timed = ~np.isnan(over)

    def several_visits(side: np.ndarray) -> Share:
        return wilson_interval(int(repeat[side].sum()), int(side.sum()))

    return TrialJobs(
        reading=read_trial(
            over[timed].tolist(),
            (tried[timed] > 0).tolist(),
            worth_minutes=trial.worth_minutes,
            most_jobs=trial.most_jobs,
        ),
        repeat_tried=several_visits(tried > 0),
        repeat_others=several_visits(tried == 0),
    )


def _before(columns: JobColumns, document: str, letter: str, until: datetime) -> np.ndarray:
    of_revision = with_values(columns, "revision", (f"{document} {letter}",))
    return of_revision & (columns.finished <= until.timestamp())
