"""Where the middle of a sample lies, and how far its middle half reaches."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import quantiles


@dataclass(frozen=True, slots=True)
class Spread:
    """Median and quartiles of ``count`` values, in the unit of the values."""

    count: int
    low_quartile: float
    median: float
    high_quartile: float


def spread(values: Sequence[float]) -> Spread | None:
    """Median and middle half of a sample, or nothing for an empty one.

    Quartiles by linear interpolation between order statistics (definition 7 of [1]_, the
    default of most statistics packages). One value is its own median and quartiles.

    References
    ----------
    .. [1] Hyndman, R. J. and Fan, Y. (1996). The American Statistician 50(4), 361-365.

    >>> spread([1, 2, 3, 4])
    Spread(count=4, low_quartile=1.75, median=2.5, high_quartile=3.25)
    """
    if not values:
        return None
    if len(values) == 1:
        only = float(values[0])
        return Spread(1, only, only, only)
    low, median, high = quantiles(values, n=4, method="inclusive")
    return Spread(len(values), float(low), float(median), float(high))
