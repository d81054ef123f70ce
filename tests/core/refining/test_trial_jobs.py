"""The jobs of a trial, against counting them one by one."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from reedling.core.evidence.cross_filter import columns_of
from reedling.core.evidence.expected_minutes import expected_minutes
from reedling.core.refining.trial_jobs import PACE_DAYS, past_jobs, read_jobs
from reedling.core.refining.trials import FEWEST_A_SIDE
from tests.core.evidence.test_compared_jobs import JOBS, T0, job
from tests.core.refining.test_trials import TRIAL
from tests.examples import examples

BEGAN = T0 + timedelta(days=20)
OF_JOBS = replace(TRIAL, document="W", before="A", letter="B", began_at=BEGAN, most_jobs=40)


@settings(max_examples=examples(60))
@given(JOBS, st.data())
def test_a_trial_is_read_off_its_own_jobs_in_the_order_they_were_finished(
    held: list[dict[str, object]], data: st.DataObject
) -> None:
    jobs = [job(n, **one) for n, one in enumerate(held)]  # type: ignore[arg-type]
    taken = {one.order: data.draw(st.booleans()) for one in jobs if data.draw(st.booleans())}
    columns = columns_of(jobs)
    found = read_jobs([columns], OF_JOBS, taken)
    before = {one.order for one in jobs if one.order not in taken and one.finished_at <= BEGAN}
    expected = expected_minutes(columns, np.array([order in before for order in columns.orders], dtype=bool))
    is_known = dict(zip(columns.orders, ~np.isnan(expected), strict=True))
    timed = [one for one in jobs if one.order in taken and one.minutes is not None and is_known[one.order]]
    assert found.reading.n_tried == sum(taken[one.order] for one in timed)
    assert found.reading.n_others == sum(not taken[one.order] for one in timed)
    for share, tried in ((found.repeat_tried, True), (found.repeat_others, False)):
        own = [one for one in jobs if taken.get(one.order) is tried]
        assert (share.n_hits, share.n_total) == (sum(one.n_visits > 1 for one in own), len(own))


def test_what_the_trial_saves_is_found_although_its_jobs_are_of_other_kinds_and_districts() -> None:
    """Twenty minutes less, planted; two incident types, of which the second is three times as long."""
    rng = np.random.default_rng(9)
    taken: dict[str, bool] = {}
    lots = []
    for kind, long in (("c", 60.0), ("d", 180.0)):
        jobs = []
        for n in range(200):
            made = job(n + (1_000 if kind == "d" else 0), cause=kind, day=n // 6)
            tried = n >= 120 and rng.random() < 0.5
            if n >= 120:
                taken[made.order] = tried
            jobs.append(replace(made, minutes=long * rng.lognormal(-0.005, 0.1) - 20 * tried))
        lots.append(columns_of(jobs))
    found = read_jobs(lots, replace(OF_JOBS, most_jobs=160), taken)
    assert found.reading.n_tried + found.reading.n_others == 160
    last = found.reading.course[-1]
    assert found.reading.answer == "helped"
    assert last.low < -20 < last.high
    assert found.reading.course[0].n_jobs >= 2 * FEWEST_A_SIDE


@given(JOBS)
def test_past_jobs_are_counted_by_district_and_week(held: list[dict[str, object]]) -> None:
    jobs = [job(n, **one) for n, one in enumerate(held)]  # type: ignore[arg-type]
    now = T0 + timedelta(days=PACE_DAYS + 20)
    found = past_jobs([columns_of(jobs)], "W", "A", now)
    since = now - timedelta(days=PACE_DAYS)
    assert found.weekly == pytest.approx(sum(one.finished_at >= since for one in jobs) / (PACE_DAYS / 7))
    in_north = sum(one["district"] == "north" for one in held) / len(held) if held else 0.0
    assert found.share_in(["north"]) == pytest.approx(in_north)
    assert len(found.over_expected) <= sum(one.minutes is not None for one in jobs)
    assert past_jobs([columns_of(jobs)], "W", "Z", now).spread == 0.0
    assert past_jobs([], "W", "A", now).share_in(["north"]) == 0.0
