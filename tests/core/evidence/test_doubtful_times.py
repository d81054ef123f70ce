"""Times that cannot be: told, counted, and kept out of every figure."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.evidence.departures import departures
from reedling.core.evidence.doubtful_times import ANY_TIME, Bounds, doubtful_times, plausible_minutes_on_site
from reedling.core.evidence.job_summary import summarise_job
from reedling.core.evidence.outcomes import is_working_visit
from reedling.core.evidence.steps import count_step, step_records
from reedling.core.runsheet.events import (
    Answered,
    Arrived,
    FieldEvent,
    HeadedOut,
    LeftSite,
    NoteWritten,
    StepDone,
    StepStarted,
)
from reedling.core.runsheet.job import record, replay
from reedling.core.runsheet.job_state import Job, Visit
from reedling.errors import InvalidInput
from tests.core.runsheet.test_job import WHOLE
from tests.plans import START, at, rake_plan, sheet_of

SHEET = sheet_of(rake_plan())
DAY = 24 * 60


def shifted(minutes: float, only: type | None = None) -> list[FieldEvent]:
    return [
        replace(e, at=e.at + timedelta(minutes=minutes)) if only is None or isinstance(e, only) else e
        for e in WHOLE
    ]


@pytest.mark.parametrize(
    ("events", "told"),
    [
        (WHOLE, []),
        (shifted(-400 * DAY), ["Visit 1 lies 400 days before the order was logged"]),
        (shifted(-155, LeftSite), ["Visit 1 has times that run backwards"]),
        (shifted(2 * DAY, LeftSite), ["Visit 1 lasted more than 24 h on site"]),
        (shifted(-20 * 60), []),
        (shifted(40 * DAY), ["Visit 1 lies 38 days after it was received"]),
    ],
    ids=["as it should be", "long before", "left before arriving", "left running", "logged late", "future"],
)
def test_a_visit_whose_times_cannot_be_is_told_and_its_minutes_are_no_figure(
    events: list[FieldEvent], told: list[str]
) -> None:
    bounds = Bounds(logged_at=START, received_at=START + timedelta(days=1, hours=8))
    job = replay(SHEET, events)
    doubts = [d.sentence for d in doubtful_times(job, SHEET.lines, bounds) if not d.line]
    assert [d.partition(";")[0] for d in doubts] == told
    summary = summarise_job(
        SHEET,
        job,
        step_records("WO", SHEET, job),
        order="WO",
        incident_type="IT",
        asset="R",
        symptom="s",
        bounds=bounds,
    )
    assert (summary.minutes_on_site is None) == bool(told)
    assert summary.doubtful_finish == bool(told)
    assert summary.finished_at == job.finished_at
    assert summary.known_at == (bounds.received_at if told else job.finished_at)
    kinds = [d.kind for d in departures(SHEET, job, bounds=bounds)]
    assert kinds.count("doubtful time") == len(told)


@pytest.mark.parametrize("minutes", [-20, 2_628_001])
def test_a_step_of_impossible_length_is_told_and_counted_apart(minutes: float) -> None:
    events: list[FieldEvent] = [
        HeadedOut(at=at(0)),
        Arrived(at=at(1)),
        StepStarted(at=at(2), line="W:lock"),
        Answered(at=at(3), question="W:locked", value=True),
        StepDone(at=at(2 + minutes), line="W:lock"),
    ]
    job = replay(SHEET, events)
    assert len([d for d in doubtful_times(job, SHEET.lines, ANY_TIME) if d.line == "W:lock"]) == 1
    lock = next(r for r in step_records("WO", SHEET, job) if r.step == "lock")
    assert (lock.done, lock.minutes, lock.doubtful) == (True, None, True)
    assert count_step(lock).n_doubtful == 1


def test_a_visit_on_which_nobody_got_in_is_not_a_working_one() -> None:
    """Common practice: a wasted journey is counted against access, not against the repair."""
    there = Visit(headed_out_at=at(0), arrived_at=at(10), left_at=at(20), outcome="return needed")
    assert is_working_visit(replace(there, reason="part to fetch"))
    assert not is_working_visit(replace(there, reason="no access"))
    assert not is_working_visit(replace(there, arrived_at=None, reason="more time"))


def test_a_note_on_a_step_that_does_not_exist_is_refused() -> None:
    job = Job()
    for event in WHOLE[:2]:
        job = record(SHEET, job, event)
    with pytest.raises(InvalidInput, match="no step W:nowhere"):
        record(SHEET, job, NoteWritten(at=at(31), text="Here", line="W:nowhere"))
    assert record(SHEET, job, NoteWritten(at=at(31), text="Here", line="W:lock")).notes[0].line == "W:lock"


@given(st.lists(st.integers(-3 * DAY, 3 * DAY), min_size=len(WHOLE), max_size=len(WHOLE)))
def test_whatever_the_clocks_say_every_figure_is_possible_and_every_doubt_counted(
    moves: list[int],
) -> None:
    events = [
        replace(e, at=e.at + timedelta(minutes=m if m % 3 == 0 else 0))
        for e, m in zip(WHOLE, moves, strict=True)
    ]
    job = replay(SHEET, events)
    bounds = Bounds(logged_at=START, received_at=START + timedelta(days=1))
    (visit,) = job.visits
    told = (visit.headed_out_at, visit.arrived_at, visit.left_at)
    inside = all(t and START - timedelta(days=1) <= t <= START + timedelta(days=2) for t in told)
    in_order = visit.headed_out_at <= visit.arrived_at <= visit.left_at  # type: ignore[operator]
    on_site = plausible_minutes_on_site(job, bounds)
    whole = visit.minutes_on_site
    assert whole is not None
    assert on_site == (whole if inside and in_order and whole <= DAY else None)
    records = step_records("WO", SHEET, job)
    for r in records:
        assert r.minutes is None or 0 <= r.minutes <= DAY
        assert not r.done or (r.minutes is None) == r.doubtful
    marked = {d.line for d in doubtful_times(job, SHEET.lines, bounds)} - {""}
    assert {f"W:{r.step}" for r in records if r.doubtful} == marked
