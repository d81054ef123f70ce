"""Many figures tested at once: which of them may be called signals."""

from __future__ import annotations

from collections.abc import Sequence

FALSE_DISCOVERY_RATE = 0.10
"""Of what is shown as a signal, at most this share is expected to be chance."""


def false_discovery_adjusted(p_values: Sequence[float]) -> tuple[float, ...]:
    """Each p-value as the least rate of false discoveries at which it would count.

    Notes
    -----
    Step-up procedure [1]_, in its adjusted form: p(i) · m / i, made to rise with i from the largest down.
    Valid for independent tests and for those that depend on each other positively.

    References
    ----------
    .. [1] Benjamini, Y. and Hochberg, Y. (1995). J. R. Stat. Soc. B 57(1), 289-300.

    Examples
    --------
    >>> [round(p, 3) for p in false_discovery_adjusted([0.01, 0.04, 0.03, 0.5])]
    [0.04, 0.053, 0.053, 0.5]
    """
    n = len(p_values)
    order = sorted(range(n), key=lambda i: p_values[i], reverse=True)
    out = [1.0] * n
    least = 1.0
    for place, i in enumerate(order):
        least = min(least, p_values[i] * n / (n - place))
        out[i] = least
    return tuple(out)
