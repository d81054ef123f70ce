"""How long a plan takes: three-point minutes of each step, over all the ways through its branches.

A step's minutes have mean (low + 4 likely + high) / 6 and variance ((high - low) / 6)^2 [1]_. Along
one way through the plan these add up, and the sum is taken as normal; over all the ways the minutes
are a mixture of such sums, each with the chance of its way. Up to 4,096 ways are counted exactly,
beyond that ways are drawn by a seeded generator.

References
----------
.. [1] Malcolm, D. G., Roseboom, J. H., Clark, C. E., Fazar, W. (1959). Application of a technique for
   research and development program evaluation. Operations Research 7(5), 646-669.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from scipy.special import ndtr

from reedling.core.guidance.plans import Minutes
from reedling.core.rollup.branches import Decision, Key

MOST_EXACT_WAYS = 4096
N_DRAWN_WAYS = 20_000
SEED = 1959


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


@dataclass(frozen=True, slots=True)
class Ways:
    """The ways through a plan: the chance of each, and for each condition whether it is true on it."""

    p: NDArray[np.float64]
    true: dict[Key, NDArray[np.bool_]]
    method: Literal["exact", "drawn"]

    def holds(self, key: Key | None) -> NDArray[np.bool_]:
        """On which ways a condition is true; no condition is true on all."""
        if key is None:
            return np.ones(len(self.p), dtype=bool)
        return self.true.get(key, np.zeros(len(self.p), dtype=bool))


def ways_through(decided: Sequence[Decision]) -> Ways:
    """Every combination of ways the decisions can come out, or a seeded draw of them."""
    keys = {key for d in decided for _, made in d.ways for key in made}
    count = 1
    for d in decided:
        count *= len(d.ways)
    if count > MOST_EXACT_WAYS:
        rng = np.random.default_rng(SEED)
        chosen = [rng.choice(len(d.ways), size=N_DRAWN_WAYS, p=_normal(d)) for d in decided]
        p = np.full(N_DRAWN_WAYS, 1 / N_DRAWN_WAYS)
    else:
        grid: Any = np.indices([len(d.ways) for d in decided]).reshape(len(decided), count)
        chosen = list(grid)
        p = np.ones(count)
        for d, index in zip(decided, chosen, strict=True):
            p = p * np.array(_normal(d))[index]
    true = {key: np.zeros(len(p), dtype=bool) for key in keys}
    for d, index in zip(decided, chosen, strict=True):
        for key in {key for _, made in d.ways for key in made}:
            true[key] |= np.array([key in made for _, made in d.ways])[index]
    return Ways(p=p, true=true, method="drawn" if count > MOST_EXACT_WAYS else "exact")


def _normal(d: Decision) -> list[float]:
    total = sum(p for p, _ in d.ways)
    return [p / total for p, _ in d.ways]


def mean_and_variance(minutes: Minutes) -> tuple[float, float]:
    """Mean and variance of a step's minutes; an end that is missing is the likely value.

    >>> mean_and_variance(Minutes(low=4, likely=5, high=12))
    (6.0, 1.7777777777777777)
    """
    low = minutes.likely if minutes.low is None else min(minutes.low, minutes.likely)
    high = minutes.likely if minutes.high is None else max(minutes.high, minutes.likely)
    return (low + 4 * minutes.likely + high) / 6, ((high - low) / 6) ** 2


def minutes_spread(ways: Ways, steps: Sequence[tuple[Minutes, NDArray[np.bool_], int]]) -> MinutesSpread:
    """The minutes of steps that are each wanted on some of the ways, and then so many times."""
    mean = np.zeros(len(ways.p))
    variance = np.zeros(len(ways.p))
    for minutes, wanted, times in steps:
        m, v = mean_and_variance(minutes)
        mean += times * m * wanted
        variance += times * v * wanted
    return MinutesSpread(
        mean=float(mean @ ways.p),
        p50=_quantile(0.5, ways.p, mean, variance),
        p80=_quantile(0.8, ways.p, mean, variance),
        n_ways=len(ways.p),
        method=ways.method,
    )


def _quantile(
    share: float, p: NDArray[np.float64], mean: NDArray[np.float64], variance: NDArray[np.float64]
) -> float:
    """Where the mixture of normals reaches a share, by bisection to a thousandth of a minute."""
    sd = np.maximum(np.sqrt(variance), 1e-6)
    low, high = float((mean - 9 * sd).min()), float((mean + 9 * sd).max())
    while high - low > 1e-3:
        middle = (low + high) / 2
        if float(ndtr((middle - mean) / sd) @ p) < share:
            low = middle
        else:
            high = middle
    return max(0.0, round((low + high) / 2, 2))
