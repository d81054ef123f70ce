"""How many of one's own values lie below the smallest of others: against scipy and against drawing them."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from reedling.core.statistics.exceedances import exceedance_p_value


@given(st.integers(1, 40), st.integers(1, 300), st.data())
def test_it_is_the_tail_of_the_negative_hypergeometric_distribution(
    n_own: int, n_others: int, data: st.DataObject
) -> None:
    """scipy.stats.nhypergeom: how many of ``n`` marked are drawn before the ``r``-th unmarked of a lot is met."""
    rank = data.draw(st.integers(1, n_others))
    n_below = data.draw(st.integers(0, n_own))
    library = stats.nhypergeom(n_own + n_others, n_own, rank).sf(n_below - 1)
    assert exceedance_p_value(n_below, n_own, n_others, rank) == pytest.approx(library, abs=1e-9)


@pytest.mark.parametrize("draw", ["lognormal", "exponential"])
def test_whatever_the_distribution_it_is_how_often_that_happens(draw: str) -> None:
    rng = np.random.default_rng(7)
    n_own, n_others, rank, n_below, n_worlds = 15, 60, 2, 2, 20_000
    own = getattr(rng, draw)(size=(n_worlds, n_own))
    others = getattr(rng, draw)(size=(n_worlds, n_others))
    bounds = np.sort(others, axis=1)[:, rank - 1]
    seen = float(((own < bounds[:, None]).sum(axis=1) >= n_below).mean())
    told = exceedance_p_value(n_below, n_own, n_others, rank)
    assert abs(seen - told) < 4 * (told * (1 - told) / n_worlds) ** 0.5
