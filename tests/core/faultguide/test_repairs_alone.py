"""What remedies alone take when one of them takes other minutes, against working each out anew."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from reedling.core.faultguide.arrays import arrays_of
from reedling.core.faultguide.repairs_alone import alone_with_other_minutes, repairs_alone
from tests.core.faultguide.test_faultguide import a_guide
from tests.examples import examples


@settings(max_examples=examples(200), deadline=None)
@given(st.integers(0, 1_000_000), st.integers(1, 6), st.integers(1, 6))
def test_other_minutes_of_one_remedy_are_those_worked_out_anew(seed: int, causes: int, repairs: int) -> None:
    guide = arrays_of(a_guide(seed, causes, 1, repairs))
    draw = np.random.default_rng(seed)
    beliefs = draw.dirichlet(np.ones(causes), size=7) * draw.random((7, 1))
    # Some causes are out of the question, and some beliefs have nothing left at all.
    beliefs[draw.random(beliefs.shape) < 0.2] = 0
    repair = int(draw.integers(repairs))
    tried = guide.repair_minutes[repair] * np.geomspace(0.1, 10, 23)
    found = alone_with_other_minutes(guide, beliefs, repair, tried)
    for at, minutes in enumerate(tried):
        takes = guide.repair_minutes.copy()
        takes[repair] = minutes
        anew = repairs_alone(replace(guide, repair_minutes=takes), beliefs, range(repairs))
        np.testing.assert_allclose(found.minutes[:, at], anew.minutes, rtol=1e-9, atol=1e-12)
        firsts = [anew.in_turn(belief)[:1] or (-1,) for belief in range(len(beliefs))]
        assert [(int(first),) for first in found.first[:, at]] == firsts


@settings(max_examples=examples(100), deadline=None)
@given(st.integers(0, 1_000_000))
def test_what_was_done_with_a_belief_is_not_done_again(seed: int) -> None:
    guide = arrays_of(a_guide(seed, 4, 1, 5))
    draw = np.random.default_rng(seed)
    beliefs = draw.dirichlet(np.ones(4), size=6)
    done = draw.random((6, 5)) < 0.4
    found = repairs_alone(guide, beliefs, range(5), done=done)
    for at, belief in enumerate(beliefs):
        anew = repairs_alone(guide, belief[None], set(np.flatnonzero(~done[at]).tolist()))
        assert found.in_turn(at) == anew.in_turn(0)
        np.testing.assert_allclose(found.minutes[at], anew.minutes[0])
