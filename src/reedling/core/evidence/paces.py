"""How long people take for the same work, taken out of the minutes of jobs so that who went is not counted."""

from __future__ import annotations

import numpy as np

PACE_WEIGHT = 0.5
"""Everybody is taken to have worked so many further jobs at the usual pace: of one job hardly a pace is made out."""
MOST_CONFOUNDED = 0.9
ROUNDS = 30
SHORTEST_MINUTES = 1.0


def minutes_at_one_pace(
    minutes: np.ndarray, kinds: np.ndarray, people: np.ndarray, anchor: np.ndarray
) -> np.ndarray:
    """The minutes that jobs would have taken at the mean pace of the jobs of ``anchor``.

    Parameters
    ----------
    minutes : of each job, shape (n,)
    kinds : a number for the kind of each job, shape (n,); jobs of one kind ask for the same work
    people : a number for who carried each job out, shape (n,)
    anchor : which jobs have the pace that all are brought to, booleans, shape (n,)

    Notes
    -----
    A pace is a factor: log minutes are a mean of their kind and an effect of the person, drawn towards none by
    :data:`PACE_WEIGHT` jobs (partial pooling [1]_), fitted in turns until both settle.

    References
    ----------
    .. [1] Gelman, A. and Hill, J. (2007). Data Analysis Using Regression and Multilevel/Hierarchical Models, chapter 12.
    """
    if not len(minutes) or not anchor.any():
        return minutes
    logs = np.log(np.maximum(minutes, SHORTEST_MINUTES))
    _, kinds = np.unique(kinds, return_inverse=True)
    _, people = np.unique(people, return_inverse=True)
    n_of_kind, n_of_person = np.bincount(kinds), np.bincount(people)
    effects = np.zeros(len(n_of_person))
    for _ in range(ROUNDS):
        means = np.bincount(kinds, logs - effects[people]) / n_of_kind
        effects = np.bincount(people, logs - means[kinds]) / (n_of_person + PACE_WEIGHT)
    usual = float(np.log(np.mean(np.exp(effects[people[anchor]]))))
    return minutes * np.exp(usual - effects[people])


def widening(kinds: np.ndarray, people: np.ndarray, second: np.ndarray) -> float:
    """By what factor the variance of a difference grows because paces are worked out from the same jobs.

    1 where one person went, little above where everybody went equally often on both sides, more the more the sides were
    carried out by different people. ``second`` says which jobs are of the second side, shape (n,), as ``kinds`` and
    ``people``; here jobs of both sides are of one kind where they ask for the same work.

    Notes
    -----
    The variance inflation factor 1 / (1 - R²) [1]_, R² being the share of the variation of the side, within kinds, that
    who went explains; and the degrees of freedom that the paces take up. Ours: of more than :data:`MOST_CONFOUNDED` no
    more is made.

    References
    ----------
    .. [1] Marquardt, D. W. (1970). Technometrics 12(3), 591-612.
    """
    _, kinds = np.unique(kinds, return_inverse=True)
    _, people = np.unique(people, return_inverse=True)
    side = second.astype(float)
    apart = side - (np.bincount(kinds, side) / np.bincount(kinds))[kinds]
    total = float(apart @ apart)
    if total <= 0:
        return 1.0
    n_of_person = np.bincount(people)
    by_person = np.bincount(people, apart) / n_of_person
    explained = float(n_of_person @ by_person**2) / total
    n = len(kinds)
    lost = min(len(n_of_person) - 1, n // 2)
    return n / (n - lost) / (1 - min(explained, MOST_CONFOUNDED))
