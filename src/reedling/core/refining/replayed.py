"""What a replay comes to: jobs walked through the guidance as it is and as a draft has it, held against each other.

References
----------
.. [1] Rubin, D. B. (1987). Multiple Imputation for Nonresponse in Surveys. Wiley, section 3.3: the combined
   variance and its degrees of freedom.
.. [2] Efron, B. and Tibshirani, R. J. (1993). An Introduction to the Bootstrap. Chapman & Hall, section 12.5: the
   bootstrap-t interval.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from statistics import fmean

import numpy as np
from scipy.special import stdtrit

from reedling.core.refining.past_work import PastWork
from reedling.core.statistics.resampling import N_DRAWS, Ranged

N_FILLINGS = 8
"""How often what is not recorded is drawn anew."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Walked:
    """What one walk of a job comes to; ``filled`` are the minutes that rest on what was drawn."""

    minutes: float
    filled: float
    n_filled: int
    parts: Mapping[str, float]
    by_line: Mapping[str, float]

    @property
    def rests_on_draws(self) -> bool:
        """Whether an answer or the minutes of a step were not the job's own."""
        return self.n_filled > 0 or self.filled > 0


@dataclass(frozen=True, slots=True, kw_only=True)
class ReplayedJob:
    """One job: the minutes that the draft adds, less than 0 where it saves; the share of the draft's minutes that
    rests on what was drawn; the visits it saves."""

    order: str
    minutes: float
    filled: float
    visits: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ReplayedPart:
    """By how much of a part a job takes more under the draft, less than 0 for less, on average."""

    part: str
    quantity: float
    n_jobs: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ReplayedStep:
    """By how many minutes a job changes at a step, on average; one that only one of the two has is told."""

    line: str
    text: str
    minutes: float
    is_new: bool
    is_gone: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Replayed:
    """What a draft would have changed over past jobs.

    ``minutes`` is what a job takes more (less than 0: saves), with its 95 % range. ``filled`` is the share of the
    draft's minutes that rests on what was drawn, ``n_filled`` the jobs with any of it. ``visits`` were saved of
    ``n_fetches`` that ended because a part was missing, where the draft plans every part that such a job used.
    """

    n_jobs: int
    minutes: Ranged | None
    filled: float
    n_filled: int
    visits: int
    n_fetches: int
    jobs: tuple[ReplayedJob, ...]
    parts: tuple[ReplayedPart, ...]
    steps: tuple[ReplayedStep, ...]


_WalkBoth = Callable[[PastWork, int], tuple[Walked, Walked]]
"""Walks a job through the guidance as it is and as the draft has it, under a draw of what was not recorded."""


def replayed_of(
    jobs: Sequence[PastWork],
    walk_both: _WalkBoth,
    *,
    before: Mapping[str, str],
    draft: Mapping[str, str],
    n_fillings: int = N_FILLINGS,
) -> Replayed:
    """What a draft would have changed over jobs.

    ``walk_both`` walks a job through the guidance as it is and through the draft, under one of ``n_fillings`` draws of
    what was not recorded; a job that needs no draw is walked once. ``before`` and ``draft`` are the words of what each
    of the two has, by line.
    """
    pairs: list[list[tuple[Walked, Walked]]] = []
    for job in jobs:
        first = walk_both(job, 0)
        is_whole = first[0] is first[1] or not any(walked.rests_on_draws for walked in first)
        pairs.append([first, *(first if is_whole else walk_both(job, n) for n in range(1, n_fillings))])
    differences = [[new.minutes - old.minutes for old, new in walks] for walks in pairs]
    replayed = tuple(
        ReplayedJob(
            order=job.order,
            minutes=fmean(found),
            filled=_share(sum(new.filled for _, new in walks), sum(new.minutes for _, new in walks)),
            visits=_visits_saved(job, *walks[0]),
        )
        for job, found, walks in zip(jobs, differences, pairs, strict=True)
    )
    return Replayed(
        n_jobs=len(jobs),
        minutes=combined(differences),
        filled=_share(
            sum(new.filled for walks in pairs for _, new in walks),
            sum(new.minutes for walks in pairs for _, new in walks),
        ),
        n_filled=sum(any(w.rests_on_draws for both in walks for w in both) for walks in pairs),
        visits=sum(job.visits for job in replayed),
        n_fetches=sum(job.n_fetches for job in jobs),
        jobs=replayed,
        parts=_parts(pairs),
        steps=_steps(before, draft, pairs),
    )


def combined(differences: Sequence[Sequence[float]], *, confidence: float = 0.95) -> Ranged | None:
    """The mean over jobs with its range, each job's difference given once per filling; nothing for no jobs.

    Within each filling the variance is that of a mean; between them it is that of the means, as [1]_. Differences
    are often nothing for most jobs and much for a few, so that the range is not taken to be as wide on both sides:
    its ends are those of a bootstrap-t, as [2]_, made wider as the fillings ask.
    """
    if not differences:
        return None
    values = np.asarray(differences, dtype=float)
    n, m = values.shape
    value = float(values.mean())
    within = float(values.var(axis=0, ddof=1).mean()) / n if n > 1 else 0.0
    between = (1 + 1 / m) * float(values.mean(axis=0).var(ddof=1)) if m > 1 else 0.0
    total = within + between
    if total == 0 or n < 2:
        return Ranged(value=value, low=value, high=value, count=n)
    degrees = 1 / (1 / (n - 1) + (between / total) ** 2 / max(m - 1, 1))
    tail = (1 + confidence) / 2
    wider = float(stdtrit(degrees, tail) / stdtrit(n - 1, tail)) * total**0.5
    left, right = _studentized_tails(values.mean(axis=1), confidence)
    return Ranged(value=value, low=value - right * wider, high=value - left * wider, count=n)


def _studentized_tails(values: np.ndarray, confidence: float) -> tuple[float, float]:
    """The outer quantiles of (mean of a drawn sample - mean) / its standard error; seeded."""
    n = len(values)
    drawn = values[np.random.default_rng(1).integers(0, n, (N_DRAWS, n))]
    errors = drawn.std(axis=1, ddof=1) / n**0.5
    varied = errors > 1e-9 * max(1.0, float(np.abs(values).max()))
    if not varied.any():
        reach = float(stdtrit(n - 1, (1 + confidence) / 2))
        return -reach, reach
    scores = (drawn.mean(axis=1)[varied] - values.mean()) / errors[varied]
    left, right = np.quantile(scores, [(1 - confidence) / 2, (1 + confidence) / 2])
    return float(left), float(right)


def _share(part: float, whole: float) -> float:
    return part / whole if whole > 0 else 0.0


def _visits_saved(job: PastWork, old: Walked, new: Walked) -> int:
    """A visit for a part is saved where the draft plans every part the job used, and the guidance now does not."""
    if job.n_fetches == 0 or not job.parts or job.parts <= old.parts.keys():
        return 0
    return job.n_fetches if job.parts <= new.parts.keys() else 0


def _parts(pairs: Sequence[Sequence[tuple[Walked, Walked]]]) -> tuple[ReplayedPart, ...]:
    names = {part for walks in pairs for both in walks for walked in both for part in walked.parts}
    out = []
    for part in sorted(names):
        per_job = [
            fmean(new.parts.get(part, 0.0) - old.parts.get(part, 0.0) for old, new in walks)
            for walks in pairs
        ]
        if any(per_job):
            out.append(ReplayedPart(part=part, quantity=fmean(per_job), n_jobs=sum(q != 0 for q in per_job)))
    return tuple(out)


def _steps(
    before: Mapping[str, str], draft: Mapping[str, str], pairs: Sequence[Sequence[tuple[Walked, Walked]]]
) -> tuple[ReplayedStep, ...]:
    """Where the minutes change: the steps that change most first, those that change nothing left out."""
    totals: dict[str, float] = {}
    n = 0
    for walks in pairs:
        for old, new in walks:
            n += 1
            for key in {*old.by_line, *new.by_line}:
                plain = key.split("@", 1)[0]
                change = new.by_line.get(key, 0.0) - old.by_line.get(key, 0.0)
                totals[plain] = totals.get(plain, 0.0) + change
    out = [
        ReplayedStep(
            line=key,
            text=draft.get(key) or before.get(key, key),
            minutes=total / n,
            is_new=key not in before,
            is_gone=key not in draft,
        )
        for key, total in totals.items()
        if abs(total) > 1e-9 * max(n, 1)
    ]
    return tuple(sorted(out, key=lambda step: (-abs(step.minutes), step.line)))
