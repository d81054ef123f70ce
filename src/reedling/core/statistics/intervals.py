"""Intervals for shares."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt
from statistics import NormalDist

from scipy.special import betaincinv

from reedling.errors import InvalidInput


@dataclass(frozen=True, slots=True)
class Share:
    """A share with its count and its interval; fractions in [0, 1], not percent.

    Of none, ``share`` is ``None`` and the interval is all of [0, 1]: nothing is known.
    """

    n_hits: int
    n_total: int
    share: float | None
    low: float
    high: float
    confidence: float


def wilson_interval(n_hits: int, n_total: int, *, confidence: float = 0.95) -> Share:
    """Score interval for a share, safe for small counts and for 0 or all hits.

    Parameters
    ----------
    n_hits : count, 0 <= n_hits <= n_total
    n_total : count of independent trials, 0 gives the interval [0, 1] and no share
    confidence : fraction in (0, 1), two-sided; 0.95 means 95 %

    Returns
    -------
    Share
        Fractions in [0, 1], not percent; ``low <= n_hits / n_total <= high``.

    Raises
    ------
    InvalidInput
        ``statistics.count_range`` if `n_hits` is not within 0 to `n_total`;
        ``statistics.confidence_range`` if `confidence` is not inside (0, 1).

    Notes
    -----
    Roots of [1]_'s quadratic; no continuity correction (method 3 of [2]_). Ours: the ends are
    pinned to 0 and 1 for no hits and all hits, where rounding would leave them a hair inside.
    Not valid for trials that depend on each other (steps repeated within one job).

    References
    ----------
    .. [1] Wilson, E. B. (1927). J. Am. Stat. Assoc. 22(158), 209-212.
    .. [2] Newcombe, R. G. (1998). Statistics in Medicine 17(8), 857-872, Table I.

    Examples
    --------
    >>> ci = wilson_interval(15, 148)  # a worked case of [2]_
    >>> round(ci.low, 4), round(ci.high, 4)
    (0.0624, 0.1605)
    """
    if not 0 <= n_hits <= n_total:
        raise InvalidInput(
            "statistics.count_range",
            f"the number of hits must be 0 to {n_total}, got {n_hits}.",
        )
    if not 0 < confidence < 1:
        raise InvalidInput(
            "statistics.confidence_range",
            f"the confidence must lie between 0 and 1, got {confidence}.",
            hint="Write 95 % as 0.95.",
        )
    if n_total == 0:
        return Share(0, 0, None, 0.0, 1.0, confidence)
    z = NormalDist().inv_cdf(0.5 + confidence / 2)
    p = n_hits / n_total
    middle = p + z * z / (2 * n_total)
    reach = z * sqrt(p * (1 - p) / n_total + z * z / (4 * n_total * n_total))
    scale = 1 + z * z / n_total
    low = 0.0 if n_hits == 0 else (middle - reach) / scale
    high = 1.0 if n_hits == n_total else (middle + reach) / scale
    return Share(n_hits, n_total, p, low, high, confidence)


@dataclass(frozen=True, slots=True)
class ShareDifference:
    """How much larger the second share is than the first, with its interval; in [-1, 1]."""

    difference: float
    low: float
    high: float


def share_at_most(n_hits: int, n_total: int, *, confidence: float = 0.95) -> float:
    """The largest share that so few hits leave possible: with this confidence the true one lies below; a fraction.

    Of no trials it is 1.

    Notes
    -----
    Upper end of the exact interval [1]_, one-sided. Of no hits it is 1 − (1 − confidence)^(1/n), of which the rule of
    three is the approximation.

    References
    ----------
    .. [1] Clopper, C. J. and Pearson, E. S. (1934). Biometrika 26(4), 404-413.

    Examples
    --------
    >>> round(share_at_most(0, 60), 4), round(share_at_most(3, 60), 4)
    (0.0487, 0.1242)
    """
    if n_hits >= n_total:
        return 1.0
    return float(betaincinv(n_hits + 1, n_total - n_hits, confidence))


def difference_interval(first: Share, second: Share) -> ShareDifference | None:
    """Newcombe's hybrid score interval for the difference of two independent shares.

    Gives second minus first, at the confidence both intervals were made with; nothing when
    either share is of none.

    Notes
    -----
    Method 10 of [1]_: each end joins the Wilson ends that lie on its side, as a root sum of
    squares. Not valid for paired shares.

    References
    ----------
    .. [1] Newcombe, R. G. (1998). Statistics in Medicine 17(8), 873-890.

    Examples
    --------
    >>> d = difference_interval(wilson_interval(48, 80), wilson_interval(56, 70))
    >>> round(d.low, 4), round(d.high, 4)
    (0.0524, 0.3339)
    """
    if first.share is None or second.share is None:
        return None
    p1, p2 = first.share, second.share
    low = sqrt((p2 - second.low) ** 2 + (first.high - p1) ** 2)
    high = sqrt((second.high - p2) ** 2 + (p1 - first.low) ** 2)
    return ShareDifference(p2 - p1, p2 - p1 - low, p2 - p1 + high)
