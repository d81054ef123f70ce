"""Breaks, corrected times, and what is recorded beside the steps, against a slow twin that keeps a plain list."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.guidance.plans import Plan, Step
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.events import Arrived, FieldEvent, HeadedOut, LeftSite, StepDone, StepStarted
from reedling.core.runsheet.job import record, record_from_office, record_late, replay
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import Source
from reedling.core.runsheet.site_events import (
    BreakBegan,
    BreakEnded,
    CustomerSaid,
    EquipmentFound,
    PartTyped,
    RecordSettled,
    SignedOff,
    StepAdded,
    TimeCorrected,
    WorkAnswered,
    WorkRecommended,
)
from reedling.core.runsheet.visit_times import times_of
from reedling.device.plain import dump, load
from reedling.errors import Conflict, InvalidInput

START = datetime(2026, 6, 1, 8, 0, tzinfo=UTC)
SHEET = compile_runsheet(
    [
        (
            Source(document="W", revision="A", title="Rake"),
            Plan(
                title="Rake",
                steps=(
                    Step(id="look", phase="Diagnose", text="Look"),
                    Step(id="mend", phase="Put right", text="Mend"),
                ),
            ),
        )
    ]
)


def at(minute: float) -> datetime:
    return START + timedelta(minutes=minute)


def on_site() -> Job:
    job = record(SHEET, Job(), HeadedOut(at=at(0)))
    return record(SHEET, job, Arrived(at=at(20)))


def after(job: Job, *events: FieldEvent) -> Job:
    for event in events:
        job = record(SHEET, job, event)
    return job


def test_a_break_stops_the_step_and_is_not_time_on_site() -> None:
    job = after(
        on_site(),
        StepStarted(at=at(20), line="W:look"),
        BreakBegan(at=at(30)),
        BreakEnded(at=at(60)),
        StepStarted(at=at(60), line="W:look"),
        StepDone(at=at(65), line="W:look"),
        LeftSite(at=at(80), outcome="return needed", reason="more time"),
    )
    assert job.times["W:look"].minutes == 15
    found = times_of(job.visits[0])
    assert (found.travel, found.on_site, found.breaks) == (20, 30, 30)


def test_work_that_is_recorded_ends_a_break_that_was_not_ended() -> None:
    job = after(on_site(), BreakBegan(at=at(30)), StepStarted(at=at(50), line="W:look"))
    assert job.visits[0].breaks[0].ended_at == at(50)
    job = after(
        on_site(), BreakBegan(at=at(30)), LeftSite(at=at(45), outcome="return needed", reason="no access")
    )
    assert job.visits[0].break_minutes == 15


@pytest.mark.parametrize("event", [BreakEnded(at=at(30))])
def test_a_break_that_never_began_cannot_end(event: FieldEvent) -> None:
    with pytest.raises(Conflict) as told:
        record(SHEET, on_site(), event)
    assert told.value.code == "jobs.break"


@dataclass
class PlainDay:
    """A day as somebody would keep it on paper: each stretch of a minute is travel, work or break."""

    minutes: list[str] = field(default_factory=list)

    def fill(self, until: int, what: str) -> None:
        self.minutes += [what] * (until - len(self.minutes))


@given(
    st.integers(0, 90),
    st.lists(st.tuples(st.integers(1, 40), st.integers(1, 40)), max_size=6),
    st.integers(0, 60),
)
def test_the_minutes_of_a_visit_are_those_of_a_day_kept_minute_by_minute(
    travel: int, stretches: list[tuple[int, int]], last: int
) -> None:
    plain = PlainDay()
    plain.fill(travel, "travel")
    events: list[FieldEvent] = [HeadedOut(at=at(0)), Arrived(at=at(travel))]
    now = travel
    for work, pause in stretches:
        plain.fill(now + work, "work")
        events.append(BreakBegan(at=at(now + work)))
        now += work + pause
        plain.fill(now, "break")
        events.append(BreakEnded(at=at(now)))
    now += last
    plain.fill(now, "work")
    events.append(LeftSite(at=at(now), outcome="return needed", reason="more time"))
    found = times_of(after(Job(), *events).visits[0])
    assert (found.travel, found.on_site, found.breaks) == tuple(
        plain.minutes.count(what) for what in ("travel", "work", "break")
    )


def corrections() -> st.SearchStrategy[TimeCorrected]:
    return st.builds(
        TimeCorrected,
        at=st.just(at(600)),
        visit=st.integers(0, 3),
        time=st.sampled_from(["headed out", "arrived", "left"]),
        to=st.integers(-30, 700).map(at),
        reason=st.sampled_from(["Forgot to press it", "  "]),
    )


@given(st.lists(corrections(), max_size=8))
def test_corrected_times_never_run_backwards_and_what_was_recorded_stays(wanted: list[TimeCorrected]) -> None:
    job = after(
        on_site(),
        BreakBegan(at=at(40)),
        BreakEnded(at=at(50)),
        LeftSite(at=at(90), outcome="return needed", reason="more time"),
        HeadedOut(at=at(200)),
        Arrived(at=at(230)),
    )
    originals = {(n, c): value for n, c, value in _times(job)}
    taken = []
    for event in wanted:
        before = job
        try:
            job = record(SHEET, job, event)
        except (InvalidInput, Conflict):
            assert job is before
            continue
        taken.append(event)
    for n, visit in enumerate(job.visits):
        order = [t for t in (visit.headed_out_at, visit.arrived_at, visit.left_at) if t]
        assert order == sorted(order)
        first: dict[str, datetime] = {}
        for correction in visit.corrections:
            first.setdefault(correction.time, correction.was)
        for time, was in first.items():
            assert originals[n, time] == was
    assert sum(len(v.corrections) for v in job.visits) == len(taken)
    assert all(event.reason.strip() and event.visit in (1, 2) and event.to <= at(605) for event in taken)


def _times(job: Job) -> Sequence[tuple[int, str, datetime | None]]:
    return [
        (n, name, value)
        for n, visit in enumerate(job.visits)
        for name, value in (
            ("headed out", visit.headed_out_at),
            ("arrived", visit.arrived_at),
            ("left", visit.left_at),
        )
    ]


def test_what_is_recorded_beside_the_steps_is_kept_and_read_back_on_a_device() -> None:
    job = after(
        on_site(),
        PartTyped(at=at(21), record="a", text=" oil hydrualic ", quantity=2),
        EquipmentFound(at=at(22), record="b", name="Booster pump", serial="BP-1"),
        StepAdded(at=at(23), record="c", phase="Prove", text="Cleaned the strainer", minutes=12),
        WorkRecommended(at=at(24), record="d", text="New teeth", price=480),
        WorkAnswered(at=at(25), record="d", accepted=False),
        WorkAnswered(at=at(26), record="d", accepted=True),
        SignedOff(at=at(27), picture="p", name="H. Osk", role="Keeper"),
        SignedOff(at=at(28), picture="q", name="J. Rill", role="Shift lead"),
        CustomerSaid(at=at(29), comment="Quick", rating=4),
    )
    beside = job.beside
    assert beside.parts["a"].text == "oil hydrualic"
    assert beside.work["d"].accepted is True
    assert [s.name for s in beside.signed] == ["H. Osk", "J. Rill"]
    assert beside.customer is not None
    assert beside.customer.rating == 4
    assert beside.n_recorded == 4
    assert load(Job, dump(job)) == job


@pytest.mark.parametrize(
    ("event", "code"),
    [
        (PartTyped(at=at(21), record="a", text="  ", quantity=1), "jobs.site_words"),
        (PartTyped(at=at(21), record="a", text="oil", quantity=0), "jobs.quantity"),
        (PartTyped(at=at(21), record="a", text="oil", quantity=1, line="W:none"), "jobs.line"),
        (StepAdded(at=at(21), record="a", phase="Prove", text="x", minutes=-1), "jobs.site_minutes"),
        (WorkRecommended(at=at(21), record="a", text="x", price=-1), "jobs.price"),
        (WorkAnswered(at=at(21), record="a", accepted=True), "jobs.site_record"),
        (SignedOff(at=at(21), picture="p", name="", role="x"), "jobs.site_words"),
        (CustomerSaid(at=at(21)), "jobs.site_words"),
        (CustomerSaid(at=at(21), rating=6), "jobs.rating"),
        (EquipmentFound(at=at(21), record="a", name="x" * 501), "jobs.site_words"),
        (RecordSettled(at=at(21), record="a", decision="set aside", reason="x"), "jobs.office_only"),
    ],
)
def test_what_cannot_be_is_refused_with_its_reason(event: FieldEvent, code: str) -> None:
    with pytest.raises((InvalidInput, Conflict)) as told:
        record(SHEET, on_site(), event)
    assert told.value.code == code
    with pytest.raises((InvalidInput, Conflict)):
        record_late(SHEET, on_site(), [event])


SETTLINGS = st.builds(
    RecordSettled,
    at=st.just(at(300)),
    record=st.sampled_from("abcdx"),
    decision=st.sampled_from(["matched", "entered", "ordered", "set aside"]),
    target=st.sampled_from(["OIL", "AS-9", "WO-2"]),
    reason=st.sampled_from(["", "Not ours"]),
)


@given(st.lists(SETTLINGS, max_size=10))
def test_a_record_is_settled_once_and_only_as_its_kind_allows(wanted: list[RecordSettled]) -> None:
    recorded: list[FieldEvent] = [
        HeadedOut(at=at(0)),
        Arrived(at=at(20)),
        PartTyped(at=at(21), record="a", text="oil", quantity=2, line="W:look"),
        EquipmentFound(at=at(22), record="b", name="Booster pump"),
        WorkRecommended(at=at(23), record="c", text="New teeth"),
        StepAdded(at=at(24), record="d", phase="Prove", text="Cleaned", minutes=2),
    ]
    job = after(Job(), *recorded)
    kinds = {"a": "matched", "b": "entered", "c": "ordered"}
    done: dict[str, RecordSettled] = {}
    for event in wanted:
        fits = event.record in kinds and event.record not in done
        fits = fits and event.decision in (kinds[event.record], "set aside")
        fits = fits and (event.decision != "set aside" or bool(event.reason))
        try:
            job = record_from_office(SHEET, job, event)
        except (Conflict, InvalidInput):
            assert not fits
            continue
        assert fits
        done[event.record] = event
        recorded.append(event)
    is_matched = "a" in done and done["a"].decision == "matched"
    assert [(p.part, p.quantity, p.line) for p in job.parts] == (
        [(done["a"].target, 2, "W:look")] if is_matched else []
    )
    held: dict[str, Any] = {**job.beside.parts, **job.beside.equipment, **job.beside.work}
    assert {key for key, one in held.items() if one.settled} == set(done)
    assert replay(SHEET, recorded) == job
