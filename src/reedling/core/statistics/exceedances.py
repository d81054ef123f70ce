"""How many of one's own values lie below nearly all of everybody else's, and how surprising that is.

References
----------
.. [1] Gumbel, E. J. and von Schelling, H. (1950). The distribution of the number of exceedances. Annals of
   Mathematical Statistics 21(2), 247-262.
"""

from __future__ import annotations

import numpy as np
from scipy.special import gammaln


def exceedance_p_value(n_below: int, n_own: int, n_others: int, rank: int) -> float:
    """The chance that at least ``n_below`` of ``n_own`` values lie below the ``rank``-th smallest of ``n_others``.

    Exact where all values come from one distribution, whatever it is [1]_; where some are equal, it errs on the side
    of what is not surprising as long as equal values are not counted as below.

    >>> round(exceedance_p_value(3, 12, 200, 2), 5)
    0.00054
    """
    assert 1 <= rank <= n_others
    if n_below <= 0:
        return 1.0
    k = np.arange(n_below, n_own + 1, dtype=float)
    logs = (
        _log_choose(k + rank - 1, k)
        + _log_choose(n_own - k + n_others - rank, n_own - k)
        - _log_choose(float(n_own + n_others), float(n_own))
    )
    return float(min(1.0, np.exp(logs).sum()))


def _log_choose(n: np.ndarray | float, k: np.ndarray | float) -> np.ndarray:
    return np.asarray(gammaln(n + 1) - gammaln(k + 1) - gammaln(n - k + 1))
