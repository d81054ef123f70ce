"""Survival, strata, many tests at once, control charts, resampling and copied figures, against published examples
and reference libraries."""

from __future__ import annotations

import random
import warnings
from collections.abc import Sequence
from math import sqrt
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from reedling.core.statistics.control_charts import individuals_chart
from reedling.core.statistics.copied import last_digit_p_value, same_again
from reedling.core.statistics.discoveries import false_discovery_adjusted
from reedling.core.statistics.exact_test import rarer_p_value
from reedling.core.statistics.intervals import difference_interval, share_at_most, wilson_interval
from reedling.core.statistics.resampling import median_interval
from reedling.core.statistics.strata import Stratum, adjusted_difference
from reedling.core.statistics.survival import kaplan_meier, share_ended_by
from reedling.errors import InvalidInput
from tests.examples import examples

# Remission times in weeks of 21 patients, 9 of whom relapsed (Freireich et al. 1963, Blood 21, 699; Gehan 1965), an
# open data set of survival analysis; "+" marks those still in remission. From memory, as are the estimates: they
# are held against scipy as well.
REMISSION = [
    "6",
    "6",
    "6",
    "6+",
    "7",
    "9+",
    "10",
    "10+",
    "11+",
    "13",
    "16",
    "17+",
    "19+",
    "20+",
    "22",
    "23",
    "25+",
    "32+",
    "32+",
    "34+",
    "35+",
]
TIMES = [float(t.rstrip("+")) for t in REMISSION]
ENDED = [not t.endswith("+") for t in REMISSION]
PUBLISHED = {6: 0.857, 7: 0.807, 10: 0.753, 13: 0.690, 16: 0.627, 22: 0.538, 23: 0.448}


def test_the_remission_data_give_the_published_curve() -> None:
    assert {int(p.time): round(p.share, 3) for p in kaplan_meier(TIMES, ENDED)} == PUBLISHED


@settings(deadline=None)
@given(st.lists(st.tuples(st.integers(0, 12), st.booleans()), min_size=1, max_size=40))
def test_survival_equals_scipy_with_its_interval(pairs: list[tuple[int, bool]]) -> None:
    times, ended = [float(t) for t, _ in pairs], [e for _, e in pairs]
    data: Any = stats.CensoredData(
        uncensored=[t for t, e in zip(times, ended, strict=True) if e],
        right=[t for t, e in zip(times, ended, strict=True) if not e],
    )
    expected: Any = stats.ecdf(data).sf
    with np.errstate(all="ignore"), warnings.catch_warnings():
        warnings.simplefilter("ignore")
        low, high = (part.evaluate for part in tuple(expected.confidence_interval(method="log-log")))
    for point in kaplan_meier(times, ended):
        assert point.share == pytest.approx(float(expected.evaluate(point.time)), abs=1e-12)
        assert point.low - 1e-12 <= point.share <= point.high + 1e-12
        if 0 < point.share < 1:
            assert point.low == pytest.approx(float(low(point.time)), abs=1e-9)
            assert point.high == pytest.approx(float(high(point.time)), abs=1e-9)


def test_what_had_ended_by_a_day_is_read_off_the_curve() -> None:
    points = kaplan_meier(TIMES, ENDED)
    assert share_ended_by(points, 5) == (0.0, 0.0, 0.0)
    share, low, high = share_ended_by(points, 12)
    assert round(share, 3) == round(1 - 0.753, 3)
    assert low < share < high


@pytest.mark.parametrize(("times", "ended"), [([1.0], []), ([-1.0], [True])])
def test_times_that_cannot_be_are_refused(times: list[float], ended: list[bool]) -> None:
    with pytest.raises(InvalidInput):
        kaplan_meier(times, ended)


# Benjamini and Hochberg (1995), the 15 p-values of their myocardial infarction example: at 0.05 the procedure
# rejects the four smallest.
PUBLISHED_P = [
    0.0001, 0.0004, 0.0019, 0.0095, 0.0201, 0.0278, 0.0298, 0.0344,
    0.0459, 0.3240, 0.4262, 0.5719, 0.6528, 0.7590, 1.0000,
]  # fmt: skip


def test_the_published_example_of_many_tests() -> None:
    adjusted = false_discovery_adjusted(PUBLISHED_P)
    assert [p for p, a in zip(PUBLISHED_P, adjusted, strict=True) if a <= 0.05] == PUBLISHED_P[:4]


@given(st.lists(st.floats(0, 1), max_size=40))
def test_adjusted_p_values_equal_scipy(p_values: list[float]) -> None:
    expected: Any = stats.false_discovery_control(p_values) if p_values else []
    assert false_discovery_adjusted(p_values) == pytest.approx(list(expected), abs=1e-12)


STRATA = st.lists(
    st.integers(0, 12).flatmap(
        lambda n1: st.integers(0, 12).flatmap(
            lambda n2: st.builds(
                Stratum,
                first_hits=st.integers(0, n1),
                first_total=st.just(n1),
                second_hits=st.integers(0, n2),
                second_total=st.just(n2),
            )
        )
    ),
    max_size=6,
)


@given(STRATA)
def test_the_test_of_no_difference_rests_on_the_hypergeometric_distribution(strata: list[Stratum]) -> None:
    """Given the margins of a stratum, the hits of one side are hypergeometric: mean and variance from scipy."""
    found = adjusted_difference(strata)
    used = [s for s in strata if s.first_total and s.second_total]
    if not used:
        assert found is None
        return
    assert found is not None
    excess = variance = 0.0
    for s in used:
        n = s.first_total + s.second_total
        law = stats.hypergeom(n, s.first_hits + s.second_hits, s.second_total)
        with np.errstate(all="ignore"):
            excess += s.second_hits - float(law.mean())
            variance += float(law.var())
    expected = 1.0 if variance <= 1e-12 else float(stats.chi2.sf(excess**2 / variance, 1))
    assert found.p_value == pytest.approx(expected, abs=1e-9)
    assert found.low <= found.difference <= found.high


@given(st.integers(1, 40), st.integers(1, 40), st.data())
def test_one_stratum_is_the_plain_difference_of_shares(n1: int, n2: int, data: st.DataObject) -> None:
    h1, h2 = data.draw(st.integers(0, n1)), data.draw(st.integers(0, n2))
    found = adjusted_difference([Stratum(first_hits=h1, first_total=n1, second_hits=h2, second_total=n2)])
    assert found is not None
    p1, p2 = h1 / n1, h2 / n2
    assert found.difference == pytest.approx(p2 - p1)
    wald = 1.959963984540054 * sqrt(p1 * (1 - p1) / n1 + p2 * (1 - p2) / n2)
    assert found.high == pytest.approx(min(1.0, p2 - p1 + wald))


def test_a_change_of_mix_alone_is_no_improvement_and_a_true_one_is_found() -> None:
    """Jobs of two models, one easy and one hard; the second side has more of the easy ones."""
    rng = random.Random(5)

    def side(n_easy: int, n_hard: int, gain: float) -> list[tuple[int, int]]:
        return [
            (sum(rng.random() < 0.9 + gain / 3 for _ in range(n_easy)), n_easy),
            (sum(rng.random() < 0.5 + gain for _ in range(n_hard)), n_hard),
        ]

    missed = found_by_mix = found_by_plain = 0
    for _ in range(200):
        first = side(60, 180, 0.0)
        mix, better = side(180, 60, 0.0), side(180, 60, 0.25)

        def compared(second: Sequence[tuple[int, int]], first: Sequence[tuple[int, int]] = first) -> float:
            found = adjusted_difference(
                Stratum(first_hits=a, first_total=n, second_hits=b, second_total=m)
                for (a, n), (b, m) in zip(first, second, strict=True)
            )
            assert found is not None
            return found.low

        found_by_mix += compared(mix) > 0
        missed += compared(better) <= 0
        plain = difference_interval(
            wilson_interval(sum(h for h, _ in first), 240), wilson_interval(sum(h for h, _ in mix), 240)
        )
        found_by_plain += plain is not None and plain.low > 0
    assert found_by_plain > 180, "without strata the mix passes for an improvement"
    assert found_by_mix < 16, "2.5 % of 200 are expected above"
    assert missed < 20


# NIST/SEMATECH e-Handbook of Statistical Methods, 6.3.2.2: flow rates of ten batches, and the limits it gives.
FLOW = [49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1]


def test_the_handbook_example_of_an_individuals_chart() -> None:
    chart = individuals_chart(FLOW)
    assert chart is not None
    assert round(chart.centre, 2) == 50.81
    assert round(chart.mean_range, 4) == 1.8778
    assert (round(chart.high, 4), round(chart.low, 4)) == (55.8041, 45.8159)


def test_run_rules_tell_what_they_are_for() -> None:
    steady = [10, 11, 9, 10.5, 9.5, 10, 11, 9, 10.5, 9.5, 10, 10.4]
    assert individuals_chart([*steady, 30.0, *steady]).signals[0][1] == "beyond the limits"  # type: ignore[union-attr]
    shifted = [*steady, *(v + 2.5 for v in steady)]
    assert {rule for _, rule in individuals_chart(shifted).signals}  # type: ignore[union-attr]
    assert individuals_chart([5.0] * 20).signals == ()  # type: ignore[union-attr]
    assert individuals_chart([1.0] * 7) is None


def test_steady_readings_seldom_give_a_signal() -> None:
    """Beyond three standard deviations lie 0.27 % of normal readings; with all four rules about 1.1 % signal, a run
    length of some 92 (Champ and Woodall 1987, from memory)."""
    rng = random.Random(3)
    n = signals = 0
    for _ in range(60):
        chart = individuals_chart([rng.gauss(0, 1) for _ in range(200)])
        assert chart is not None
        n, signals = n + 200, signals + len(chart.signals)
    assert 0.004 < signals / n < 0.03


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_the_interval_of_a_median_is_near_scipys(seed: int) -> None:
    values = list(np.random.default_rng(seed).lognormal(2, 0.5, 60))
    own = median_interval(values, seed=seed)
    other = stats.bootstrap((values,), np.median, method="percentile", n_resamples=4000, rng=seed)
    assert own is not None
    assert own.value == pytest.approx(float(np.median(values)))
    assert own.low == pytest.approx(other.confidence_interval.low, rel=0.06)
    assert own.high == pytest.approx(other.confidence_interval.high, rel=0.06)


def test_a_figure_written_again_and_again_is_told_from_one_that_is_common() -> None:
    rng = random.Random(2)
    others = [round(rng.gauss(10, 1), 1) for _ in range(300)]
    copied = [9.6] * 20 + [round(rng.gauss(10, 1), 1) for _ in range(5)]
    assert same_again(copied, others).p_value < 1e-6  # type: ignore[union-attr]
    p_values = []
    for _ in range(200):
        found = same_again([round(rng.gauss(10, 1), 1) for _ in range(25)], others)
        assert found is not None
        p_values.append(found.p_value)
    assert sum(p < 0.05 for p in p_values) <= 20
    assert same_again([1.0] * 20, [1.0] * 200).p_value > 0.05  # type: ignore[union-attr]
    assert same_again([], others) is None


@settings(max_examples=examples(40), deadline=None)
@given(st.integers(0, 10_000))
def test_last_digits_are_compared_as_scipy_compares_them(seed: int) -> None:
    rng = random.Random(seed)
    own, others = ([rng.randrange(1000) for _ in range(n)] for n in (200, 600))
    table = [[sum(v % 10 == d for v in side) for d in range(10)] for side in (own, others)]
    expected: Any = stats.chi2_contingency(table, correction=False)
    found = last_digit_p_value([v / 10 for v in own], [v / 10 for v in others], 1)
    assert found == pytest.approx(float(expected.pvalue), abs=1e-9)
    assert last_digit_p_value([1.0] * 49, [1.0] * 200, 1) is None


def test_readings_of_a_narrow_range_have_uneven_digits_by_nature_and_are_not_asked_about() -> None:
    rng = random.Random(4)

    def narrow(n: int) -> list[float]:
        return [round(rng.gauss(10, 0.12), 1) for _ in range(n)]

    others = narrow(500)
    p_values = [last_digit_p_value(narrow(80), others, 1) for _ in range(200)]
    assert sum(p is not None and p < 0.05 for p in p_values) <= 22


@given(st.integers(0, 40), st.integers(0, 40), st.integers(0, 40), st.integers(0, 40))
def test_what_is_rarer_here_is_so_by_fishers_exact_test(a: int, b: int, c: int, d: int) -> None:
    """Fisher (1935), as SciPy works it out."""
    if min(a + b, c + d, a + c, b + d) == 0:
        expected = 1.0
    else:
        expected = float(stats.fisher_exact(np.array([[a, b], [c, d]]), alternative="less").pvalue)
    assert rarer_p_value(a, a + b, a + c, a + b + c + d) == pytest.approx(expected, rel=1e-9)


@given(st.integers(0, 200), st.integers(1, 200))
def test_the_largest_share_is_the_exact_intervals_upper_end(n_hits: int, more: int) -> None:
    """Clopper and Pearson (1934), as SciPy works it out; two-sided 90 % has the upper end of one-sided 95 %."""
    n = n_hits + more
    expected = stats.binomtest(n_hits, n).proportion_ci(confidence_level=0.90, method="exact").high
    assert share_at_most(n_hits, n) == pytest.approx(expected, abs=1e-9)
