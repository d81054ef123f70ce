"""How often the field took a branch, and what its author thinks: the chances that a roll-up starts from."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from reedling.core.guidance.plans import Step, is_chance

MIN_JOBS = 5
"""With fewer jobs than this the author's figure counts, not the field's."""
UNKNOWN_CHANCE = 0.5
"""Chance of a branch of which neither the author nor the field has said anything."""
ChanceSource = Literal["field", "author", "nobody"]


@dataclass(frozen=True, slots=True, kw_only=True)
class BranchEvidence:
    """Of ``n_jobs`` finished jobs, ``n_wanted`` wanted the step."""

    n_wanted: int
    n_jobs: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Chance:
    """How likely a step is wanted where the step it hangs on is, and who says so."""

    p: float
    source: ChanceSource


def chance_of(step: Step, evidence: Mapping[str, BranchEvidence], *, times: int = 1) -> Chance:
    """The chance of a conditional step: the field's from five jobs on, else the author's, else one half.

    The field's is the mean of the Beta posterior under a uniform prior, (k + 1) / (n + 2), over the
    jobs that wanted the step it hangs on (Laplace's rule; from memory, as any textbook has it). A step of
    a section that repeats ``times`` over was wanted in a job when any of its repeats was; its chance is
    that of one repeat. A figure of the author's that is no chance counts as none.
    """
    own = evidence.get(step.id)
    if own is not None:
        above = evidence.get(step.under) if step.under else None
        n = above.n_wanted if above else own.n_jobs
        if n >= MIN_JOBS:
            return Chance(p=_of_one(own, above, times), source="field")
    if step.chance is not None and is_chance(step.chance):
        return Chance(p=step.chance, source="author")
    return Chance(p=UNKNOWN_CHANCE, source="nobody")


def _of_one(own: BranchEvidence, above: BranchEvidence | None, times: int) -> float:
    if times == 1 or above is None:
        n = above.n_wanted if above else own.n_jobs
        return _root(times, (min(own.n_wanted, n) + 1) / (n + 2))
    # Of one repeat: how often it wants both, over how often it wants the step above.
    both, first = ((e.n_wanted + 1) / (e.n_jobs + 2) for e in (own, above))
    return min(1.0, _root(times, both) / _root(times, first))


def _root(times: int, of_any: float) -> float:
    """The chance of each of so many, given that of any of them."""
    if times == 1:
        return of_any
    return -math.expm1(math.log1p(-of_any) / times)
