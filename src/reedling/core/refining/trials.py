"""A revision tried on some of the orders beside the one in force: who gets it, how long it takes, what it has shown."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from hashlib import sha256
from math import sqrt
from typing import Literal

import numpy as np
from scipy.special import ndtri

from reedling.core.statistics.confidence_sequences import mixture_width
from reedling.core.statistics.ranges_in_words import less_or_more, signed_range
from reedling.errors import InvalidInput

FEWEST_A_SIDE = 10
"""Jobs of either side before anything is said: below that the spread of minutes is hardly known."""
FEWEST_PAST_JOBS = 20
"""Closed jobs of the revision in force before a trial can be planned."""
MOST_JOBS = 2_000
"""A trial that would take more jobs than this finds nothing in years."""
FOUND_SHARE = 0.8
"""How often a difference as large as the one asked for is to be found."""
ONE_IN = range(2, 11)
"""One in so many orders may get the revision on trial."""

TrialEnd = Literal["released", "withdrawn"]
TrialAnswer = Literal[
    "helped", "made it worse", "nothing as large", "not told apart", "not yet", "too few to say"
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """A revision on trial; ``before`` is the letter in force that the other orders get.

    One in ``one_in`` orders gets it, drawn by ``seed``; where ``districts`` are named, all their orders do and no
    others. It is to find a difference of ``worth_minutes`` a job, within ``most_jobs`` jobs of both sides.
    """

    id: str
    document: str
    letter: str
    before: str
    one_in: int
    districts: tuple[str, ...]
    seed: str
    worth_minutes: float
    most_jobs: int
    began_at: datetime
    began_by: str
    ended_at: datetime | None = None
    ended_by: str | None = None
    end: TrialEnd | None = None
    reason: str = ""

    def takes(self, order: str, district: str) -> bool:
        """Whether an order gets the revision on trial; ``order`` is what tells it from the others before it has a number.

        The draw is a hash of the seed and the order: nobody can foresee it, and anybody can do it again.
        """
        if self.districts:
            return district in self.districts
        return int(sha256(f"{self.seed} {order}".encode()).hexdigest()[:12], 16) % self.one_in == 0


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialPlan:
    """What a trial would take: at most ``most_jobs`` jobs of both sides, about ``weeks`` at the pace of the last half year.

    ``spread`` is the standard deviation of the minutes of a job once its kind and who went are taken out;
    ``n_past`` jobs were counted for it. ``share`` of the orders gets the revision. ``sentence`` says all of it.
    """

    sentence: str
    most_jobs: int
    weeks: float | None
    spread: float
    share: float
    n_past: int


def plan_trial(spread: float, n_past: int, *, share: float, worth_minutes: float, weekly: float) -> TrialPlan:
    """How many jobs a trial takes so that it finds a true difference of ``worth_minutes`` in 8 of 10 trials.

    Parameters
    ----------
    spread : standard deviation of a job's minutes, what is known beforehand taken out
    share : of the orders that get the revision, above 0 and below 1
    weekly : jobs of the plan in a week

    Raises
    ------
    InvalidInput
        ``trials.too_few_jobs`` with fewer than :data:`FEWEST_PAST_JOBS` past jobs, ``trials.worth`` where the difference
        is so small that more than :data:`MOST_JOBS` jobs would be wanted.
    """
    if n_past < FEWEST_PAST_JOBS:
        raise InvalidInput(
            "trials.too_few_jobs",
            f"{n_past} jobs with the revision in force are too few to say how long a trial would take.",
            hint=f"Release it, or wait until there are {FEWEST_PAST_JOBS}.",
        )
    of_one = spread * sqrt(1 / share + 1 / (1 - share))

    def found(n: int) -> bool:
        return bool(of_one * (mixture_width(n, n) + ndtri(FOUND_SHARE) / sqrt(n)) <= worth_minutes)

    fewest = int(np.ceil(FEWEST_A_SIDE / min(share, 1 - share)))
    if worth_minutes <= 0 or not found(MOST_JOBS):
        raise InvalidInput(
            "trials.worth",
            f"a difference of {worth_minutes:g} minutes would take more than {MOST_JOBS:,} jobs to find: jobs alike "
            f"differ by {spread:.0f} minutes as they are.",
            hint="Name a larger difference, or give it to more of the orders.",
        )
    low, high = fewest, MOST_JOBS
    while low < high:
        middle = (low + high) // 2
        low, high = (low, middle) if found(middle) else (middle + 1, high)
    weeks = high / weekly if weekly > 0 else None
    lasting = "" if weeks is None else f", about {max(1, round(weeks))} {'week' if weeks < 1.5 else 'weeks'}"
    return TrialPlan(
        sentence=f"At most {high:,} jobs of both sides{lasting}: then a true difference of {worth_minutes:g} min a job is "
        f"found in 8 of 10 trials, a larger one sooner. Jobs alike differ by {spread:.0f} min as they are ({n_past} jobs).",
        most_jobs=high,
        weeks=weeks,
        spread=spread,
        share=share,
        n_past=n_past,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialMoment:
    """Minutes of the tried jobs over those of the others after ``n_jobs`` jobs, with the range that holds at all times."""

    n_jobs: int
    value: float
    low: float
    high: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialReading:
    """What a trial has shown so far; ``course`` is one moment after each job, once there are enough.

    "nothing as large" is answered only where the range leaves out the difference that was worth finding on either side;
    "not told apart" where all jobs that were planned are over and it does not.
    """

    answer: TrialAnswer
    sentence: str
    n_tried: int
    n_others: int
    course: tuple[TrialMoment, ...]

    @property
    def has_answer(self) -> bool:
        """Whether more jobs would tell nothing that matters: somebody may decide."""
        return self.answer not in ("not yet", "too few to say")


def read_trial(
    over_expected: Sequence[float], tried: Sequence[bool], *, worth_minutes: float, most_jobs: int
) -> TrialReading:
    """What the finished jobs of a trial show, in the order in which they were finished.

    Parameters
    ----------
    over_expected : minutes on site of each job over what such a job was to be expected to take before the trial
    tried : whether it was carried out with the revision on trial

    Notes
    -----
    The difference of the two means, with the range of :func:`mixture_width`; the variance of the difference is Welch's.
    """
    over, on_trial = np.asarray(over_expected, dtype=float), np.asarray(tried, dtype=bool)
    course = tuple(_course(over, on_trial, most_jobs))
    n_tried, n_others = int(on_trial.sum()), int((~on_trial).sum())
    counts = f"{n_tried} jobs against {n_others}"
    if not course:
        words = f"Too few jobs to say, {counts}: at least {FEWEST_A_SIDE} of each are wanted."
        return TrialReading(
            answer="too few to say", sentence=words, n_tried=n_tried, n_others=n_others, course=()
        )
    now = course[-1]
    answer: TrialAnswer
    differs = less_or_more(now.value, now.low, now.high, "min", per="a job")
    if now.high < 0:
        answer, words = "helped", differs
    elif now.low > 0:
        answer, words = "made it worse", differs
    else:
        over_range = signed_range(now.low, now.high)
        if max(-now.low, now.high) < worth_minutes:
            answer, words = "nothing as large", f"no difference of {worth_minutes:g} min a job ({over_range})"
        elif len(over) >= most_jobs:
            answer = "not told apart"
            words = f"not told apart within the {most_jobs} jobs that were planned ({over_range} min a job)"
        else:
            answer, words = "not yet", f"not told apart yet ({over_range} min a job)"
    return TrialReading(
        answer=answer,
        sentence=f"{words[0].upper()}{words[1:]}, {counts}.",
        n_tried=n_tried,
        n_others=n_others,
        course=course,
    )


def _course(over: np.ndarray, tried: np.ndarray, most_jobs: int) -> Iterator[TrialMoment]:
    for n in range(2 * FEWEST_A_SIDE, len(over) + 1):
        sides = over[:n][tried[:n]], over[:n][~tried[:n]]
        if min(map(len, sides)) < FEWEST_A_SIDE:
            continue
        value = float(sides[0].mean() - sides[1].mean())
        variance = sum(float(side.var(ddof=1)) / len(side) for side in sides)
        half = sqrt(variance * n) * mixture_width(n, most_jobs)
        yield TrialMoment(n_jobs=n, value=value, low=value - half, high=value + half)
