"""A difference of shares between two sides whose mix differs: compared within strata, then put together."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from math import erfc, sqrt
from statistics import NormalDist


@dataclass(frozen=True, slots=True, kw_only=True)
class Stratum:
    """Hits out of totals on the two sides, among jobs that are alike in what is held fixed."""

    first_hits: int
    first_total: int
    second_hits: int
    second_total: int


@dataclass(frozen=True, slots=True, kw_only=True)
class AdjustedDifference:
    """Second minus first within strata, in [-1, 1], with its interval and the p-value of no difference.

    ``n_strata`` have jobs on both sides; ``first_total`` and ``second_total`` are the jobs in them.
    """

    difference: float
    low: float
    high: float
    p_value: float
    n_strata: int
    first_total: int
    second_total: int


def adjusted_difference(strata: Iterable[Stratum], *, confidence: float = 0.95) -> AdjustedDifference | None:
    """The difference of two shares with the mix held fixed; nothing where no stratum has both sides.

    Notes
    -----
    Mantel-Haenszel risk difference [1]_ [2]_ with the variance of Greenland and Robins [3]_, valid both for
    few large and for many small strata. The p-value is of the Cochran-Mantel-Haenszel statistic without
    continuity correction; it is 1 where no stratum can tell. A stratum with jobs on one side only says nothing
    and is left out: :attr:`AdjustedDifference.first_total` tells how many jobs were used.

    References
    ----------
    .. [1] Mantel, N. and Haenszel, W. (1959). J. Natl. Cancer Inst. 22(4), 719-748.
    .. [2] Cochran, W. G. (1954). Biometrics 10(4), 417-451.
    .. [3] Greenland, S. and Robins, J. M. (1985). Biometrics 41(1), 55-68.

    Examples
    --------
    Each side does the same within the easy and within the hard jobs; only the mix differs.

    >>> found = adjusted_difference([
    ...     Stratum(first_hits=18, first_total=20, second_hits=72, second_total=80),
    ...     Stratum(first_hits=40, first_total=80, second_hits=10, second_total=20)])
    >>> round(found.difference, 12)
    0.0
    """
    used = [s for s in strata if s.first_total and s.second_total]
    if not used:
        return None
    weight = difference = spread = 0.0
    excess = variance = 0.0
    for s in used:
        n1, n2 = s.first_total, s.second_total
        n = n1 + n2
        w = n1 * n2 / n
        weight += w
        difference += w * (s.second_hits / n2 - s.first_hits / n1)
        spread += (
            s.first_hits * (n1 - s.first_hits) * n2**3 + s.second_hits * (n2 - s.second_hits) * n1**3
        ) / (n1 * n2 * n**2)
        hits = s.first_hits + s.second_hits
        excess += s.second_hits - n2 * hits / n
        if n > 1:
            variance += n1 * n2 * hits * (n - hits) / (n**2 * (n - 1))
    middle = difference / weight
    reach = NormalDist().inv_cdf(0.5 + confidence / 2) * sqrt(spread) / weight
    return AdjustedDifference(
        difference=middle,
        low=max(-1.0, middle - reach),
        high=min(1.0, middle + reach),
        p_value=erfc(abs(excess) / sqrt(2 * variance)) if variance > 0 else 1.0,
        n_strata=len(used),
        first_total=sum(s.first_total for s in used),
        second_total=sum(s.second_total for s in used),
    )
