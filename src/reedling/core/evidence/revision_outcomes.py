"""Whether a newer revision did better than the one before it, in a sentence that keeps its doubt."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from reedling.core.statistics.intervals import Share, ShareDifference, difference_interval
from reedling.core.statistics.strata import AdjustedDifference, Stratum, adjusted_difference

MIN_JOBS_A_SIDE = 10
"""Fewer jobs than this on either side are too few to say anything."""


@dataclass(frozen=True, slots=True, kw_only=True)
class OutcomeChange:
    """The change in fixed first time between two revisions; ``difference`` is as counted, in fractions.

    ``adjusted`` is the change with the mix of jobs held fixed. Each is ``None`` when there are too few jobs to say.
    """

    difference: ShareDifference | None
    sentence: str
    adjusted: AdjustedDifference | None = None


def outcome_change(older: Share, newer: Share, strata: Sequence[Stratum] = ()) -> OutcomeChange:
    """Say what became of fixed first time, or that it is too early to say.

    ``strata`` hold the counts of both sides among jobs that are alike, such as those of one model with one symptom:
    what is said rests on them, so that a change of mix does not pass for an improvement. Without any, jobs are
    counted as recorded.
    """
    if min(older.n_total, newer.n_total) < MIN_JOBS_A_SIDE:
        return OutcomeChange(
            difference=None,
            sentence=f"Too few to say: {MIN_JOBS_A_SIDE} jobs a side are wanted, "
            f"there are {older.n_total} and {newer.n_total}.",
        )
    plain = difference_interval(older, newer)
    assert plain is not None
    adjusted = adjusted_difference(strata) if strata else None
    if adjusted is not None and min(adjusted.first_total, adjusted.second_total) < MIN_JOBS_A_SIDE:
        return OutcomeChange(
            difference=plain,
            sentence="Too few to say: hardly any jobs of the two sides are alike in model and symptom.",
            adjusted=adjusted,
        )
    value, low, high = (
        (adjusted.difference, adjusted.low, adjusted.high)
        if adjusted
        else (plain.difference, plain.low, plain.high)
    )
    points = f"{_points(value)} points ({_points(low)} to {_points(high)})"
    if low > 0:
        verdict = "Fixed first time rose by"
    elif high < 0:
        verdict = "Fixed first time fell: a change of"
    else:
        verdict = "No clear change in fixed first time:"
    counts = f"{older.n_total} and {newer.n_total} jobs"
    held = ", with the mix of models and symptoms held fixed" if adjusted else ""
    as_counted = ""
    if adjusted and (plain.low > 0) != (low > 0) and plain.low > 0:
        as_counted = f" As counted it would be {_points(plain.difference)} points: that is a change of mix, not of outcome."
    return OutcomeChange(
        difference=plain, sentence=f"{verdict} {points}, {counts}{held}.{as_counted}", adjusted=adjusted
    )


def _points(share: float) -> str:
    return f"{round(share * 100):d}".replace("-", "−")
