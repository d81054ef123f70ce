"""Whether something is rarer here than elsewhere, exactly, however few there are."""

from __future__ import annotations

from math import comb


def rarer_p_value(n_here: int, n_drawn: int, n_hits: int, n: int) -> float:
    """The chance of at most ``n_here`` of ``n_hits`` hits among ``n_drawn`` out of ``n``, were they spread at random.

    Notes
    -----
    Fisher's exact test, one-sided [1]_: the sum of hypergeometric chances.

    References
    ----------
    .. [1] Fisher, R. A. (1935). The logic of inductive inference. J. R. Stat. Soc. 98(1), 39-82.

    Examples
    --------
    >>> round(rarer_p_value(1, 4, 4, 8), 4)
    0.2429
    """
    ways = sum(comb(n_hits, k) * comb(n - n_hits, n_drawn - k) for k in range(n_here + 1))
    return ways / comb(n, n_drawn)
