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
from reedling.core.evidence.paces import minutes_at_one_pace
from reedling.core.evidence.revision_gains import revision_gain, year_saved
from reedling.core.statistics.standardised import standardised_difference
from tests.examples import examples

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


@settings(max_examples=examples(60))
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


PACES = (0.7, 0.85, 1.0, 1.1, 1.25, 1.5)


def jobs(
    rng: np.random.Generator,
    revision: str,
    n: int,
    share_big: float,
    saves: float,
    crew: Sequence[int] | None = None,
) -> list[JobFacts]:
    """Jobs of two models, the big one taking twice as long; ``saves`` minutes of each. ``crew`` are who may go, each
    with a pace; without it everybody is like everybody else."""
    out = []
    for i in range(n):
        person = None if crew is None else crew[int(rng.integers(len(crew)))]
        pace = 1.0 if person is None else PACES[person]
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
                minutes=float((120 if big else 60) * pace * rng.lognormal(0, 0.25) - saves),
                technician="" if person is None else f"t{person}",
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


def n_held_by_quicker_people(n_worlds: int, saves: float) -> tuple[int, int]:
    """In how many worlds the range holds the truth, and how many are called an improvement, where the newer jobs are
    carried out by the quicker ones more often."""
    held = helped = 0
    for seed in range(n_worlds):
        rng = np.random.default_rng(seed)
        columns = columns_of(
            [
                *jobs(rng, "A", 90, 0.5, 0.0, crew=(0, 1, 2, 3, 4, 5, 3, 4, 5)),
                *jobs(rng, "B", 90, 0.5, saves, crew=(0, 1, 2, 3, 4, 5, 0, 1, 2)),
            ]
        )
        gain = revision_gain(columns, "WP-1 A", "WP-1 B", year_from=T0)
        assert gain.change is not None
        held += gain.change.low <= -saves <= gain.change.high
        helped += gain.verdict == "helped"
    return held, helped


@pytest.mark.slow
@pytest.mark.parametrize("saves", [0.0, 14.0])
def test_quicker_people_are_no_gain(saves: float) -> None:
    held, helped = n_held_by_quicker_people(200, saves)
    assert held >= 182
    if saves == 0:
        assert helped <= 12, "that others went passes for an improvement"
    else:
        assert helped >= 150


@given(st.lists(st.tuples(st.integers(0, 2), st.floats(5, 400)), min_size=1, max_size=40))
def test_one_pace_leaves_minutes_as_they_are_where_everybody_is_alike(jobs_: list[tuple[int, float]]) -> None:
    kinds = np.array([kind for kind, _ in jobs_])
    minutes = np.array([m for _, m in jobs_])
    alone = minutes_at_one_pace(minutes, kinds, np.zeros(len(jobs_)), np.ones(len(jobs_), dtype=bool))
    assert alone == pytest.approx(minutes, rel=1e-6)


def test_paces_of_many_jobs_are_made_out() -> None:
    rng = np.random.default_rng(4)
    people, kinds = rng.integers(0, 6, 6_000), rng.integers(0, 4, 6_000)
    usual = np.array([40.0, 60.0, 90.0, 150.0])[kinds] * rng.lognormal(0, 0.2, 6_000)
    found = minutes_at_one_pace(usual * np.array(PACES)[people], kinds, people, np.ones(6_000, dtype=bool))
    paces = found / usual
    assert np.ptp(paces) < 0.06, "everybody is brought to one pace"
    assert float(np.mean(paces)) == pytest.approx(float(np.mean(np.array(PACES)[people])), rel=0.03)


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
