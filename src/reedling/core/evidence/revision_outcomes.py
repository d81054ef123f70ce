"""Whether a newer revision did better than the one before it, in a sentence that keeps its doubt."""

from __future__ import annotations

from dataclasses import dataclass

from reedling.core.statistics.intervals import Share, ShareDifference, difference_interval

MIN_JOBS_A_SIDE = 10
"""Fewer jobs than this on either side are too few to say anything."""


@dataclass(frozen=True, slots=True, kw_only=True)
class OutcomeChange:
    """The change in fixed first time between two revisions; ``difference`` is in fractions.

    ``difference`` is ``None`` when there are too few jobs to say.
    """

    difference: ShareDifference | None
    sentence: str


def outcome_change(older: Share, newer: Share) -> OutcomeChange:
    """Say what became of fixed first time, or that it is too early to say.

    Jobs are counted as recorded: a change in the mix of jobs between the two sides is not corrected for.
    """
    if min(older.n_total, newer.n_total) < MIN_JOBS_A_SIDE:
        return OutcomeChange(
            difference=None,
            sentence=f"Too few to say: {MIN_JOBS_A_SIDE} jobs a side are wanted, "
            f"there are {older.n_total} and {newer.n_total}.",
        )
    found = difference_interval(older, newer)
    assert found is not None
    points = f"{_points(found.difference)} points ({_points(found.low)} to {_points(found.high)})"
    if found.low > 0:
        verdict = "Fixed first time rose by"
    elif found.high < 0:
        verdict = "Fixed first time fell: a change of"
    else:
        verdict = "No clear change in fixed first time:"
    counts = f"{older.n_total} and {newer.n_total} jobs"
    return OutcomeChange(difference=found, sentence=f"{verdict} {points}, {counts}.")


def _points(share: float) -> str:
    return f"{round(share * 100):d}".replace("-", "−")
