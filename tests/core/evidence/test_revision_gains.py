"""What a revision gained: the interval is Welch's where jobs are alike, and a change of mix is no gain."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from reedling.core.evidence.cross_filter import JobFacts, columns_of, facet_values
from reedling.core.evidence.revision_gains import revision_gain, year_saved
from reedling.core.statistics.standardised import standardised_difference

T0 = datetime(2026, 1, 5, tzinfo=UTC)
VALUES = st.lists(st.floats(5, 500), min_size=2, max_size=30)


@given(VALUES, VALUES)
def test_of_one_stratum_it_is_welch_s_interval(first: Sequence[float], second: Sequence[float]) -> None:
    """SciPy's ttest_ind with unequal variances."""
    found = standardised_difference([(first, second)])
    assert found is not None
    if min(np.ptp(first), np.ptp(second)) < 0.1:
        return  # SciPy loses digits where values hardly differ.
    expected = stats.ttest_ind(second, first, equal_var=False).confidence_interval(0.95)
    assert found.value == pytest.approx(np.mean(second) - np.mean(first), abs=1e-6)
    assert (found.low, found.high) == pytest.approx((expected.low, expected.high), rel=1e-6, abs=1e-6)


@settings(max_examples=60)
@given(
    st.lists(
        st.tuples(st.lists(st.floats(5, 500), max_size=9), st.lists(st.floats(5, 500), max_size=9)),
        max_size=5,
    )
)
def test_it_is_the_difference_weighted_by_the_mix_of_the_second(
    strata: list[tuple[list[float], list[float]]],
) -> None:
    kept = [(a, b) for a, b in strata if min(len(a), len(b)) >= 2]
    found = standardised_difference(strata)
    if not kept:
        assert found is None
        return
    assert found is not None
    total = sum(len(b) for _, b in kept)
    assert found.value == pytest.approx(
        sum((np.mean(b) - np.mean(a)) * len(b) for a, b in kept) / total, abs=1e-6
    )
    assert found.n_alone == sum(len(a) + len(b) for a, b in strata) - found.n_first - found.n_second
    assert found.low <= found.value <= found.high


def jobs(rng: np.random.Generator, revision: str, n: int, share_big: float, saves: float) -> list[JobFacts]:
    """Jobs of two models, the big one taking twice as long; ``saves`` minutes of each."""
    out = []
    for i in range(n):
        big = rng.random() < share_big
        finished = T0 + timedelta(days=float(rng.uniform(0, 300)))
        out.append(
            JobFacts(
                order=f"{revision}{i}",
                finished_at=finished,
                values=facet_values(
                    model="big" if big else "small",
                    district="",
                    symptom="s",
                    issued=(f"WP-1 {revision}",),
                    cause="",
                    remedy="",
                    return_reasons=(),
                    finished_at=finished,
                ),
                fixed=True,
                doubtful=False,
                minutes=float((120 if big else 60) * rng.lognormal(0, 0.25) - saves),
                n_visits=1,
                n_findings=0,
                n_helped=0,
            )
        )
    return out


@pytest.mark.slow
@pytest.mark.parametrize(("shift", "saves"), [(0.0, 0.0), (0.5, 0.0), (0.5, 14.0)])
def test_the_range_holds_the_truth_as_often_as_it_says_whatever_the_mix(shift: float, saves: float) -> None:
    """200 worlds; a fair 95 % range holds it in 186 or more of them with a chance of 0.995."""
    held = helped = 0
    for seed in range(200):
        rng = np.random.default_rng(seed)
        columns = columns_of([*jobs(rng, "A", 60, 0.7, 0.0), *jobs(rng, "B", 60, 0.7 - shift, saves)])
        gain = revision_gain(columns, "WP-1 A", "WP-1 B", year_from=T0)
        assert gain.change is not None
        held += gain.change.low <= -saves <= gain.change.high
        helped += gain.verdict == "helped"
    assert held >= 182
    if saves == 0:
        assert helped <= 12, "a change of mix passes for an improvement"
    else:
        assert helped >= 120


def test_what_cannot_be_told_is_not_told_and_a_year_adds_up() -> None:
    rng = np.random.default_rng(2)
    columns = columns_of(
        [*jobs(rng, "A", 60, 0.5, 0.0), *jobs(rng, "B", 60, 0.5, 30.0), *jobs(rng, "C", 4, 0.5, 0.0)]
    )
    saved = revision_gain(columns, "WP-1 A", "WP-1 B", year_from=T0)
    worse = revision_gain(columns, "WP-1 B", "WP-1 A", year_from=T0)
    few = revision_gain(columns, "WP-1 B", "WP-1 C", year_from=T0)
    assert saved.verdict == "helped"
    assert saved.sentence.startswith("A → B: ")
    assert worse.verdict == "made it worse"
    assert few.verdict == "too few to say"
    assert few.change is None
    assert saved.change is not None
    year = year_saved([saved, few])
    assert year is not None
    assert year.hours == pytest.approx(-saved.change.value * 60 / 60)
    assert year.low < year.hours < year.high
    assert (year.n_jobs, year.n_changes) == (60, 1)
    none = year_saved([saved, worse])
    assert none is not None
    assert none.low < 0 < none.high
    assert year_saved([few]) is None
    assert revision_gain(columns, "WP-1 A", "WP-1 B", year_from=T0 + timedelta(days=400)).n_year == 0
