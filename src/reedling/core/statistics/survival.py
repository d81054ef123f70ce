"""How long it lasts: the product-limit estimate of what has not ended by a time, with its interval."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby
from math import exp, log, sqrt
from operator import itemgetter
from statistics import NormalDist

from reedling.errors import InvalidInput


@dataclass(frozen=True, slots=True, kw_only=True)
class SurvivalPoint:
    """The curve from one time at which something ended until the next; ``time`` is in the unit of the times.

    ``at_risk`` were still watched just before, ``n_ended`` ended then. ``share`` has not ended by then, within
    ``low`` to ``high``.
    """

    time: float
    at_risk: int
    n_ended: int
    share: float
    low: float
    high: float


def kaplan_meier(
    times: Sequence[float], ended: Sequence[bool], *, confidence: float = 0.95
) -> tuple[SurvivalPoint, ...]:
    """The share that has not ended, at every time at which something ended.

    Parameters
    ----------
    times : how long each was watched, 0 or more, in any one unit
    ended : whether it had ended then; else it is only known to have lasted so long (right-censored)
    confidence : fraction in (0, 1), two-sided

    Raises
    ------
    InvalidInput
        ``statistics.lengths`` when there are not as many of one as of the other; ``statistics.times`` for a
        time below 0.

    Notes
    -----
    Product-limit estimate [1]_; variance of its logarithm by Greenwood's formula [2]_, the interval on the
    scale of log(-log), so that it stays within 0 and 1 [3]_. What is censored at a time was still watched
    when something ended at that very time. Where all have ended the interval is that of the point before.

    References
    ----------
    .. [1] Kaplan, E. L. and Meier, P. (1958). J. Am. Stat. Assoc. 53(282), 457-481.
    .. [2] Greenwood, M. (1926). Reports on Public Health and Medical Subjects 33, HMSO.
    .. [3] Kalbfleisch, J. D. and Prentice, R. L. (1980). The Statistical Analysis of Failure Time Data.

    Examples
    --------
    >>> [(p.time, round(p.share, 4)) for p in kaplan_meier([6, 6, 6, 7, 10], [True, True, True, True, False])]
    [(6, 0.4), (7, 0.2)]
    """
    if len(times) != len(ended):
        raise InvalidInput(
            "statistics.lengths", f"there are {len(times)} times and {len(ended)} that ended or not."
        )
    if any(not t >= 0 for t in times):
        raise InvalidInput("statistics.times", "a time lies below 0.")
    z = NormalDist().inv_cdf(0.5 + confidence / 2)
    at_risk, share, spread = len(times), 1.0, 0.0
    out: list[SurvivalPoint] = []
    low, high = 1.0, 1.0
    for time, at_once in groupby(sorted(zip(times, ended, strict=True)), key=itemgetter(0)):
        here = [is_end for _, is_end in at_once]
        n_ended = sum(here)
        if n_ended:
            share *= 1 - n_ended / at_risk
            if n_ended < at_risk:
                spread += n_ended / (at_risk * (at_risk - n_ended))
                reach = z * sqrt(spread) / log(share)
                low, high = (exp(log(share) * exp(sign * reach)) for sign in (-1, 1))
                low, high = min(low, high), max(low, high)
            out.append(
                SurvivalPoint(
                    time=time, at_risk=at_risk, n_ended=n_ended, share=share, low=min(low, share), high=high
                )
            )
        at_risk -= len(here)
    return tuple(out)


def share_ended_by(points: Sequence[SurvivalPoint], time: float) -> tuple[float, float, float]:
    """The share that had ended by a time, and its interval; nothing has before the first point."""
    held = [point for point in points if point.time <= time]
    if not held:
        return 0.0, 0.0, 0.0
    return 1 - held[-1].share, 1 - held[-1].high, 1 - held[-1].low
