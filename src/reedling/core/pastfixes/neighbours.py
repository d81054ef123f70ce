"""The solved jobs whose calls are most like one, and the fixes that they had.

References
----------
.. [1] Cover, T. M. and Hart, P. E. (1967). Nearest neighbor pattern classification. IEEE Transactions on Information
   Theory 13(1), 21-27: a vote of the nearest.
.. [2] Spärck Jones, K. (1972). A statistical interpretation of term specificity and its application in retrieval.
   Journal of Documentation 28(1), 11-21: a shared word says the more, the fewer have it.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from reedling.core.pastfixes.solved import FaultCall, Remedied, SolvedJob

NEAREST = 30
"""So many jobs vote."""


@dataclass(frozen=True)
class SolvedCalls:
    """Solved jobs by the signs of their calls."""

    jobs: Sequence[SolvedJob]
    """In the order they were finished."""
    with_sign: Mapping[str, np.ndarray]
    """The places in ``jobs`` of those that have a sign, rising."""
    on_asset: Mapping[str, np.ndarray]
    """The places of the jobs on an asset, rising."""

    @classmethod
    def of(cls, jobs: Sequence[SolvedJob]) -> SolvedCalls:
        """From jobs in the order they were finished."""
        with_sign: defaultdict[str, list[int]] = defaultdict(list)
        on_asset: defaultdict[str, list[int]] = defaultdict(list)
        for place, job in enumerate(jobs):
            for sign in job.call.signs:
                with_sign[sign].append(place)
            if job.call.asset:
                on_asset[job.call.asset].append(place)
        return cls(jobs, _arrays(with_sign), _arrays(on_asset))

    def alike(self, call: FaultCall, n_first: int | None = None) -> np.ndarray:
        """How alike each job is to a call: the sum over the signs they share, each the more the rarer it is.

        Of the ``n_first`` jobs only, as if the others had not been yet; shape (n_first,), 0 where no sign is shared.
        """
        n = len(self.jobs) if n_first is None else n_first
        alike = np.zeros(n)
        for sign in call.signs:
            places = self.with_sign.get(sign)
            if places is not None:
                places = places[: np.searchsorted(places, n)]
                alike[places] += math.log1p(n / (1 + len(places)))
        # Sums that are equal on paper must not differ by the order of their terms: the later job would not be taken.
        return alike.round(9)

    def shares(
        self, alike: np.ndarray, weight_if_confirmed: float, n_nearest: int = NEAREST
    ) -> dict[Remedied, float]:
        """The share of each fix among the most alike of the first ``len(alike)`` jobs; of two as much alike the later.

        Jobs that share no sign have no vote; a confirmed one has so many. Nothing where none has a vote.
        """
        votes: defaultdict[Remedied, float] = defaultdict(float)
        for place in _highest(alike, n_nearest):
            job = self.jobs[place]
            votes[job.fix] += weight_if_confirmed if job.confirmed else 1.0
        whole = math.fsum(votes.values())
        return {fix: n / whole for fix, n in votes.items()}


def _arrays(places: Mapping[str, list[int]]) -> dict[str, np.ndarray]:
    return {key: np.array(held) for key, held in places.items()}


def _highest(values: np.ndarray, n: int) -> np.ndarray:
    """The places of the ``n`` highest values above zero, of equal ones the later; in any order."""
    if len(values) > n:
        least = np.partition(values, -n)[-n]
        above = np.flatnonzero(values > least)
        level = np.flatnonzero(values == least)[len(above) - n :]
        found = np.concatenate([above, level])
    else:
        found = np.arange(len(values))
    return np.asarray(found[values[found] > 0])
