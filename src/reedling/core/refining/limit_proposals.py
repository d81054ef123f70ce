"""Limits that would part a cause from the others better elsewhere.

A limit sends a job one way or the other: beyond it, the crew looks for the cause that it stands for. It is held against
what the jobs came to. The limit that would have been best is always found on the jobs it is looked for in, whatever the
truth is; so it is looked for in every second job, and judged by the jobs between.

Sources: W. J. Youden, "Index for rating diagnostic tests", Cancer 3 (1950), 32 to 35, for how well a limit tells a cause;
Q. McNemar, "Note on the sampling error of the difference between correlated proportions or percentages", Psychometrika 12
(1947), 153 to 157, for two limits on the same jobs, in its exact form.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import pairwise

import numpy as np
import numpy.typing as npt
from scipy.special import bdtrc

from reedling.core.guidance.plans import Step
from reedling.core.guidance.questions import Computed, Reading
from reedling.core.logic.conditions import comparisons, number_text
from reedling.core.refining.changes import LimitSide, MoveLimit, goes_with_limit
from reedling.core.refining.in_words import share_in_words
from reedling.core.refining.proposals import PlanEvidence, Proposal, ProposalKind, ReadingJob
from reedling.core.statistics.intervals import wilson_interval

_Numbers = npt.NDArray[np.float64]

FEWEST_EITHER_WAY = 10
"""Jobs with the cause, and jobs without it, that are wanted in each half."""
LEAST_TOLD = 0.5
"""Youden's index, from 0 to 1, below which a reading is not said to tell a cause."""
MINUTES_ASTRAY = 15.0
"""What a job that a limit sends the wrong way is taken to cost, where proposals are ranked."""


def proposals_of_limits(
    evidence: PlanEvidence, causes: Mapping[str, str]
) -> Iterator[tuple[float, Proposal | None]]:
    """Each limit of a plan that could be judged, with its p-value, and the better one where there is any.

    ``causes`` are the names of causes by code. Only a limit on which another step of the plan hangs sends anybody anywhere;
    others say what is healthy, and are left alone. A limit of a step that makes safe is never moved, nor is one of a
    standard step or of a step that is repeated.
    """
    for step in evidence.plan.steps:
        if step.phase == "Make safe" or step.standard is not None or step.repeat is not None:
            continue
        for question in step.questions:
            if isinstance(question, Reading | Computed):
                for side in ("low", "high"):
                    yield from _moved(evidence, step, question, side, causes)


def _moved(
    evidence: PlanEvidence,
    step: Step,
    question: Reading | Computed,
    side: LimitSide,
    causes: Mapping[str, str],
) -> Iterator[tuple[float, Proposal | None]]:
    jobs = evidence.readings.get(question.id, ())
    limit = question.limits.low if side == "low" else question.limits.high
    looked_in, judged_by = jobs[::2], jobs[1::2]
    cause = None if limit is None else told_cause(looked_in, side)
    if limit is None or cause is None or not _has_both(judged_by, cause):
        return
    if not any(
        goes_with_limit(asked, question.id, side, limit)
        for other in evidence.plan.steps
        for asked in comparisons(other.condition)
    ):
        return
    best = best_limit(looked_in, cause, side, near=limit)
    if best == limit or not _may_be(question, side, best):
        return
    old = {job.order for job in judged_by if is_beyond(job.value, limit, side) != (job.cause == cause)}
    new = {job.order for job in judged_by if is_beyond(job.value, best, side) != (job.cause == cause)}
    put_right, put_wrong = len(old - new), len(new - old)
    n = put_right + put_wrong
    p = float(bdtrc(put_right - 1, n, 0.5)) if put_right else 1.0
    if put_right <= put_wrong:
        yield p, None
        return
    tightens = (best > limit) == (side == "low")
    kind: ProposalKind = "tighten a limit" if tightens else "relax a limit"
    word = "below" if side == "low" else "above"
    at_old, at_new = (f"{number_text(x)} {question.unit}".strip() for x in (limit, best))
    was, would_be = (share_in_words(wilson_interval(len(wrong), len(judged_by))) for wrong in (old, new))
    moved = {
        job.order for job in jobs if is_beyond(job.value, limit, side) != is_beyond(job.value, best, side)
    }
    yield (
        p,
        Proposal(
            kind=kind,
            document=evidence.document,
            revision=evidence.revision,
            step=step.id,
            part="",
            about=f"{question.id} {side}",
            sentence=f"“{question.label}” {word} {at_new} would tell “{causes.get(cause, cause)}” from other causes better than "
            f"{word} {at_old} does.",
            effect=f"{at_old} sent {was} the wrong way; {at_new} would have sent {would_be}. It was looked for in other jobs than these.",
            rule="It is looked for in every second job whose cause is known and judged by the jobs between: there it sends fewer "
            "the wrong way than the limit in force, beyond chance. A cause missed counts as much as a false alarm. Causes are "
            "as coded, and crews look for what a limit tells them to.",
            goes_away="It goes once the limit in force does as well in those jobs.",
            change=MoveLimit(step=step.id, question=question.id, side=side, value=best),
            n_jobs=len(jobs),
            orders=tuple(job.order for job in jobs if job.order in moved),
            weight=MINUTES_ASTRAY * (put_right - put_wrong) * len(jobs) / len(judged_by),
        ),
    )


def is_beyond(value: float, limit: float, side: LimitSide) -> bool:
    """Whether a reading lies outside a limit; one on it lies within."""
    return value < limit if side == "low" else value > limit


def told_cause(jobs: Sequence[ReadingJob], side: LimitSide) -> str | None:
    """The cause that some limit on this side tells best from all others; nothing where none tells one well."""
    best, told = LEAST_TOLD, None
    limits = _limits(jobs, side)
    for cause in sorted({job.cause for job in jobs}):
        if _has_both(jobs, cause) and limits:
            own, others = _values(jobs, cause)
            index = _n_beyond(own, limits, side) / len(own) - _n_beyond(others, limits, side) / len(others)
            if index.max() > best:
                best, told = float(index.max()), cause
    return told


def best_limit(jobs: Sequence[ReadingJob], cause: str, side: LimitSide, *, near: float) -> float:
    """The limit by which fewest jobs go the wrong way; of those alike the one nearest to ``near``, that one itself among them."""
    limits = [near, *_limits(jobs, side)]
    own, others = _values(jobs, cause)
    wrong = len(own) - _n_beyond(own, limits, side) + _n_beyond(others, limits, side)
    return min(zip(wrong, limits, strict=True), key=lambda one: (one[0], abs(one[1] - near), one[1]))[1]


def _has_both(jobs: Sequence[ReadingJob], cause: str) -> bool:
    n = sum(job.cause == cause for job in jobs)
    return min(n, len(jobs) - n) >= FEWEST_EITHER_WAY


def _values(jobs: Sequence[ReadingJob], cause: str) -> tuple[_Numbers, _Numbers]:
    """What jobs with a cause read, and what all others did, each in order."""
    own = np.sort([job.value for job in jobs if job.cause == cause])
    return own, np.sort([job.value for job in jobs if job.cause != cause])


def _n_beyond(values: _Numbers, limits: Sequence[float], side: LimitSide) -> _Numbers:
    """How many values, which are in order, lie beyond each limit."""
    if side == "low":
        return np.searchsorted(values, limits, "left").astype(float)
    return len(values) - np.searchsorted(values, limits, "right").astype(float)


def _limits(jobs: Sequence[ReadingJob], side: LimitSide) -> list[float]:
    """Limits that part the jobs in every way there is, each in as few digits as do."""
    values = sorted({job.value for job in jobs})
    return [_short(low, high, side) for low, high in pairwise(values)]


def _short(low: float, high: float, side: LimitSide) -> float:
    """A number with few digits beyond which on this side lies the one reading and not the other."""
    for digits in range(-3, 12):
        middle = round((low + high) / 2, digits)
        if low < middle <= high if side == "low" else low <= middle < high:
            return middle
    return high if side == "low" else low


def _may_be(question: Reading | Computed, side: LimitSide, value: float) -> bool:
    """Whether the limits stay in their order, and the limit on what the instrument can show."""
    limits = question.limits
    moved = (
        (limits.low_low, value, limits.high, limits.high_high)
        if side == "low"
        else (limits.low_low, limits.low, value, limits.high_high)
    )
    known = [x for x in moved if x is not None]
    shown = (question.lowest, question.highest) if isinstance(question, Reading) else (None, None)
    return (
        known == sorted(known)
        and (shown[0] is None or value >= shown[0])
        and (shown[1] is None or value <= shown[1])
    )
