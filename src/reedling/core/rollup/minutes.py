"""How long a plan takes: three-point minutes of each step, over all the ways through its branches.

A step's minutes have mean (low + 4 likely + high) / 6 and variance ((high - low) / 6)^2 [1]_. Along
one way through the plan these add up, and the sum is taken as normal; over all the ways the minutes
are a mixture of such sums, each with the chance of its way.

References
----------
.. [1] Malcolm, D. G., Roseboom, J. H., Clark, C. E., Fazar, W. (1959). Application of a technique for
   research and development program evaluation. Operations Research 7(5), 646-669.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq
from scipy.special import ndtr

from reedling.core.guidance.plans import Minutes


@dataclass(frozen=True, slots=True, kw_only=True)
class MinutesSpread:
    """What to expect of a job's minutes. Half of the jobs take up to ``p50``, four in five ``p80``.

    ``method`` says whether all ``n_ways`` through the plan were counted, or that many were drawn.
    """

    mean: float
    p50: float
    p80: float
    n_ways: int
    method: Literal["exact", "drawn"]


def mean_and_variance(minutes: Minutes) -> tuple[float, float]:
    """Mean and variance of a step's minutes; an end that is missing is the likely value.

    >>> mean_and_variance(Minutes(low=4, likely=5, high=12))
    (6.0, 1.7777777777777777)
    """
    low = minutes.likely if minutes.low is None else min(minutes.low, minutes.likely)
    high = minutes.likely if minutes.high is None else max(minutes.high, minutes.likely)
    return (low + 4 * minutes.likely + high) / 6, ((high - low) / 6) ** 2


def minutes_spread(
    p: NDArray[np.float64],
    steps: Sequence[tuple[Minutes, NDArray[np.bool_]]],
    *,
    n_ways: int,
    method: Literal["exact", "drawn"],
) -> MinutesSpread:
    """The minutes of steps that are each wanted on some of the ways, whose chances are ``p``."""
    mean = np.zeros(len(p))
    variance = np.zeros(len(p))
    for minutes, wanted in steps:
        m, v = mean_and_variance(minutes)
        mean += m * wanted
        variance += v * wanted
    # Runs that take the same minutes are one to the mixture, and there are few that do not.
    alike, number = np.unique(mean + 1j * variance, return_inverse=True)
    chances = np.asarray(np.bincount(number, weights=p), dtype=np.float64)
    return MinutesSpread(
        mean=float(alike.real @ chances),
        p50=_quantile(0.5, chances, alike.real, alike.imag),
        p80=_quantile(0.8, chances, alike.real, alike.imag),
        n_ways=n_ways,
        method=method,
    )


def _quantile(
    share: float, p: NDArray[np.float64], mean: NDArray[np.float64], variance: NDArray[np.float64]
) -> float:
    """Where the mixture of normals reaches a share, to a thousandth of a minute.

    By R. P. Brent's method (*Algorithms for Minimization without Derivatives*, 1973, chapter 4).
    """
    sd = np.maximum(np.sqrt(variance), 1e-6)

    def beyond(minutes: float) -> float:
        return float(ndtr((minutes - mean) / sd) @ p) - share

    low, high = float((mean - 9 * sd).min()), float((mean + 9 * sd).max())
    return max(0.0, round(float(brentq(beyond, low, high, xtol=1e-3)), 2))
