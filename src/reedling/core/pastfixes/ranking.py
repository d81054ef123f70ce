"""Which fix a call is likely to need, by the jobs solved before.

Signs of a call (its words, symptom, model, class) are taken to tell of the fix independently of each other. That is
not so, and makes the chances too sure of themselves; they are therefore held against what came of the calls before,
each ranked by the jobs that were solved by then only, and what is shown is the share of those that were right.

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
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from scipy.optimize import isotonic_regression

from reedling.core.pastfixes.solved import FaultCall, Remedied, SolvedJob

SMOOTHING = 0.5
CONFIRMED_WEIGHT = 3.0
"""A job whose fix was found by its past fixes counts as so many."""
MOST_TRIED = 2_000
"""The latest so many calls are what chances are held against."""
FEWEST_TRIED = 40
"""With fewer calls tried no confidence is told."""
LEAST_CHANCE = 0.01
"""What is less likely is not shown."""
RANKED = 3
"""Fixes shown, and held against what came."""
MOST_COMPARED = 200
"""Of a fix, the latest so many jobs are compared with the call, to show those most alike."""
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
    by_fix: Mapping[Remedied, Sequence[SolvedJob]]
    """Their jobs, the latest first."""
    tried: np.ndarray
    """Chance shown and whether it was so, a row each, by chance."""
    levels: np.ndarray
    """The calibrated share at each row of ``tried``."""
    signs: Mapping[str, frozenset[str]]
    """The signs of the calls that are compared, by the order of their jobs: to find words anew each time takes longest."""

    @classmethod
    def of(cls, jobs: Iterable[SolvedJob]) -> FixRanker:
        """Learn from solved jobs, in the order they were finished, trying each before it is learned from."""
        held = sorted(jobs, key=lambda job: (job.finished_at, job.order))
        counts = FixCounts()
        rows = list(_tried(held, counts))
        tried = np.array(sorted(rows), dtype=float).reshape(-1, 2)
        levels = isotonic_regression(tried[:, 1]).x if len(tried) else np.array([])
        by_fix: dict[Remedied, list[SolvedJob]] = {}
        for job in reversed(held):
            by_fix.setdefault(job.fix, []).append(job)
        compared = (job for own in by_fix.values() for job in own[:MOST_COMPARED])
        signs = {job.order: frozenset(job.call.signs) for job in compared}
        return cls(counts, by_fix, tried, np.asarray(levels), signs)

    def rank(self, call: FaultCall, *, most: int = RANKED, n_jobs: int = 3) -> tuple[PastFix, ...]:
        """The fixes this call is likeliest to need, the likeliest first; none where nothing was solved yet."""
        out = []
        signs = call.signs
        worth = {sign: self._worth(sign) for sign in signs}
        ranked = [(f, c) for f, c in self.counts.chances(call)[:most] if c >= LEAST_CHANCE]
        for fix, chance in ranked:
            jobs = self.by_fix[fix]
            own = sorted(jobs[:MOST_COMPARED], key=lambda job: -self._alike(call, worth, job))
            # The class and the symptom are the same for most of what is ranked: they are no reason.
            telling = [s for s in signs if s.startswith(("word ", "model ")) and s in self.counts.of_sign]
            lifts = [(self.counts.lift(s, fix, [f for f, _ in ranked]), s) for s in telling]
            out.append(
                PastFix(
                    fix=fix,
                    confidence=self.confidence(chance),
                    signs=tuple(s for lift, s in sorted(lifts, reverse=True) if lift >= TELLING)[:3],
                    n_jobs=len(jobs),
                    jobs=tuple(own[:n_jobs]),
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

    def _worth(self, sign: str) -> float:
        """What it says that two calls share a sign: the rarer, the more."""
        return math.log(1 + self.counts.total / (1 + sum(self.counts.of_sign.get(sign, {}).values())))

    def _alike(self, call: FaultCall, worth: Mapping[str, float], other: SolvedJob) -> float:
        shared = math.fsum(worth[sign] for sign in self.signs[other.order] & worth.keys())
        return shared + (2.0 if call.asset and call.asset == other.call.asset else 0.0)


def _tried(jobs: Sequence[SolvedJob], counts: FixCounts) -> Iterator[tuple[float, float]]:
    """The chances that each job's call was given by the jobs before it, and whether they came true."""
    first = len(jobs) - MOST_TRIED
    for place, job in enumerate(jobs):
        if place >= max(first, 10):
            for fix, chance in counts.chances(job.call)[:RANKED]:
                yield chance, float(fix == job.fix)
        counts.add(job)
