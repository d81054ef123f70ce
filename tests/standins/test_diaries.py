"""Simulated technicians are on one visit at a time, in whatever order their visits are made up."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from reedling.standins.diaries import LONGEST_VISIT, TO_THE_NEXT, Diaries

MONDAY = datetime(2026, 6, 1, tzinfo=UTC)
ASKED = st.lists(st.tuples(st.integers(0, 7 * 24 * 60), st.integers(1, 12 * 60)), max_size=25)


@given(ASKED)
def test_visits_do_not_overlap_and_are_put_off_only_where_they_would(asked: list[tuple[int, int]]) -> None:
    diaries = Diaries()
    for minute, length in asked:
        at = MONDAY + timedelta(minutes=minute)
        begins = diaries.free_from("runa", at)
        held = diaries.visits.get("runa", [])
        fits = all(at + LONGEST_VISIT <= b or e + TO_THE_NEXT <= at for b, e in held)
        assert begins == at if fits else begins > at
        assert begins == at or begins.hour < 18
        diaries.enter("runa", begins, begins + timedelta(minutes=length))
    for (_, ends), (begins, _) in pairwise(diaries.visits.get("runa", [])):
        assert ends <= begins


def test_who_is_free_late_on_a_friday_heads_out_on_monday_morning() -> None:
    diaries = Diaries()
    friday = MONDAY + timedelta(days=4, hours=16)
    diaries.enter("runa", friday, friday + timedelta(hours=3))
    assert diaries.free_from("runa", friday + timedelta(hours=1)) == MONDAY + timedelta(days=7, hours=8)
    assert diaries.free_from("marek", friday) == friday
