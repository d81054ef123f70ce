"""What makes a finished job unusual: each reason by itself, and together."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.evidence.jobs import JobLine
from reedling.core.evidence.unusual import unusual

PLAIN = JobLine(
    order="o",
    finished_at=datetime(2026, 5, 4, 9, tzinfo=UTC),
    n_visits=1,
    working_visits=1,
    minutes_on_site=60.0,
    planned_minutes=60.0,
    n_departures=0,
    n_findings=0,
    fixed=True,
    doubtful_finish=False,
    rating=4,
    tone=0.6,
)
REASONS: tuple[tuple[dict[str, Any], str], ...] = (
    ({"n_helped": 2}, "asked for help 2 times"),
    ({"n_findings": 1, "n_departures": 1}, "1 finding"),
    ({"n_findings": 2, "n_out_of_limit": 2, "n_departures": 2}, "2 readings out of limit"),
    (
        {"n_visits": 2, "working_visits": 2, "return_reasons": ("part to order",)},
        "took 2 visits: part to order",
    ),
    ({"is_repeat": True}, "the same fault was worked on within 30 days before"),
    ({"fixed": False}, "the fault came back within 30 days"),
    ({"minutes_on_site": None}, "times that cannot be"),
    ({"minutes_on_site": 120.0}, "took 2 times its plan"),
    ({"minutes_on_site": 24.0}, "took 40 % of its plan"),
    ({"n_long": 2, "n_departures": 2}, "2 steps took long"),
    ({"n_hasty": 3, "n_departures": 3}, "3 steps took next to no time"),
    ({"n_parts_unplanned": 1, "n_departures": 1}, "1 part beyond the plan"),
    ({"rating": 2}, "the customer rated it 2 of 5"),
    ({"tone": -0.4}, "a comment in a poor tone"),
    ({"n_beside": 1}, "1 thing recorded beside the steps"),
    ({"n_departures": 5}, "5 other things differ from the plan"),
)


@pytest.mark.parametrize(("unlike", "reason"), REASONS)
def test_each_thing_that_is_unusual_is_told_in_words(unlike: dict[str, Any], reason: str) -> None:
    assert unusual(PLAIN).score == 0
    found = unusual(replace(PLAIN, **unlike))
    assert found.reasons == (reason,)
    assert found.score > 0


def test_a_visit_that_needed_another_is_told_once() -> None:
    """Each return is a departure from the plan too; it is no other thing beside its visit."""
    twice = replace(
        PLAIN, n_visits=3, working_visits=3, return_reasons=("part to order", "more time"), n_departures=5
    )
    assert unusual(twice).reasons == ("took 3 visits: part to order, more time",)


def test_one_step_that_took_long_and_three_other_things_are_nothing_unusual() -> None:
    assert unusual(replace(PLAIN, n_long=1, n_departures=4)).reasons == ()


@given(st.sets(st.sampled_from(range(len(REASONS)))))
def test_what_comes_together_is_all_told_and_weighs_what_each_does(chosen: set[int]) -> None:
    """Of reasons that speak of the same figure one is taken."""
    unlike: dict[str, Any] = {}
    reasons: list[str] = []
    counts = {"n_departures": 0, "n_findings": 0}
    for n in sorted(chosen):
        values, reason = REASONS[n]
        if (
            n == len(REASONS) - 1
            or unlike.keys() & (values.keys() - counts.keys())
            or _at_odds(values, unlike)
        ):
            continue
        unlike |= {name: value for name, value in values.items() if name not in counts}
        counts = {name: held + values.get(name, 0) for name, held in counts.items()}
        reasons.append(reason)
    found = unusual(replace(PLAIN, **(unlike | counts)))
    assert sorted(found.reasons) == sorted(reasons)
    alone = [unusual(replace(PLAIN, **values)).score for values, reason in REASONS if reason in reasons]
    assert found.score == pytest.approx(sum(alone))


def _at_odds(one: dict[str, Any], other: dict[str, Any]) -> bool:
    """Of a job of two visits nobody knows whether the fault came back."""
    return {"fixed", "working_visits"} <= (one.keys() | other.keys())
