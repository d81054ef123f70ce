"""Intervals by drawing the sample anew, seeded, for figures that have no formula at hand."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

N_DRAWS = 2_000
FEWEST_DRAWS = 400
MOST_DRAWN = 4_000_000
"""Values drawn in all: a large sample is drawn less often, its interval being narrow anyway."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Ranged:
    """A figure of ``count`` values with its interval, in the unit of the values."""

    value: float
    low: float
    high: float
    count: int


def median_interval(
    values: Sequence[float], *, confidence: float = 0.95, seed: int = 1, n_draws: int = N_DRAWS
) -> Ranged | None:
    """The median with its percentile bootstrap interval; nothing for no values.

    References
    ----------
    .. [1] Efron, B. and Tibshirani, R. J. (1993). An Introduction to the Bootstrap, chapter 13.
    """
    if not values:
        return None
    sample = np.asarray(values, dtype=float)
    drawn = np.median(_drawn(sample, n_draws, np.random.default_rng(seed)), axis=1)
    low, high = np.quantile(drawn, _tails(confidence))
    return Ranged(value=float(np.median(sample)), low=float(low), high=float(high), count=len(values))


def mean_interval(
    values: Sequence[float], *, confidence: float = 0.95, seed: int = 1, n_draws: int = N_DRAWS
) -> Ranged | None:
    """The mean with its percentile bootstrap interval; as :func:`median_interval`."""
    if not values:
        return None
    sample = np.asarray(values, dtype=float)
    drawn = _drawn(sample, n_draws, np.random.default_rng(seed)).mean(axis=1)
    low, high = np.quantile(drawn, _tails(confidence))
    return Ranged(value=float(sample.mean()), low=float(low), high=float(high), count=len(values))


def _drawn(sample: np.ndarray, n_draws: int, rng: np.random.Generator) -> np.ndarray:
    n_draws = min(n_draws, max(FEWEST_DRAWS, MOST_DRAWN // len(sample)))
    return sample[rng.integers(0, len(sample), (n_draws, len(sample)))]


def _tails(confidence: float) -> tuple[float, float]:
    return (1 - confidence) / 2, (1 + confidence) / 2
