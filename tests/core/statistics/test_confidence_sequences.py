"""Ranges that hold at all times, against the mixture that they are made from and against walks at random."""

from __future__ import annotations

from math import exp, log, pi, sqrt

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad
from scipy.optimize import minimize_scalar

from reedling.core.statistics.confidence_sequences import mixture_width


def mixture(total: float, n: int, variance: float) -> float:
    """Robbins's mixture (1970): the likelihood ratio of a mean against none, over normal means about none."""

    def of_mean(mean: float) -> float:
        return exp(mean * total - mean * mean * n / 2 - mean * mean / (2 * variance)) / sqrt(
            2 * pi * variance
        )

    peak = total / (n + 1 / variance)
    width = 12 / sqrt(n + 1 / variance)
    return float(quad(of_mean, peak - width, peak + width, limit=200)[0])


@given(st.integers(2, 3_000), st.integers(10, 3_000), st.sampled_from((0.01, 0.05, 0.2)))
def test_at_its_end_the_mixture_has_grown_to_one_in_alpha(n: int, best_at: int, alpha: float) -> None:
    """By Ville's inequality the mixture ever exceeds 1 / alpha with probability alpha at the most."""
    half = mixture_width(n, best_at, alpha=alpha)
    best = minimize_scalar(
        lambda v: (1 / best_at + 1 / (best_at**2 * exp(v))) * log((best_at * exp(v) + 1) / alpha**2),
        bounds=(log(1e-7), log(1e3)),
        method="bounded",
        options={"xatol": 1e-12},
    )
    assert mixture(half * n, n, exp(best.x)) == pytest.approx(1 / alpha, rel=1e-3)


def test_no_other_mixture_is_narrower_where_it_is_asked_to_be() -> None:
    """Howard and others (2021), section 3.5: the best mixture for a number of values."""
    for n in (20, 100, 500):
        others = [mixture_width(n, max(2, round(n * share))) for share in (0.2, 0.5, 0.8, 1.3, 2, 5)]
        assert all(mixture_width(n, n) <= other for other in others)


def test_it_is_wider_than_the_range_of_one_look_and_narrows() -> None:
    for n in (10, 100, 1_000):
        assert mixture_width(n, 100) > 1.96 / sqrt(n)
    widths = [mixture_width(n, 100) for n in range(1, 2_000)]
    assert widths == sorted(widths, reverse=True)


def test_of_walks_at_random_at_most_five_in_a_hundred_ever_leave_it() -> None:
    rng = np.random.default_rng(3)
    n = np.arange(1, 401)
    half = np.array([mixture_width(int(i), 150) for i in n])
    means = np.cumsum(rng.normal(size=(4_000, 400)), axis=1) / n
    left = float((np.abs(means) > half).any(axis=1).mean())
    once = float((np.abs(means) > 1.96 / np.sqrt(n)).any(axis=1).mean())
    assert left <= 0.05
    assert once > 0.3, "one who looks again and again at the usual range is wrong far more often"
