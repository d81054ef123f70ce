"""Past fixes: ranking and confidence on calls held out, against plain text ranking, and what a mark teaches."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from datetime import timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from rank_bm25 import BM25Okapi

from reedling.core.pastfixes.neighbours import SolvedCalls
from reedling.core.pastfixes.ranking import SMOOTHING, TRIED_TOGETHER, FixCounts, FixRanker
from reedling.core.pastfixes.solved import FaultCall, Remedied, SolvedJob
from tests.core.pastfixes.history import START, History
from tests.examples import IS_DEEP


def hits(ranked: Sequence[Sequence[Remedied]], asked: Sequence[SolvedJob]) -> float:
    """The share of calls whose first fix was the true one."""
    return float(np.mean([bool(r) and r[0] == job.fix for r, job in zip(ranked, asked, strict=True)]))


def by_text(before: Sequence[SolvedJob], asked: Sequence[SolvedJob]) -> Sequence[Sequence[Remedied]]:
    """Plain text ranking: the fix of the job whose words are most alike, by rank_bm25's Okapi BM25."""
    index = BM25Okapi([job.call.report.split() for job in before])
    out = []
    for job in asked:
        scores = index.get_scores(job.call.report.split())
        out.append([before[int(np.argmax(scores))].fix])
    return out


@pytest.mark.parametrize("seed", range(4 if IS_DEEP else 2))
def test_it_ranks_better_than_plain_text(seed: int) -> None:
    history = History(seed)
    before, asked = history.solved(500), history.solved(250, 500)
    ranker = FixRanker.of(before)
    ours = hits([[p.fix for p in ranker.rank(job.call)] for job in asked], asked)
    assert ours > hits(by_text(before, asked), asked) + 0.05


def test_of_what_is_shown_at_a_confidence_about_so_many_are_right() -> None:
    """In every band of confidence with 80 calls or more, what came true lies within 10 points."""
    bands: dict[int, list[tuple[float, bool]]] = {}
    for seed in range(8 if IS_DEEP else 3):
        history = History(seed)
        ranker = FixRanker.of(history.solved(600))
        for job in history.solved(200, 600):
            for shown in ranker.rank(job.call):
                assert shown.confidence is not None
                share = shown.confidence.share
                bands.setdefault(min(int(share * 5), 4), []).append((share, shown.fix == job.fix))
    assert sum(len(band) >= 80 for band in bands.values()) >= 4
    for band in bands.values():
        if len(band) >= 80:
            told, came = (float(np.mean(column)) for column in zip(*band, strict=True))
            assert abs(told - came) <= 0.10


def test_words_that_nobody_used_before_find_the_fix_once_it_was_marked() -> None:
    """Other words for the same thing: three marks of a technician, and they rank as the usual words do."""
    history = History(3)
    before = history.solved(300)
    strange = ["judders", "clonking", "shakes", "wobbly"]
    asked = [
        SolvedJob(
            order=f"WO-9{i}",
            call=history.call("bearing", words=strange),
            fix=Remedied(cause="bearing", remedy="mend bearing"),
            finished_at=START,
        )
        for i in range(40)
    ]

    def share_found(jobs: list[SolvedJob]) -> float:
        ranker = FixRanker.of(jobs)
        return hits([[p.fix for p in ranker.rank(job.call)] for job in asked], asked)

    marked = [
        replace(job, order=f"WO-8{i}", call=history.call("bearing", words=strange), confirmed=True)
        for i, job in enumerate(asked[:6])
    ]
    assert share_found([*before, *marked]) > share_found(before) + 0.3


CALLS = st.builds(
    FaultCall,
    report=st.lists(st.sampled_from(["leaks", "noise", "stuck", "hot"]), max_size=4).map(" ".join),
    symptom=st.sampled_from(["", "stalls"]),
    model=st.sampled_from("AB"),
    equipment=st.just("rake"),
)
JOBS = st.lists(
    st.builds(
        SolvedJob,
        order=st.uuids().map(str),
        call=CALLS,
        fix=st.builds(Remedied, cause=st.sampled_from("xyz"), remedy=st.just("r")),
        finished_at=st.just(START),
        confirmed=st.just(False),
    ),
    min_size=1,
    max_size=20,
)


@given(JOBS, CALLS)
def test_chances_are_those_of_bayes_rule_counted_job_by_job(jobs: list[SolvedJob], call: FaultCall) -> None:
    counts = FixCounts()
    for job in jobs:
        counts.add(job)
    slow: dict[Remedied, float] = {}
    for fix in {job.fix for job in jobs}:
        own = [job for job in jobs if job.fix == fix]
        chance = len(own) + SMOOTHING
        for sign in call.signs:
            if any(sign in job.call.signs for job in jobs):
                with_sign = sum(sign in job.call.signs for job in own)
                chance *= (with_sign + SMOOTHING) / (len(own) + 2 * SMOOTHING)
        slow[fix] = chance
    whole = math.fsum(slow.values())
    found = dict(counts.chances(call))
    assert found == {fix: pytest.approx(chance / whole) for fix, chance in slow.items()}
    assert math.fsum(found.values()) == pytest.approx(1)


@given(JOBS, CALLS, st.integers(min_value=0, max_value=20))
def test_the_fixes_of_the_most_alike_are_those_of_sorting_all_jobs(
    jobs: list[SolvedJob], call: FaultCall, n_first: int
) -> None:
    n_nearest = 4
    jobs = [replace(job, confirmed=i % 3 == 0) for i, job in enumerate(jobs)]
    before = jobs[:n_first]

    def alike(job: SolvedJob) -> float:
        shared = [s for s in call.signs if s in job.call.signs]
        having = {s: sum(s in other.call.signs for other in before) for s in shared}
        return math.fsum(math.log(1 + len(before) / (1 + having[s])) for s in shared)

    ordered = sorted(range(len(before)), key=lambda i: (-round(alike(before[i]), 9), -i))
    nearest = [before[i] for i in ordered if alike(before[i]) > 0][:n_nearest]
    votes = {
        fix: sum(3 if j.confirmed else 1 for j in nearest if j.fix == fix) for fix in {j.fix for j in nearest}
    }
    calls = SolvedCalls.of(jobs)
    found = calls.shares(calls.alike(call, len(before)), weight_if_confirmed=3, n_nearest=n_nearest)
    assert found == {fix: pytest.approx(n / sum(votes.values())) for fix, n in votes.items()}


@given(JOBS, CALLS)
def test_the_jobs_shown_of_a_fix_are_the_most_alike_and_the_latest(
    jobs: list[SolvedJob], call: FaultCall
) -> None:
    jobs = [replace(job, finished_at=START + timedelta(days=i)) for i, job in enumerate(jobs)]
    for shown in FixRanker.of(jobs).rank(call):
        own = [(len(set(j.call.signs) & set(call.signs)), j) for j in jobs if j.fix == shown.fix]
        assert len(shown.jobs) == min(3, len(own))
        assert {j.fix for j in shown.jobs} == {shown.fix}
        if all(n == own[0][0] and set(j.call.signs) == set(own[0][1].call.signs) for n, j in own):
            assert list(shown.jobs) == [j for _, j in reversed(own)][:3]


def test_no_confidence_rests_on_a_handful_of_calls() -> None:
    history = History(4)
    ranker = FixRanker.of(history.solved(200))
    told = {p.confidence for job in history.solved(60, 200) for p in ranker.rank(job.call)}
    assert None not in told
    assert min(c.n_tried for c in told if c) >= TRIED_TOGETHER


def test_each_call_is_tried_by_the_jobs_before_it_only() -> None:
    """The confidence of a job does not know the job: shuffled fixes leave nothing to be confident of."""
    history = History(1)
    jobs = history.solved(400)
    fixes = [job.fix for job in jobs]
    history.rng.shuffle(fixes)
    ranker = FixRanker.of([replace(job, fix=fix) for job, fix in zip(jobs, fixes, strict=True)])
    for job in jobs[-100:]:
        (first, *_) = ranker.rank(job.call)
        assert first.confidence is not None
        assert first.confidence.share < 0.45


def test_with_little_behind_it_no_confidence_is_told() -> None:
    jobs = History(1).solved(12)
    shown = FixRanker.of(jobs).rank(jobs[0].call)
    assert shown
    assert all(p.confidence is None for p in shown)
    assert FixRanker.of([]).rank(jobs[0].call) == ()


def test_asking_teaches_nothing() -> None:
    """A word that nobody used before is no sign of anything the next time it is asked about either."""
    history = History(2)
    ranker = FixRanker.of(history.solved(200))
    call = history.call("seal", words=["judders", "clonking", "shakes", "wobbly", "squeals"])
    known = set(ranker.counts.of_sign)
    assert ranker.rank(call) == ranker.rank(call)
    assert set(ranker.counts.of_sign) == known
