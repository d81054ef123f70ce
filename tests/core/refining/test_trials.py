"""Trials: who gets the revision, how long one takes, and that what is read off one is true at every look."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime
from math import sqrt

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.refining.trials import FEWEST_A_SIDE, MOST_JOBS, Trial, plan_trial, read_trial
from reedling.core.statistics.confidence_sequences import mixture_width
from reedling.errors import InvalidInput

AT = datetime(2026, 3, 1, tzinfo=UTC)
TRIAL = Trial(
    id="t",
    document="WP-001",
    letter="D",
    before="C",
    one_in=3,
    districts=(),
    seed="s",
    worth_minutes=10.0,
    most_jobs=100,
    began_at=AT,
    began_by="hanne",
)


def test_one_in_so_many_orders_gets_it_and_the_draw_can_be_done_again() -> None:
    for one_in in (2, 3, 10):
        drawn = [replace(TRIAL, one_in=one_in).takes(f"order {n}", "North") for n in range(6_000)]
        expected, spread = 6_000 / one_in, sqrt(6_000 / one_in * (1 - 1 / one_in))
        assert abs(sum(drawn) - expected) < 4 * spread
        assert drawn == [replace(TRIAL, one_in=one_in).takes(f"order {n}", "South") for n in range(6_000)]
        assert drawn != [
            replace(TRIAL, one_in=one_in, seed="u").takes(f"order {n}", "") for n in range(6_000)
        ]


def test_by_district_all_their_orders_get_it_and_no_others() -> None:
    trial = replace(TRIAL, districts=("North", "East"))
    assert all(trial.takes(str(n), "North") for n in range(20))
    assert not any(trial.takes(str(n), "West") for n in range(20))


def slowly_read(over: list[float], tried: list[bool], most_jobs: int) -> Iterator[tuple[int, float, float]]:
    """The slow twin: after each job, both means and the range about their difference, by hand."""
    for n in range(1, len(over) + 1):
        with_it = [x for x, t in zip(over[:n], tried[:n], strict=True) if t]
        without = [x for x, t in zip(over[:n], tried[:n], strict=True) if not t]
        if len(with_it) >= FEWEST_A_SIDE and len(without) >= FEWEST_A_SIDE:
            means = [sum(side) / len(side) for side in (with_it, without)]
            error = sum(
                sum((x - mean) ** 2 for x in side) / (len(side) - 1) / len(side)
                for side, mean in zip((with_it, without), means, strict=True)
            )
            half = sqrt(error * n) * mixture_width(n, most_jobs)
            yield n, means[0] - means[1] - half, means[0] - means[1] + half


@given(st.lists(st.tuples(st.floats(-200, 400), st.booleans()), max_size=80), st.integers(20, 200))
def test_the_course_is_what_reading_after_each_job_gives(jobs: list[tuple[float, bool]], most: int) -> None:
    over, tried = [x for x, _ in jobs], [t for _, t in jobs]
    found = read_trial(over, tried, worth_minutes=10, most_jobs=most)
    slow = list(slowly_read(over, tried, most))
    assert [m.n_jobs for m in found.course] == [n for n, _, _ in slow]
    assert [m.low for m in found.course] == pytest.approx([low for _, low, _ in slow])
    assert [m.high for m in found.course] == pytest.approx([high for _, _, high in slow])
    assert (found.n_tried, found.n_others) == (sum(tried), len(tried) - sum(tried))
    if not slow:
        assert found.answer == "too few to say"
    elif slow[-1][2] < 0:
        assert found.answer == "helped"
    elif slow[-1][1] > 0:
        assert found.answer == "made it worse"
    else:
        within = max(abs(slow[-1][1]), abs(slow[-1][2])) < 10
        is_over = len(over) >= most
        assert found.answer == ("nothing as large" if within else "not told apart" if is_over else "not yet")
        assert ("no difference of 10 min" in found.sentence.lower()) == within


def skewed(rng: np.random.Generator, n: int) -> np.ndarray:
    """Minutes of jobs over what was expected: many a little less, a few far more, as minutes on site are."""
    return np.asarray(rng.lognormal(3.6, 0.5, n) - np.exp(3.6 + 0.125))


def ever_told_apart(over: np.ndarray, tried: np.ndarray, most_jobs: int) -> bool:
    found = read_trial(over.tolist(), tried.tolist(), worth_minutes=10, most_jobs=most_jobs)
    return any(m.low > 0 or m.high < 0 for m in found.course)


def n_astray(n_trials: int, one_in: int, *, saves: float) -> int:
    """Of trials of a change that saves so many minutes a job, those whose range once left that out."""
    rng = np.random.default_rng(11)
    astray = 0
    for _ in range(n_trials):
        tried = rng.random(240) < 1 / one_in
        over = skewed(rng, 240) - saves * tried
        found = read_trial(over.tolist(), tried.tolist(), worth_minutes=10, most_jobs=150)
        astray += any(not m.low <= -saves <= m.high for m in found.course)
    return astray


def n_found(n_trials: int, one_in: int, *, saves: float) -> int:
    """Of trials of a change that saves what is worth finding, those that told it within the jobs said beforehand."""
    rng = np.random.default_rng(12)
    spread = float(np.std(skewed(rng, 100_000)))
    planned = plan_trial(spread, 300, share=1 / one_in, worth_minutes=saves, weekly=6)
    assert planned.weeks == pytest.approx(planned.most_jobs / 6)
    found = 0
    for _ in range(n_trials):
        tried = rng.random(planned.most_jobs) < 1 / one_in
        over = skewed(rng, planned.most_jobs) - saves * tried
        found += ever_told_apart(over, tried, planned.most_jobs)
    return found


@pytest.mark.parametrize("one_in", [2, 5])
def test_looked_at_after_every_job_the_range_leaves_the_truth_out_in_at_most_one_of_twenty(
    one_in: int,
) -> None:
    # 200 trials at 5 % give at most 16 in 98 of 100 runs.
    assert n_astray(200, one_in, saves=14) <= 16


@pytest.mark.parametrize("one_in", [2, 4])
def test_the_number_of_jobs_said_beforehand_finds_what_it_is_to_find(one_in: int) -> None:
    # 8 of 10 are promised; of 120 trials at 80 % at least 84 find it in 99 of 100 runs.
    assert n_found(120, one_in, saves=15) >= 84


@given(st.floats(1, 80), st.sampled_from((2, 3, 5, 10)), st.floats(5, 60))
def test_the_number_of_jobs_is_the_smallest_that_will_do(spread: float, one_in: int, worth: float) -> None:
    share = 1 / one_in

    def does(n: int) -> bool:
        error = spread * sqrt((1 / share + 1 / (1 - share)) / n)
        return error * (mixture_width(n, n) * sqrt(n) + 0.841621) <= worth

    if not does(MOST_JOBS):
        with pytest.raises(InvalidInput, match="would take more than"):
            plan_trial(spread, 50, share=share, worth_minutes=worth, weekly=0)
        return
    n = plan_trial(spread, 50, share=share, worth_minutes=worth, weekly=0).most_jobs
    assert does(n)
    assert n == int(np.ceil(FEWEST_A_SIDE * one_in)) or not does(n - 1)


def test_with_few_past_jobs_nothing_is_promised() -> None:
    with pytest.raises(InvalidInput) as refusal:
        plan_trial(20, 7, share=0.5, worth_minutes=10, weekly=3)
    assert refusal.value.code == "trials.too_few_jobs"
    assert "7 jobs" in str(refusal.value)
