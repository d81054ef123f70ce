"""What a revision gained over the one before it, in minutes a job and over the jobs of a year."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from math import sqrt
from typing import Literal

import numpy as np

from reedling.core.evidence.compared_jobs import HELD_FIXED, kinds_by, minutes_compared
from reedling.core.evidence.cross_filter import JobColumns, with_values
from reedling.core.evidence.revision_outcomes import MIN_JOBS_A_SIDE
from reedling.core.statistics.ranges_in_words import less_or_more, signed_range
from reedling.core.statistics.standardised import StandardisedDifference

GainVerdict = Literal["helped", "made it worse", "no clear change", "too few to say"]
YEAR = timedelta(days=365)


@dataclass(frozen=True, slots=True, kw_only=True)
class RevisionGain:
    """What a revision did to the minutes on site of a job, against the one before it.

    ``change`` is negative where it saves, nothing with fewer than :data:`MIN_JOBS_A_SIDE` jobs alike on a side.
    ``n_year`` jobs of the newer revision were finished within the year.
    """

    verdict: GainVerdict
    sentence: str
    change: StandardisedDifference | None
    n_year: int


@dataclass(frozen=True, slots=True, kw_only=True)
class YearSaved:
    """Hours on site saved in a year over ``n_jobs`` jobs by ``n_changes`` revisions, with the 95 % range."""

    hours: float
    low: float
    high: float
    n_jobs: int
    n_changes: int


def revision_gain(columns: JobColumns, older: str, newer: str, *, year_from: datetime) -> RevisionGain:
    """What the newer revision did, as the facet of revisions names both; who carried jobs out is held fixed too."""
    sides = [
        with_values(columns, "revision", (side,)) & ~np.isnan(columns.minutes) for side in (older, newer)
    ]
    change = minutes_compared(columns, sides[0], sides[1], kinds_by(columns, HELD_FIXED))
    n_year = int((sides[1] & (columns.finished >= year_from.timestamp())).sum())
    letters = f"{older.rpartition(' ')[2]} → {newer.rpartition(' ')[2]}"
    if change is None or min(change.n_first, change.n_second) < MIN_JOBS_A_SIDE:
        counts = " and ".join(str(int(side.sum())) for side in sides)
        words = f"{letters}: too few jobs alike to say, {counts} jobs."
        return RevisionGain(verdict="too few to say", sentence=words, change=None, n_year=n_year)
    counts = f"{change.n_second} jobs against {change.n_first}"
    differs = less_or_more(change.value, change.low, change.high, "min", per="a job")
    verdict: GainVerdict
    if change.high < 0:
        verdict, words = "helped", differs
    elif change.low > 0:
        verdict, words = "made it worse", differs
    else:
        verdict = "no clear change"
        words = f"no clear change in minutes a job ({signed_range(change.low, change.high)})"
    return RevisionGain(
        verdict=verdict, sentence=f"{letters}: {words}, {counts}.", change=change, n_year=n_year
    )


def year_saved(gains: Iterable[RevisionGain]) -> YearSaved | None:
    """What revisions saved over the year, those that made it worse counted against; nothing where none can be told.

    Each change is taken to act on all jobs of its revision in the year; changes are independent of each other.
    """
    told: Sequence[tuple[StandardisedDifference, int]] = [
        (gain.change, gain.n_year) for gain in gains if gain.change is not None and gain.n_year > 0
    ]
    if not told:
        return None
    hours = sum(-change.value * n for change, n in told) / 60
    half = 1.959964 * sqrt(sum(change.variance * n * n for change, n in told)) / 60
    return YearSaved(
        hours=hours,
        low=hours - half,
        high=hours + half,
        n_jobs=sum(n for _, n in told),
        n_changes=len(told),
    )
