"""Which fix a call is likely to need, by the jobs solved before.

Signs of a call (its words, symptom, model, class) are taken to tell of the fix independently of each other. That is
not so, and makes the chances too sure of themselves; they are therefore held against what came of the calls before,
each ranked by the jobs that were solved by then only, and what is shown is the share of those that were right.

The chance is the mean of that by signs and of the share among the calls most alike, which knows what signs say together.

References
----------
.. [1] McCallum, A. and Nigam, K. (1998). A comparison of event models for naive Bayes text classification. AAAI-98
   Workshop on Learning for Text Categorization: the multi-variate model with smoothed counts.
.. [2] Zadrozny, B. and Elkan, C. (2002). Transforming classifier scores into accurate multiclass probability
   estimates. KDD '02, 694-699: isotonic calibration.
.. [3] Dawid, A. P. (1984). Present position and potential developments: statistical theory, the prequential approach.
   Journal of the Royal Statistical Society A 147, 278-292: each call ranked by what was known before it.
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field

import numpy as np
from scipy.optimize import isotonic_regression

from reedling.core.pastfixes.neighbours import SolvedCalls
from reedling.core.pastfixes.solved import FaultCall, Remedied, SolvedJob

SMOOTHING = 0.5
CONFIRMED_WEIGHT = 3.0
"""A job whose fix was found by its past fixes counts as so many."""
MOST_TRIED = 2_000
"""The latest so many calls are what chances are held against."""
FEWEST_TRIED = 40
"""With fewer calls tried no confidence is told."""
TRIED_TOGETHER = 20
"""No share of calls that came true rests on fewer than these."""
LEAST_CHANCE = 0.01
"""What is less likely is not shown."""
RANKED = 3
"""Fixes shown, and held against what came."""
SAME_ASSET = 2.0
"""Of the jobs of a fix, those on the same asset are shown before others, unless these share so much more."""
TELLING = 1.5
"""A sign so many times as frequent with a fix as otherwise is named as a reason."""


@dataclass(slots=True)
class FixCounts:
    """How often each sign came with each fix; grows a job at a time."""

    of_fix: Counter[Remedied] = field(default_factory=Counter)
    of_sign: defaultdict[str, Counter[Remedied]] = field(default_factory=lambda: defaultdict(Counter))
    total: float = 0.0

    def add(self, job: SolvedJob) -> None:
        """Learn from one more job."""
        weight = CONFIRMED_WEIGHT if job.confirmed else 1.0
        self.of_fix[job.fix] += weight  # type: ignore[assignment]
        self.total += weight
        for sign in job.call.signs:
            self.of_sign[sign][job.fix] += weight  # type: ignore[assignment]

    def chances(self, call: FaultCall) -> list[tuple[Remedied, float]]:
        """The chance of each fix, the likeliest first; signs never met before tell nothing."""
        if not self.of_fix:
            return []
        scores = {fix: math.log(n + SMOOTHING) for fix, n in self.of_fix.items()}
        for sign in call.signs:
            with_sign = self.of_sign.get(sign)
            if with_sign is None:
                continue
            for fix, n in self.of_fix.items():
                scores[fix] += math.log((with_sign[fix] + SMOOTHING) / (n + 2 * SMOOTHING))
        most = max(scores.values())
        parts = {fix: math.exp(score - most) for fix, score in scores.items()}
        whole = sum(parts.values())
        ranked = sorted(parts.items(), key=lambda pair: (-pair[1], pair[0].cause, pair[0].remedy))
        return [(fix, part / whole) for fix, part in ranked]

    def lift(self, sign: str, fix: Remedied, among: Iterable[Remedied]) -> float:
        """How many times as frequent a sign is with a fix as with the others it is ranked among."""
        others = [other for other in among if other != fix]
        n_others = sum(self.of_fix[other] for other in others)
        with_fix = (self.of_sign[sign][fix] + SMOOTHING) / (self.of_fix[fix] + 2 * SMOOTHING)
        with_others = (sum(self.of_sign[sign][other] for other in others) + SMOOTHING) / (
            n_others + 2 * SMOOTHING
        )
        return with_fix / with_others


@dataclass(frozen=True, slots=True, kw_only=True)
class Confidence:
    """What came of calls whose chance was like this one: ``share`` of ``n_tried`` turned out so."""

    share: float
    n_tried: int


@dataclass(frozen=True, slots=True, kw_only=True)
class PastFix:
    """A fix that a call may need: its confidence where enough calls were tried, why, and the jobs most alike."""

    fix: Remedied
    confidence: Confidence | None
    signs: tuple[str, ...]
    n_jobs: int
    jobs: tuple[SolvedJob, ...]


@dataclass(frozen=True)
class FixRanker:
    """Solved jobs learned from, and what its chances were worth on the calls before."""

    counts: FixCounts
    calls: SolvedCalls
    by_fix: Mapping[Remedied, np.ndarray]
    """Which jobs of ``calls`` had each fix, the latest first."""
    tried: np.ndarray
    """Chance shown and whether it was so, a row each, by chance."""
    levels: np.ndarray
    """The calibrated share at each row of ``tried``."""

    @classmethod
    def of(cls, jobs: Iterable[SolvedJob]) -> FixRanker:
        """Learn from solved jobs, in the order they were finished, trying each before it is learned from."""
        calls = SolvedCalls.of(sorted(jobs, key=lambda job: (job.finished_at, job.order)))
        counts = FixCounts()
        rows = list(_tried(calls, counts))
        tried = np.array(sorted(rows), dtype=float).reshape(-1, 2)
        by_fix: dict[Remedied, list[int]] = {}
        for place in reversed(range(len(calls.jobs))):
            by_fix.setdefault(calls.jobs[place].fix, []).append(place)
        return cls(counts, calls, {f: np.array(p) for f, p in by_fix.items()}, tried, _levels(tried[:, 1]))

    def rank(self, call: FaultCall, *, most: int = RANKED, n_jobs: int = 3) -> tuple[PastFix, ...]:
        """The fixes this call is likeliest to need, the likeliest first; none where nothing was solved yet."""
        alike = self.calls.alike(call)
        ranked = [
            (f, c) for f, c in _chances(self.counts, self.calls, call, alike)[:most] if c >= LEAST_CHANCE
        ]
        # The class and the symptom are the same for most of what is ranked: they are no reason.
        telling = [s for s in call.signs if s.startswith(("word ", "model ")) and s in self.counts.of_sign]
        out = []
        for fix, chance in ranked:
            lifts = [(self.counts.lift(s, fix, [f for f, _ in ranked]), s) for s in telling]
            out.append(
                PastFix(
                    fix=fix,
                    confidence=self.confidence(chance),
                    signs=tuple(s for lift, s in sorted(lifts, reverse=True) if lift >= TELLING)[:3],
                    n_jobs=len(self.by_fix[fix]),
                    jobs=self._most_alike(fix, call, alike, n_jobs),
                )
            )
        return tuple(out)

    def confidence(self, chance: float) -> Confidence | None:
        """What became of calls that were given about this chance; nothing where too few were tried."""
        if len(self.tried) < FEWEST_TRIED:
            return None
        at = min(int(np.searchsorted(self.tried[:, 0], chance)), len(self.levels) - 1)
        share = float(self.levels[at])
        return Confidence(share=share, n_tried=int((self.levels == share).sum()))

    def _most_alike(self, fix: Remedied, call: FaultCall, alike: np.ndarray, n: int) -> tuple[SolvedJob, ...]:
        shown = alike.copy()
        shown[self.calls.on_asset.get(call.asset, [])] += SAME_ASSET
        places = self.by_fix[fix]
        order = np.argsort(-shown[places], kind="stable")
        return tuple(self.calls.jobs[place] for place in places[order[:n]])


def _chances(
    counts: FixCounts, calls: SolvedCalls, call: FaultCall, alike: np.ndarray
) -> list[tuple[Remedied, float]]:
    """The mean of the chance by signs and of the share among the most alike, the likeliest first.

    By signs alone where no call shares one.
    """
    by_signs = counts.chances(call)
    near = calls.shares(alike, CONFIRMED_WEIGHT)
    if not near:
        return by_signs
    # Sorting keeps the order of those that come out equal, so that the same is said each time.
    return sorted(((fix, (c + near.get(fix, 0.0)) / 2) for fix, c in by_signs), key=lambda pair: -pair[1])


def _levels(came_true: np.ndarray) -> np.ndarray:
    """The share that came true at each row, rising with the chance that was given."""
    if not len(came_true):
        return came_true
    together = np.array_split(came_true, max(len(came_true) // TRIED_TOGETHER, 1))
    sizes = [len(rows) for rows in together]
    shares = isotonic_regression([rows.mean() for rows in together], weights=sizes).x
    return np.asarray(np.repeat(shares, sizes))


def _tried(calls: SolvedCalls, counts: FixCounts) -> Iterator[tuple[float, float]]:
    """The chances that each job's call was given by the jobs before it, and whether they came true."""
    first = len(calls.jobs) - MOST_TRIED
    for place, job in enumerate(calls.jobs):
        if place >= max(first, 10):
            alike = calls.alike(job.call, place)
            for fix, chance in _chances(counts, calls, job.call, alike)[:RANKED]:
                yield chance, float(fix == job.fix)
        counts.add(job)
