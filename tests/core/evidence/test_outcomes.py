"""Fixed first time: the definition, case by case. Changes between revisions, in a sentence."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.evidence.outcomes import (
    OrderOutcome,
    came_back,
    fixed_orders,
    is_fixed,
    lasted,
    repeat_orders,
)
from reedling.core.evidence.revision_outcomes import outcome_change
from reedling.core.statistics.intervals import wilson_interval
from reedling.core.statistics.strata import Stratum
from tests.plans import START
from tests.recounts import first_time_fix

NOW = START + timedelta(days=200)


def order(
    name: str,
    *,
    logged: float = 0,
    took: float = 0.2,
    visits: int = 1,
    asset: str = "R1",
    symptom: str = "stalls",
    open_: bool = False,
    cancelled: bool = False,
) -> OrderOutcome:
    """An order logged and finished so many days after the start."""
    logged_at = START + timedelta(days=logged)
    return OrderOutcome(
        order=name,
        asset=asset,
        symptom=symptom,
        logged_at=logged_at,
        finished_at=None if open_ else logged_at + timedelta(days=took),
        working_visits=visits,
        cancelled=cancelled,
    )


def related(one: str, other: str) -> bool:
    return one == other or {one, other} == {"stalls", "will-not-park"}


FIRST = order("one")


@pytest.mark.parametrize(
    ("further", "fixed"),
    [
        ([], True),
        ([order("two", logged=20)], False),
        ([order("two", logged=20, symptom="will-not-park")], False),
        ([order("two", logged=20, symptom="leaks")], True),
        ([order("two", logged=20, asset="R2")], True),
        ([order("two", logged=31)], True),
        ([order("two", logged=20, cancelled=True)], True),
        ([order("two", logged=20, open_=True)], False),
        ([order("before", logged=-5)], True),
    ],
)
def test_a_further_order_within_thirty_days_on_the_same_asset_undoes_the_fix(
    further: list[OrderOutcome], fixed: bool
) -> None:
    found = first_time_fix([FIRST], [FIRST, *further], now=NOW, related=related)
    assert (found.fixed == ("one",)) is fixed
    assert (found.not_fixed == ("one",)) is not fixed


def test_two_working_visits_are_not_first_time() -> None:
    twice = order("one", visits=2)
    assert first_time_fix([twice], [twice], now=NOW, related=related).not_fixed == ("one",)


def test_a_young_job_is_not_counted_either_way() -> None:
    young = order("one", logged=175)
    failed_young = order("two", logged=175, visits=2, asset="R2")
    found = first_time_fix([young, failed_young], [young, failed_young], now=NOW, related=related)
    assert found.too_young == ("one", "two")
    assert found.share.n_total == 0
    assert found.share.share is None


def test_open_and_cancelled_orders_are_not_jobs() -> None:
    orders = [order("one", open_=True), order("two", cancelled=True)]
    found = first_time_fix(orders, orders, now=NOW, related=related)
    assert (found.share.n_total, found.too_young) == (0, ())


def test_the_share_carries_wilsons_interval() -> None:
    orders = [order(str(i), asset=f"R{i}", visits=1 if i < 15 else 2) for i in range(148)]
    found = first_time_fix(orders, orders, now=NOW, related=related)
    assert found.share == wilson_interval(15, 148)


@pytest.mark.parametrize(
    ("older", "newer", "sentence"),
    [
        ((3, 9), (30, 40), "Too few to say: 10 jobs a side are wanted, there are 9 and 40."),
        ((48, 80), (56, 70), "Fixed first time rose by 20 points (5 to 33), 80 and 70 jobs."),
        ((56, 70), (48, 80), "Fixed first time fell: a change of −20 points (−33 to −5), 70 and 80 jobs."),
        ((8, 10), (9, 10), "No clear change in fixed first time: 10 points (−24 to 42), 10 and 10 jobs."),
    ],
)
def test_a_change_between_revisions_is_said_with_its_doubt(
    older: tuple[int, int], newer: tuple[int, int], sentence: str
) -> None:
    assert outcome_change(wilson_interval(*older), wilson_interval(*newer)).sentence == sentence


def test_a_change_of_mix_is_told_as_one_and_no_improvement() -> None:
    strata = (
        Stratum(first_hits=18, first_total=20, second_hits=72, second_total=80),
        Stratum(first_hits=40, first_total=80, second_hits=10, second_total=20),
    )
    found = outcome_change(wilson_interval(58, 100), wilson_interval(82, 100), strata)
    assert found.sentence == (
        "No clear change in fixed first time: 0 points (−14 to 14), 100 and 100 jobs, with the mix of models and "
        "symptoms held fixed. As counted it would be 24 points: that is a change of mix, not of outcome."
    )


def test_a_true_change_within_every_stratum_is_found() -> None:
    strata = (
        Stratum(first_hits=20, first_total=50, second_hits=40, second_total=50),
        Stratum(first_hits=20, first_total=50, second_hits=38, second_total=50),
    )
    found = outcome_change(wilson_interval(40, 100), wilson_interval(78, 100), strata)
    assert found.sentence.startswith("Fixed first time rose by 38 points")


DAYS = st.integers(0, 40)


ORDERS = st.lists(
    st.builds(
        lambda n, asset, symptom, logged, took, visits, cancelled, doubtful, routine: OrderOutcome(
            order=f"{n}",
            asset=asset,
            symptom=symptom,
            logged_at=NOW - timedelta(days=100 - logged),
            finished_at=None if took is None else NOW - timedelta(days=100 - logged - took),
            working_visits=visits,
            cancelled=cancelled,
            doubtful=doubtful,
            routine=routine,
        ),
        st.integers(0, 10_000),
        st.sampled_from("AB"),
        st.sampled_from(["stalls", "stops", "leaks"]),
        DAYS,
        st.none() | st.integers(0, 9),
        st.integers(1, 2),
        st.booleans(),
        st.booleans(),
        st.booleans(),
    ),
    max_size=12,
    unique_by=lambda o: o.order,
)


@given(ORDERS)
def test_how_long_jobs_lasted_is_read_off_every_pair_of_orders(orders: list[OrderOutcome]) -> None:
    jobs = {o.order for o in orders if int(o.order) % 3}
    expected = []
    for job in orders:
        if job.order not in jobs or job.finished_at is None or job.doubtful:
            continue
        back = [
            o.logged_at
            for o in orders
            if o.asset == job.asset
            and not o.cancelled
            and not o.routine
            and o.logged_at > job.finished_at
            and related(job.symptom, o.symptom)
        ]
        expected.append(((min([*back, NOW]) - job.finished_at).days * 1.0, bool(back)))
    assert sorted(lasted(orders, jobs, related, now=NOW)) == sorted(expected)


@given(ORDERS)
def test_the_fixed_orders_of_an_asset_are_those_that_asking_each_about_all_others_finds(
    orders: list[OrderOutcome],
) -> None:
    assert sorted(fixed_orders(orders, related)) == sorted(
        o.order for o in orders if is_fixed(o, orders, related)
    )


@given(ORDERS)
def test_a_repeat_is_an_order_that_another_came_back_with(orders: list[OrderOutcome]) -> None:
    """Asked of each order with each other one by itself."""
    assert sorted(repeat_orders(orders, related)) == sorted(
        other.order for other in orders if any(came_back(order, [other], related) for order in orders)
    )


def test_a_weekly_round_says_nothing_of_the_one_before() -> None:
    rounds = [replace(order(f"{n}", logged=7 * n, symptom="round due"), routine=True) for n in range(4)]
    assert fixed_orders(rounds, related) == ("0", "1", "2", "3")
    assert repeat_orders(rounds, related) == ()
    called = order("called", logged=8, symptom="round due")
    assert repeat_orders([*rounds, called], related) == ("called",)
    assert fixed_orders([*rounds, called], related) == ("called", "2", "3")
