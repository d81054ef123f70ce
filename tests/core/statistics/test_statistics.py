"""Intervals and summaries against published worked examples and reference libraries."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import binomtest

from reedling.core.statistics.intervals import difference_interval, wilson_interval
from reedling.core.statistics.summaries import spread
from reedling.errors import InvalidInput

# Newcombe, R. G. (1998), Statistics in Medicine 17(8), 857-872, Table I, method 3. Four decimals.
NEWCOMBE_TABLE_1 = [
    (81, 263, 0.2553, 0.3662),
    (15, 148, 0.0624, 0.1605),
    (0, 20, 0.0000, 0.1611),
    (1, 29, 0.0061, 0.1718),
]

# Newcombe, R. G. (1998), Statistics in Medicine 17(8), 873-890, Table II, method 10, from memory.
NEWCOMBE_DIFFERENCES = [
    ((48, 80), (56, 70), 0.0524, 0.3339),
    ((3, 10), (9, 10), 0.1705, 0.8090),
    ((0, 10), (10, 10), 0.6075, 1.0000),
]


@pytest.mark.parametrize(("hits", "total", "low", "high"), NEWCOMBE_TABLE_1)
def test_wilson_matches_the_published_worked_examples(hits: int, total: int, low: float, high: float) -> None:
    found = wilson_interval(hits, total)
    assert (round(found.low, 4), round(found.high, 4)) == (low, high)


@given(st.integers(1, 400).flatmap(lambda n: st.tuples(st.integers(0, n), st.just(n))))
def test_wilson_matches_scipy_and_holds_the_share(counts: tuple[int, int]) -> None:
    hits, total = counts
    found = wilson_interval(hits, total)
    reference = binomtest(hits, total).proportion_ci(method="wilson")
    assert found.low == pytest.approx(reference.low, abs=1e-12)
    assert found.high == pytest.approx(reference.high, abs=1e-12)
    assert 0 <= found.low <= hits / total <= found.high <= 1


def test_of_no_jobs_nothing_is_known() -> None:
    nothing = wilson_interval(0, 0)
    assert (nothing.share, nothing.low, nothing.high) == (None, 0.0, 1.0)


def test_hits_beyond_the_total_are_refused_in_a_sentence() -> None:
    with pytest.raises(InvalidInput, match="the number of hits must be 0 to 3, got 4"):
        wilson_interval(4, 3)
    with pytest.raises(InvalidInput, match=r"between 0 and 1, got 95\. Write 95 % as 0\.95"):
        wilson_interval(1, 3, confidence=95)


@pytest.mark.parametrize(("first", "second", "low", "high"), NEWCOMBE_DIFFERENCES)
def test_the_difference_of_shares_matches_newcombe(
    first: tuple[int, int], second: tuple[int, int], low: float, high: float
) -> None:
    found = difference_interval(wilson_interval(*first), wilson_interval(*second))
    assert found is not None
    assert (round(found.low, 4), round(found.high, 4)) == (low, high)


def test_a_difference_with_nothing_is_not_given() -> None:
    assert difference_interval(wilson_interval(0, 0), wilson_interval(1, 2)) is None


@given(st.lists(st.floats(0, 1000), min_size=1, max_size=40))
def test_quartiles_match_numpy(values: list[float]) -> None:
    found = spread(values)
    assert found is not None
    expected = np.percentile(values, [25, 50, 75])
    assert [found.low_quartile, found.median, found.high_quartile] == pytest.approx(list(expected), abs=1e-9)
    assert found.count == len(values)


def test_an_empty_sample_has_no_spread() -> None:
    assert spread([]) is None
