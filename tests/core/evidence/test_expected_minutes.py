"""What a job was to be expected to take is learned from the jobs before alone, and is near what is planted."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from reedling.core.evidence.cross_filter import columns_of
from reedling.core.evidence.expected_minutes import expected_minutes, over_expected_by_the_others
from tests.core.evidence.test_compared_jobs import JOBS, job
from tests.examples import examples

OF_CAUSE = {"c": 40.0, "d": 90.0, "e": 20.0}
PACE = {"t0": 0.8, "t1": 1.0, "t2": 1.4}


@settings(max_examples=examples(60))
@given(JOBS, st.data())
def test_only_the_past_is_learned_from(held: list[dict[str, object]], data: st.DataObject) -> None:
    """Whatever the other jobs took, what is expected of any job stays the same."""
    jobs = [job(n, **one) for n, one in enumerate(held)]  # type: ignore[arg-type]
    past = np.array([data.draw(st.booleans()) for _ in jobs], dtype=bool)
    other = [
        one if of_past else replace(one, minutes=data.draw(st.none() | st.floats(1, 900)))
        for one, of_past in zip(jobs, past, strict=True)
    ]
    by_order = dict(zip([one.order for one in jobs], past, strict=True))
    found = []
    for lot in (jobs, other):
        columns = columns_of(lot)
        mask = np.array([by_order[order] for order in columns.orders], dtype=bool)
        found.append(dict(zip(columns.orders, expected_minutes(columns, mask), strict=True)))
    assert found[0].keys() == found[1].keys()
    for order, minutes in found[0].items():
        assert minutes == pytest.approx(found[1][order], nan_ok=True)
        assert np.isnan(minutes) == (
            not any(p and j.minutes is not None for p, j in zip(past, jobs, strict=True))
        )


def test_kind_and_who_went_are_told_apart() -> None:
    rng = np.random.default_rng(5)
    jobs = []
    for n in range(600):
        cause = str(rng.choice(list(OF_CAUSE)))
        # The quick one mostly gets the long faults: neither mean alone is what is planted.
        who = "t0" if cause == "d" and rng.random() < 0.7 else str(rng.choice(list(PACE)))
        minutes = OF_CAUSE[cause] * PACE[who] * rng.lognormal(-0.02, 0.2)
        jobs.append(replace(job(n, cause=cause, minutes=minutes), technician=who))
    columns = columns_of(jobs)
    expected = expected_minutes(columns, np.ones(600, dtype=bool))
    planted = {one.order: (one.values[4], one.technician) for one in jobs}
    for order, minutes in zip(columns.orders, expected, strict=True):
        cause, who = planted[order]
        assert minutes == pytest.approx(OF_CAUSE[cause] * PACE[who], rel=0.12)


def test_each_past_job_is_held_against_the_others_alone() -> None:
    """A kind of one job: its own minutes tell nothing of what was to be expected of it."""
    jobs = [job(n, minutes=60.0) for n in range(40)] + [job(99, cause="d", minutes=600.0)]
    columns = columns_of(jobs)
    over = over_expected_by_the_others(columns, np.ones(41, dtype=bool))
    assert len(over) == 41
    assert over.max() == pytest.approx(540.0, abs=30)
    assert over_expected_by_the_others(columns, np.zeros(41, dtype=bool)).shape == (0,)
