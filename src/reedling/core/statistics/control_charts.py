"""Individuals charts: whether readings in time vary about one level, by limits and run rules."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

D2 = 1.128
"""Mean range of two values of a normal distribution, in standard deviations."""
D4 = 3.267
"""Upper limit of the range of two, over its mean."""
FEWEST = 8
"""Readings below which a chart says nothing: no run rule can tell."""
RUN = 8
"""Readings in a row on one side of the centre that are too many for chance."""


@dataclass(frozen=True, slots=True, kw_only=True)
class IndividualsChart:
    """Centre and limits of readings, and of their moving range, in the unit of the readings.

    ``signals`` gives, by the place of a reading from 0, the run rules that it completes, in words.
    """

    centre: float
    low: float
    high: float
    mean_range: float
    range_high: float
    signals: tuple[tuple[int, str], ...]


def individuals_chart(values: Sequence[float]) -> IndividualsChart | None:
    """The chart of readings in the order they were taken; nothing below :data:`FEWEST`.

    Notes
    -----
    Limits are the mean and 2.66 mean moving ranges either side (3 / d2); the range's upper limit is 3.267
    means [1]_. Run rules of [2]_: one beyond three standard deviations; two of three beyond two on one side;
    four of five beyond one on one side; eight in a row on one side. Readings that do not vary at all give no
    signals.

    References
    ----------
    .. [1] NIST/SEMATECH e-Handbook of Statistical Methods, 6.3.2.2.
    .. [2] Western Electric Company (1956). Statistical Quality Control Handbook.
    """
    if len(values) < FEWEST:
        return None
    centre = sum(values) / len(values)
    ranges = [abs(b - a) for a, b in pairwise(values)]
    mean_range = sum(ranges) / len(ranges)
    sigma = mean_range / D2
    signals: tuple[tuple[int, str], ...] = ()
    if sigma > 0:
        scores = [(v - centre) / sigma for v in values]
        signals = tuple((i, rule) for i in range(len(scores)) if (rule := _rule_at(scores[: i + 1])))
    return IndividualsChart(
        centre=centre,
        low=centre - 3 * sigma,
        high=centre + 3 * sigma,
        mean_range=mean_range,
        range_high=D4 * mean_range,
        signals=signals,
    )


def _rule_at(scores: Sequence[float]) -> str:
    """The first rule that the last of these completes, in words; empty for none."""
    last = scores[-1]
    if abs(last) > 3:
        return "beyond the limits"
    side = 1 if last > 0 else -1
    for n, of, beyond, words in (
        (2, 3, 2, "two of three far out on one side"),
        (4, 5, 1, "four of five out on one side"),
        (RUN, RUN, 0, "eight in a row on one side"),
    ):
        window = [side * s for s in scores[-of:]]
        if side * last > beyond and len(window) == of and sum(s > beyond for s in window) >= n:
            return words
    return ""
