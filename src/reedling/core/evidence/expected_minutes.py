"""How many minutes a job was to be expected to take, by what earlier jobs of its kind took and who went."""

from __future__ import annotations

import numpy as np

from reedling.core.evidence.compared_jobs import HELD_FIXED, kinds_by
from reedling.core.evidence.cross_filter import JobColumns
from reedling.core.evidence.paces import PACE_WEIGHT, ROUNDS, SHORTEST_MINUTES

KIND_WEIGHT = 2.0
"""A kind of jobs is drawn towards all jobs with its cause as if so many further ones had taken what these take."""


def expected_minutes(columns: JobColumns, past: np.ndarray) -> np.ndarray:
    """The minutes on site to be expected of each job, learned from the ``past`` ones alone; shape (n,).

    Kinds are those that :data:`HELD_FIXED` tells apart; the district and who went are factors beside it. Of what no past
    job had, the mean of the wider kind is taken. Without any past job with minutes, all are nan.

    Notes
    -----
    A model of log minutes fitted in turns (backfitting [1]_), each effect drawn towards none where there are few jobs;
    brought back to minutes by the mean of what it leaves (smearing [2]_).

    References
    ----------
    .. [1] Hastie, T. and Tibshirani, R. (1990). Generalized Additive Models, chapter 4.
    .. [2] Duan, N. (1983). Journal of the American Statistical Association 78(383), 605-610.
    """
    learned = past & ~np.isnan(columns.minutes)
    if not learned.any():
        return np.full(len(columns.orders), np.nan)
    logs = np.log(np.maximum(columns.minutes, SHORTEST_MINUTES), where=learned, out=np.zeros(len(learned)))
    everybody, cause = np.zeros(len(learned), dtype=int), kinds_by(columns, ("cause",))
    levels = (
        (everybody, 0.0),
        (cause, KIND_WEIGHT),
        (kinds_by(columns, HELD_FIXED), KIND_WEIGHT),
        (kinds_by(columns, ("district",)), PACE_WEIGHT),
        (np.unique(columns.people, return_inverse=True)[1], PACE_WEIGHT),
    )
    effects = [np.zeros(group.max() + 1) for group, _ in levels]
    for _ in range(ROUNDS):
        for i, (group, weight) in enumerate(levels):
            rest = logs - _sum_of(effects, levels, but=i)
            n = np.bincount(group[learned], minlength=len(effects[i]))
            effects[i] = np.bincount(group[learned], rest[learned], len(effects[i])) / np.maximum(
                n + weight, 1
            )
    fitted = np.exp(_sum_of(effects, levels))
    left = columns.minutes[learned] / fitted[learned]
    return np.asarray(fitted * left.mean())


FOLDS = 5


def over_expected_by_the_others(columns: JobColumns, past: np.ndarray) -> np.ndarray:
    """Minutes of the past jobs over what the other past jobs would have had one expect of them; shape (n of past,).

    Each fifth is held against the other four fifths, so that no job was learned from before it is held against it
    (cross-validation). Jobs without minutes are left out.
    """
    timed = np.flatnonzero(past & ~np.isnan(columns.minutes))
    found = np.full(len(columns.orders), np.nan)
    for fold in range(FOLDS):
        held_out = timed[fold::FOLDS]
        others = np.zeros(len(columns.orders), dtype=bool)
        others[np.setdiff1d(timed, held_out)] = True
        found[held_out] = (columns.minutes - expected_minutes(columns, others))[held_out]
    over = found[timed]
    return np.asarray(over[~np.isnan(over)])


def _sum_of(
    effects: list[np.ndarray], levels: tuple[tuple[np.ndarray, float], ...], but: int | None = None
) -> np.ndarray:
    held = [
        effect[group] for i, (effect, (group, _)) in enumerate(zip(effects, levels, strict=True)) if i != but
    ]
    return np.asarray(np.sum(held, axis=0))
