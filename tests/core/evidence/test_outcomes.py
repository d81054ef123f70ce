"""Fixed first time: the definition, case by case. Changes between revisions, in a sentence."""

from __future__ import annotations

from datetime import timedelta

import pytest

from reedling.core.evidence.outcomes import OrderOutcome, first_time_fix
from reedling.core.evidence.revision_outcomes import outcome_change
from reedling.core.statistics.intervals import wilson_interval
from tests.plans import START

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
