"""Where an order of work begins otherwise, against trying many minutes one by one."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from reedling.core.faultguide.guides import FaultGuide
from reedling.core.faultguide.next_doing import next_doing
from reedling.core.faultguide.turning_points import FURTHEST, TO_THIS_SHARE, turning_points
from tests.core.faultguide.test_faultguide import a_guide
from tests.examples import examples

STEP = np.log(FURTHEST) / np.ceil(np.log(FURTHEST) / np.log(1 + TO_THIS_SHARE))
"""How far apart the minutes are that are tried, as a difference of logarithms."""


def first(guide: FaultGuide) -> tuple[str, int]:
    found = next_doing(guide, guide.chances, range(len(guide.checks)), range(len(guide.repairs)))
    return found.act, found.place


def with_minutes(guide: FaultGuide, act: str, place: int, of: str, minutes: float) -> FaultGuide:
    if of == "parts":
        dearer = replace(guide.repairs[place], cost_minutes=minutes)
        return replace(guide, repairs=(*guide.repairs[:place], dearer, *guide.repairs[place + 1 :]))
    if act == "check":
        changed = replace(guide.checks[place], minutes=minutes)
        return replace(guide, checks=(*guide.checks[:place], changed, *guide.checks[place + 1 :]))
    repair = replace(guide.repairs[place], minutes=minutes)
    return replace(guide, repairs=(*guide.repairs[:place], repair, *guide.repairs[place + 1 :]))


@settings(max_examples=examples(25), deadline=None)
@given(st.integers(0, 10_000))
def test_the_first_thing_changes_there_and_not_before(seed: int) -> None:
    guide = a_guide(seed, 4, 4, 3)
    held = first(guide)
    for turn in turning_points(guide):
        at = with_minutes(guide, turn.act, turn.place, turn.of, turn.turns_at)
        assert first(at) == (turn.then_act, turn.then_place) != held
        # All minutes nearer than that, in steps no longer than promised, leave it as it is.
        apart = abs(np.log(turn.turns_at / turn.minutes))
        steps = round(apart / STEP)
        assert apart == pytest.approx(steps * STEP)
        for minutes in np.geomspace(turn.minutes, turn.turns_at, steps + 1)[:-1]:
            assert first(with_minutes(guide, turn.act, turn.place, turn.of, float(minutes))) == held


@settings(max_examples=examples(15), deadline=None)
@given(st.integers(0, 10_000))
def test_what_is_left_out_changes_nothing(seed: int) -> None:
    guide = a_guide(seed, 4, 3, 3)
    held = first(guide)
    named = {(t.act, t.place, t.of, t.turns_at > t.minutes) for t in turning_points(guide)}
    rows = [
        *(("check", i, "minutes", c.minutes) for i, c in enumerate(guide.checks)),
        *(("repair", i, "minutes", r.minutes) for i, r in enumerate(guide.repairs)),
        *(("repair", i, "parts", r.cost_minutes) for i, r in enumerate(guide.repairs) if r.cost_minutes),
    ]
    for act, place, of, minutes in rows:
        for above in (True, False):
            if (act, place, of, above) not in named:
                for factor in np.geomspace(1, FURTHEST if above else 1 / FURTHEST, 8):
                    assert first(with_minutes(guide, act, place, of, minutes * float(factor))) == held


def test_the_price_of_parts_turns_an_order_where_it_has_one() -> None:
    turns = [turn for seed in range(60) for turn in turning_points(a_guide(seed, 4, 3, 3))]
    priced = [turn for turn in turns if turn.of == "parts"]
    assert priced
    assert {turn.act for turn in priced} == {"repair"}
