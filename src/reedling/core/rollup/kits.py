"""The kit to carry: the smallest set of parts with which enough jobs are finished the first time."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from math import prod
from typing import Literal

EXACT_UP_TO = 20
"""With more candidate parts than this the set is put together greedily."""

Basis = Literal["past use", "author's figures", "nothing"]
Method = Literal["exact", "greedy"]


@dataclass(frozen=True, slots=True, kw_only=True)
class KitPart:
    """A part of the kit: how much to carry, and in what share of jobs any of it is taken."""

    part: str
    quantity: float
    share: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Kit:
    """A kit with the share of jobs it finishes; ``goal`` is the share asked for.

    ``basis`` says what it rests on: the parts that past jobs took (``n_jobs`` of them), or the chances
    the author gave, taken as independent of each other. ``method`` says whether no smaller set does
    ("exact"), or whether it was put together part by part ("greedy").
    """

    parts: tuple[KitPart, ...]
    goal: float
    finished: float
    basis: Basis
    method: Method
    n_jobs: int
    n_candidates: int


def kit_from_use(jobs: Sequence[Mapping[str, float]], goal: float) -> Kit:
    """A kit from what each past job took, by part; a job that took nothing is always finished.

    The smallest number of parts such that at least ``goal`` of the jobs took no other; of several
    such sets the one that finishes most jobs. Of each part as much is carried as ``goal`` of the
    jobs that took it needed. Up to ``EXACT_UP_TO`` parts by branch and bound.
    """
    needs = Counter(frozenset(p for p, n in job.items() if n > 0) for job in jobs)
    candidates = sorted({p for need in needs for p in need})
    wanted = _at_least(goal, len(jobs))
    exact = len(candidates) <= EXACT_UP_TO
    chosen = _smallest(needs, candidates, wanted) if exact else _greedy(needs, wanted)
    finished = sum(n for need, n in needs.items() if need <= chosen)
    takers = {p: sorted(job[p] for job in jobs if job.get(p, 0) > 0) for p in chosen}
    parts = [
        KitPart(
            part=p,
            quantity=takers[p][max(0, _at_least(goal, len(takers[p])) - 1)],
            share=len(takers[p]) / len(jobs),
        )
        for p in chosen
    ]
    return Kit(
        parts=_sorted(parts),
        goal=goal,
        finished=finished / len(jobs) if jobs else 1.0,
        basis="past use",
        method="exact" if exact else "greedy",
        n_jobs=len(jobs),
        n_candidates=len(candidates),
    )


def kit_from_chances(needs: Iterable[KitPart], goal: float) -> Kit:
    """A kit from the chances an author gave: each part's ``share``, independent of the others.

    A job is finished when it needs no part that is left out, so the set that leaves out the unlikeliest
    parts is the smallest; this is exact.
    """
    given = _sorted(needs)
    chosen: list[KitPart] = []
    left = list(given)
    while left and prod(1 - p.share for p in left) < goal - 1e-12:
        chosen.append(left.pop(0))
    return Kit(
        parts=tuple(chosen),
        goal=goal,
        finished=prod(1 - p.share for p in left),
        basis="author's figures" if given else "nothing",
        method="exact",
        n_jobs=0,
        n_candidates=len(given),
    )


def _sorted(parts: Iterable[KitPart]) -> tuple[KitPart, ...]:
    return tuple(sorted(parts, key=lambda p: (-p.share, p.part)))


def _at_least(goal: float, n: int) -> int:
    """The smallest whole number that is at least this share of n."""
    return next((k for k in range(n + 1) if k >= goal * n - 1e-9), n)


def _smallest(needs: Mapping[frozenset[str], int], candidates: Sequence[str], wanted: int) -> frozenset[str]:
    """Branch and bound over leaving each part in or out.

    Parts are decided from the commonest; a branch is cut when the jobs that need a part already left
    out are too many, or when it has as many parts in as the best so far and cannot beat it.
    """
    total = sum(needs.values())
    often = Counter[str]()
    for need, n in needs.items():
        for part in need:
            often[part] += n
    order = sorted(candidates, key=lambda p: (-often[p], p))
    best, best_finished = frozenset(candidates), total

    def go(at: int, chosen: frozenset[str], left_out: frozenset[str]) -> None:
        nonlocal best, best_finished
        possible = sum(n for need, n in needs.items() if not need & left_out)
        if possible < wanted or len(chosen) > len(best):
            return
        if len(chosen) == len(best) and possible <= best_finished:
            return
        done = sum(n for need, n in needs.items() if need <= chosen)
        if done >= wanted and (len(chosen), -done) < (len(best), -best_finished):
            best, best_finished = chosen, done
        if at == len(order):
            return
        go(at + 1, chosen | {order[at]}, left_out)
        go(at + 1, chosen, left_out | {order[at]})

    go(0, frozenset(), frozenset())
    return best


def _greedy(needs: Mapping[frozenset[str], int], wanted: int) -> frozenset[str]:
    """Add, each time, the missing parts of the need that finishes most jobs per part added."""
    chosen: frozenset[str] = frozenset()
    while sum(n for need, n in needs.items() if need <= chosen) < wanted:
        missing: set[frozenset[str]] = {need.difference(chosen) for need in needs if not need <= chosen}

        def gain(adds: frozenset[str], now: frozenset[str] = chosen) -> float:
            finished = sum(n for need, n in needs.items() if not need <= now and need <= now | adds)
            return finished / len(adds)

        best = max(missing, key=lambda adds: (gain(adds), -len(adds), sorted(adds)))
        chosen = chosen.union(best)
    return chosen
