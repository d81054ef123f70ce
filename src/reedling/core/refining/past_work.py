"""Closed jobs as they can be walked again, and what is drawn from them where another recorded nothing.

References
----------
.. [1] Rubin, D. B. and Schenker, N. (1986). Multiple imputation for interval estimation from simple random
   samples with ignorable nonresponse. Journal of the American Statistical Association 81, 366-374: the
   approximate Bayesian bootstrap, by which donors are drawn.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from reedling.core.logic.conditions import Answer

FEWEST_ALIKE = 5
"""Fewer jobs of a model and cause than this are no donors by themselves."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PastWork:
    """A closed job as it can be walked again: ``answers`` by question and ``minutes`` by line, as its sheet named
    them; ``facts`` and ``last`` as its sheet had them. ``parts`` are those it used; ``n_fetches`` of its visits
    ended because a part was missing."""

    order: str
    model: str
    cause: str
    answers: Mapping[str, Answer]
    minutes: Mapping[str, float]
    facts: Mapping[str, Answer] = field(default_factory=dict)
    last: Mapping[str, Answer] = field(default_factory=dict)
    parts: frozenset[str] = frozenset()
    n_fetches: int = 0


_Nearest = Callable[[PastWork], str]
"""What makes jobs most alike: for an answer the cause, for minutes the model."""


@dataclass(frozen=True)
class Donors:
    """What the jobs recorded, to be drawn from where another did not; ``filling`` is the number of the draw."""

    jobs: Sequence[PastWork]
    filling: int = 0

    def answer(self, question: str, job: PastWork) -> Answer | None:
        """An answer to a question from a job like this one; nothing where no job has one."""
        donor = self._donor(question, job, self._answers, lambda other: other.cause)
        return donor.answers[question] if donor else None

    def minutes(self, line: str, job: PastWork) -> float | None:
        """The minutes of a line in a job like this one; nothing where no job has any."""
        donor = self._donor(line, job, self._minutes, lambda other: other.model)
        return donor.minutes[line] if donor else None

    @cached_property
    def _answers(self) -> dict[str, list[int]]:
        return _places(self.jobs, lambda job: job.answers)

    @cached_property
    def _minutes(self) -> dict[str, list[int]]:
        return _places(self.jobs, lambda job: job.minutes)

    def _donor(
        self, key: str, job: PastWork, places: Mapping[str, list[int]], nearest: _Nearest
    ) -> PastWork | None:
        pool = [self.jobs[i] for i in places.get(key, ())]
        if not pool:
            return None
        alike = _alike(pool, job, nearest)
        # The donors themselves are drawn first, then one of them: without it the range would be too narrow.
        rng = random.Random(f"{self.filling} {key} {len(alike)}")
        resampled = [rng.randrange(len(alike)) for _ in alike]
        mine = random.Random(f"{self.filling} {key} {job.order}")
        return alike[resampled[mine.randrange(len(resampled))]]


def _alike(pool: Sequence[PastWork], job: PastWork, nearest: _Nearest) -> Sequence[PastWork]:
    both = [other for other in pool if (other.model, other.cause) == (job.model, job.cause)]
    if len(both) >= FEWEST_ALIKE:
        return both
    one = [other for other in pool if nearest(other) == nearest(job)]
    return one if len(one) >= FEWEST_ALIKE else pool


def _places(jobs: Iterable[PastWork], of: Callable[[PastWork], Mapping[str, object]]) -> dict[str, list[int]]:
    out: dict[str, list[int]] = {}
    for place, job in enumerate(jobs):
        for key, value in of(job).items():
            if value is not None:
                out.setdefault(key, []).append(place)
    return out
