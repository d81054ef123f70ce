"""Ranges of a mean that may be looked at after every value: they hold at all times at once."""

from __future__ import annotations

from math import e, log, sqrt

from scipy.special import lambertw


def mixture_width(n: int, narrowest_at: int, *, alpha: float = 0.05) -> float:
    """Half the width of the range of a mean after ``n`` values, in standard deviations of one value.

    With probability 1 − ``alpha`` the range holds the true mean after every one of the values, however many are looked
    at, so that one may stop when one likes. It is about as narrow as it can be at ``narrowest_at`` values.

    Notes
    -----
    The normal mixture of Robbins [1]_, for values of any distribution by the central limit theorem [2]_: with
    the standard deviation estimated it holds as the values grow many. The best mixture for a number of values is that of
    [3]_, by Lambert's W.

    References
    ----------
    .. [1] Robbins, H. (1970). Annals of Mathematical Statistics 41(5), 1397-1409.
    .. [2] Waudby-Smith, I., Arbour, D., Sinha, R., Kennedy, E. H. and Ramdas, A. (2024). Annals of Statistics 52(6),
       2613-2640, theorem 2.2.
    .. [3] Howard, S. R., Ramdas, A., McAuliffe, J. and Sekhon, J. (2021). Annals of Statistics 49(2), 1055-1080,
       section 3.5.
    """
    rho2 = (-lambertw(-alpha * alpha / e, -1).real - 1) / narrowest_at
    spread = n * rho2 + 1
    return sqrt(2 * spread / (n * n * rho2) * log(sqrt(spread) / alpha))
