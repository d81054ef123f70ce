"""Where the middle of a sample lies, and how far its middle half reaches."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass


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
    ordered = sorted(values)
    return spread_of_ordered(len(ordered), ordered.__getitem__)


def spread_of_ordered(count: int, value_at: Callable[[int], float]) -> Spread | None:
    """As :func:`spread`, of values that lie in order somewhere else.

    ``value_at(i)`` gives the i-th smallest, from 0; at most six are asked for.

    >>> spread_of_ordered(4, [1, 2, 3, 4].__getitem__)
    Spread(count=4, low_quartile=1.75, median=2.5, high_quartile=3.25)
    """
    if count == 0:
        return None
    low, median, high = (_quartile(count, value_at, quarter) for quarter in (1, 2, 3))
    return Spread(count, low, median, high)


def _quartile(count: int, value_at: Callable[[int], float], quarter: int) -> float:
    """Between the two order statistics around place (count - 1) * quarter / 4, in whole quarters."""
    place, rest = divmod((count - 1) * quarter, 4)
    below = float(value_at(place))
    if rest == 0:
        return below
    return (below * (4 - rest) + float(value_at(place + 1)) * rest) / 4
