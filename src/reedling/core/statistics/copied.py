"""Whether figures look written down rather than read: the same one again and again, one last digit too often."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from scipy.special import bdtrc, chdtrc


@dataclass(frozen=True, slots=True, kw_only=True)
class SameAgain:
    """The figure that was written most often: how often of how many, how often others write it, and the
    chance that so many of it would come about if these were written as the others' are."""

    value: float
    n_same: int
    n: int
    others_share: float
    p_value: float


def same_again(own: Sequence[float], others: Sequence[float]) -> SameAgain | None:
    """How surprising the commonest of one's own figures is, held against everybody else's.

    Nothing where there are none of one's own or of others. The share among others is (k + 1) / (n + 2), so that
    a figure nobody else ever wrote is not impossible; that the commonest was picked out is paid for by the
    number of different figures (Bonferroni).
    """
    if not own or not others:
        return None
    counted = Counter(own)
    value, n_same = min(counted.items(), key=lambda item: (-item[1], item[0]))
    share = (sum(v == value for v in others) + 1) / (len(others) + 2)
    p = float(bdtrc(n_same - 1, len(own), share)) if n_same > 0 else 1.0
    return SameAgain(
        value=value,
        n_same=n_same,
        n=len(own),
        others_share=share,
        p_value=min(1.0, p * len(counted)),
    )


FEWEST_DIGITS = 50
"""Figures on either side below which last digits are not compared."""


def last_digit_p_value(own: Sequence[float], others: Sequence[float], digits: int) -> float | None:
    """The chance of last digits that differ so from those of others, if all wrote them alike.

    ``digits`` is how many stand behind the point. Nothing below :data:`FEWEST_DIGITS` figures on either side.
    Readings of a narrow range have uneven last digits by nature, so one's own are held against others' and not
    against each digit being as likely: chi-square test of homogeneity, digits of fewer than five expected taken
    together.
    """
    if min(len(own), len(others)) < FEWEST_DIGITS:
        return None
    counts = [Counter(round(abs(v) * 10**digits) % 10 for v in side) for side in (own, others)]
    n1, n2 = len(own), len(others)
    share = min(n1, n2) / (n1 + n2)
    cells: list[tuple[int, int]] = []
    rare = (0, 0)
    for digit in range(10):
        pair = (counts[0].get(digit, 0), counts[1].get(digit, 0))
        if sum(pair) * share >= 5:
            cells.append(pair)
        else:
            rare = (rare[0] + pair[0], rare[1] + pair[1])
    if sum(rare):
        cells.append(rare)
    if len(cells) < 2:
        return 1.0
    statistic = 0.0
    for pair in cells:
        for seen, n in zip(pair, (n1, n2), strict=True):
            expected = sum(pair) * n / (n1 + n2)
            statistic += (seen - expected) ** 2 / expected
    return float(chdtrc(len(cells) - 1, statistic))
