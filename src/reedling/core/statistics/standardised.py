"""The difference of two means with the mix of cases held fixed."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from math import fsum, inf, sqrt

from scipy.special import stdtrit


@dataclass(frozen=True, slots=True, kw_only=True)
class StandardisedDifference:
    """By how much the second mean lies above the first, weighted by the mix of the second, with its 95 % range.

    ``n_first`` and ``n_second`` values count; ``n_alone`` of either side have none alike on the other.
    """

    value: float
    low: float
    high: float
    variance: float
    n_first: int
    n_second: int
    n_alone: int


def standardised_difference(
    strata: Iterable[tuple[Sequence[float], Sequence[float]]],
    *,
    confidence: float = 0.95,
    widened: float = 1.0,
) -> StandardisedDifference | None:
    """Directly standardised difference of means over strata, each with the values of both sides.

    Strata with fewer than two values on a side are left out and counted. The range is Welch's with the degrees of
    freedom of Satterthwaite, over all strata; of one stratum it is Welch's t interval. Nothing where no stratum is left.
    ``widened`` is a factor of the variance, for values that were worked out with others of the same sample.

    References
    ----------
    .. [1] Satterthwaite, F. E. (1946). Biometrics Bulletin 2(6), 110-114.
    .. [2] Fleiss, J. L., Levin, B. and Paik, M. C. (2003). Statistical Methods for Rates and Proportions, chapter 19.
    """
    kept: list[tuple[Sequence[float], Sequence[float]]] = []
    n_alone = 0
    for first, second in strata:
        if min(len(first), len(second)) < 2:
            n_alone += len(first) + len(second)
        else:
            kept.append((first, second))
    if not kept:
        return None
    n_second = sum(len(second) for _, second in kept)
    value, variance, spread = 0.0, 0.0, 0.0
    for first, second in kept:
        weight = len(second) / n_second
        value += weight * (_mean(second) - _mean(first))
        for side in (first, second):
            own = weight * weight * _variance(side) / len(side)
            variance += own
            spread += own * own / (len(side) - 1)
    freedom = variance * variance / spread if spread > 0 else inf
    variance *= widened
    half = float(stdtrit(freedom, (1 + confidence) / 2)) * sqrt(variance) if variance > 0 else 0.0
    return StandardisedDifference(
        value=value,
        low=value - half,
        high=value + half,
        variance=variance,
        n_first=sum(len(first) for first, _ in kept),
        n_second=n_second,
        n_alone=n_alone,
    )


def _mean(values: Sequence[float]) -> float:
    return fsum(values) / len(values)


def _variance(values: Sequence[float]) -> float:
    mean = _mean(values)
    return fsum((v - mean) ** 2 for v in values) / (len(values) - 1)
