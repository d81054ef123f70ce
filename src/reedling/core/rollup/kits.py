"""The kit to carry: the smallest sets of parts and of tools with which enough jobs are finished the first time."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from math import prod
from typing import Literal

import numpy as np

EXACT_UP_TO = 20
"""With more candidate parts than this the set is put together greedily."""

Basis = Literal["past use", "author's figures", "nothing"]
Method = Literal["exact", "greedy"]
_Needs = Mapping[frozenset[str], int]
"""How many jobs took exactly these parts."""


@dataclass(frozen=True, slots=True, kw_only=True)
class KitPart:
    """A part of the kit: how much to carry, and in what share of jobs any of it is taken."""

    part: str
    quantity: float
    share: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Rung:
    """The parts of which no others, as many, finish more jobs the first time, and the share they finish."""

    parts: tuple[str, ...]
    finished: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Kit:
    """A kit with the share of jobs it finishes; ``goal`` is the share asked for.

    ``basis`` says what it rests on: the parts that past jobs took (``n_jobs`` of them), or the chances
    the author gave, taken as independent of each other. ``method`` says whether no smaller set does
    ("exact"), or whether it was put together part by part ("greedy"). ``ladder`` is what smaller and
    larger kits would finish, each part carried in the largest quantity a job took; sizes that finish
    no more than a smaller one are left out.
    """

    parts: tuple[KitPart, ...]
    goal: float
    finished: float
    basis: Basis
    method: Method
    n_jobs: int
    n_candidates: int
    ladder: tuple[Rung, ...]


def kit_from_use(jobs: Sequence[Mapping[str, float]], goal: float) -> Kit:
    """A kit from what each past job took, by part; a job that took nothing is always finished.

    The smallest number of parts such that at least ``goal`` of the jobs took no other; of several
    such sets the one that finishes most jobs; up to ``EXACT_UP_TO`` parts every set is tried. Of
    each part as much is carried as leaves ``goal`` of the jobs with enough of all they took.
    """
    needs = Counter(map(_took, jobs))

    def share(done: int) -> float:
        return done / len(jobs) if jobs else 1.0

    n_candidates = len({p for need in needs for p in need})
    wanted = _at_least(goal, len(jobs))
    exact = n_candidates <= EXACT_UP_TO
    steps = list(_ladder(needs) if exact else _greedy(needs))
    chosen = next(kit for kit in steps if _done(needs, kit) >= wanted)
    carried = _carried([job for job in jobs if _took(job) <= chosen], wanted)
    parts = [
        KitPart(part=p, quantity=n, share=sum(p in _took(job) for job in jobs) / len(jobs))
        for p, n in carried.items()
    ]
    return Kit(
        parts=_sorted(parts),
        goal=goal,
        finished=share(sum(_enough(job, carried) for job in jobs)),
        basis="past use",
        method="exact" if exact else "greedy",
        n_jobs=len(jobs),
        n_candidates=n_candidates,
        ladder=tuple(Rung(parts=tuple(sorted(kit)), finished=share(_done(needs, kit))) for kit in steps),
    )


def kit_from_chances(needs: Iterable[KitPart], goal: float) -> Kit:
    """A kit from the chances an author gave: each part's ``share``, independent of the others.

    A job is finished when it needs no part that is left out, so the set that leaves out the unlikeliest
    parts is the smallest; this is exact.
    """
    given = _sorted(needs)
    without = _finished_with_first([p.share for p in given])
    ladder = [Rung(parts=tuple(p.part for p in given[:n]), finished=share) for n, share in enumerate(without)]
    rung = ladder[_fewest(without, goal)]
    return Kit(
        parts=given[: len(rung.parts)],
        goal=goal,
        finished=rung.finished,
        basis="author's figures" if given else "nothing",
        method="exact",
        n_jobs=0,
        n_candidates=len(given),
        ladder=tuple(ladder),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class KitTool:
    """A tool of a kit: how many of it one step wants at the most, and in what share of jobs it is wanted."""

    tool: str
    quantity: int
    share: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ToolKit:
    """The tools of a kit, and those ``left_out`` because too few jobs want them; ``enough`` of the jobs want none of these."""

    tools: tuple[KitTool, ...]
    left_out: tuple[KitTool, ...]
    enough: float


def tool_kit(needs: Iterable[KitTool], goal: float) -> ToolKit:
    """The fewest tools such that at least ``goal`` of the jobs want no other.

    From how likely each is wanted (its ``share``), taken as independent of the others; so the unlikeliest are left
    out, and this is exact.
    """
    given = sorted(needs, key=lambda t: (-t.share, t.tool))
    without = _finished_with_first([t.share for t in given])
    n = _fewest(without, goal)
    return ToolKit(tools=tuple(given[:n]), left_out=tuple(given[n:]), enough=without[n])


def _finished_with_first(shares: Sequence[float]) -> list[float]:
    """What share of jobs wants none but the first n, for each n from 0 up; each is wanted independently of the others."""
    return [prod(1 - share for share in shares[n:]) for n in range(len(shares) + 1)]


def _fewest(finished: Sequence[float], goal: float) -> int:
    """The smallest n that reaches the goal, or all."""
    return next((n for n, share in enumerate(finished) if share >= goal - 1e-12), len(finished) - 1)


def _sorted(parts: Iterable[KitPart]) -> tuple[KitPart, ...]:
    return tuple(sorted(parts, key=lambda p: (-p.share, p.part)))


def _at_least(goal: float, n: int) -> int:
    """The smallest whole number that is at least this share of n."""
    return next((k for k in range(n + 1) if k >= goal * n - 1e-9), n)


def _took(job: Mapping[str, float]) -> frozenset[str]:
    return frozenset(p for p, n in job.items() if n > 0)


def _enough(job: Mapping[str, float], carried: Mapping[str, float]) -> bool:
    return all(n <= carried.get(p, 0) for p, n in job.items())


def _done(needs: _Needs, chosen: frozenset[str]) -> int:
    return sum(n for need, n in needs.items() if need <= chosen)


def _carried(jobs: Sequence[Mapping[str, float]], wanted: int) -> dict[str, float]:
    """How much of each part to carry so that at least ``wanted`` of these jobs have enough of all.

    From the most that any of them took, the quantity whose lowering leaves fewest jobs short is
    lowered to the next that some job took, as long as enough jobs are left.
    """
    left = list(jobs)
    while True:
        carried: dict[str, float] = {}
        for job in left:
            for part in _took(job):
                carried[part] = max(carried.get(part, 0), job[part])
        short = {p: [job for job in left if job.get(p, 0) == n] for p, n in carried.items()}
        lowered = [p for p in carried if any(0 < job.get(p, 0) < carried[p] for job in left)]
        lowest = min(lowered, key=lambda p: (len(short[p]), p), default=None)
        if lowest is None or len(left) - len(short[lowest]) < wanted:
            return carried
        left = [job for job in left if job.get(lowest, 0) < carried[lowest]]


def _ladder(needs: _Needs) -> Iterator[frozenset[str]]:
    """For every number of parts that finishes more jobs than a smaller one: the kit that finishes most.

    Every set of parts is tried at once: how many jobs take nothing outside a set is the sum over its
    subsets (the zeta transform of a lattice of sets, computed part by part after Yates 1937).
    """
    often = Counter[str]()
    for need, n in needs.items():
        often.update(dict.fromkeys(need, n))
    parts = sorted(often, key=lambda p: (-often[p], p))
    done = np.zeros(1 << len(parts), dtype=np.int64)
    for need, n in needs.items():
        done[sum(1 << parts.index(p) for p in need)] += n
    for bit in range(len(parts)):
        split = done.reshape(-1, 2, 1 << bit)
        split[:, 1] += split[:, 0]
    sizes = np.bitwise_count(np.arange(len(done)))
    most = -1
    for size in range(len(parts) + 1):
        sets = np.flatnonzero(sizes == size)
        best = int(sets[np.argmax(done[sets])])
        if done[best] > most:
            most = int(done[best])
            yield frozenset(p for bit, p in enumerate(parts) if best >> bit & 1)


def _greedy(needs: _Needs) -> Iterator[frozenset[str]]:
    """Add, each time, the missing parts of the need that finishes most jobs per part added."""
    chosen: frozenset[str] = frozenset()
    yield chosen
    while missing := {need.difference(chosen) for need in needs if not need <= chosen}:

        def gain(adds: frozenset[str], now: frozenset[str] = chosen) -> float:
            return (_done(needs, now | adds) - _done(needs, now)) / len(adds)

        best = max(missing, key=lambda adds: (gain(adds), -len(adds), sorted(adds)))
        chosen = chosen.union(best)
        yield chosen
