"""A job: what its recorded events add up to, and which may come next."""

from __future__ import annotations

from dataclasses import replace

import pytest

from reedling.core.evidence.departures import departures
from reedling.core.evidence.steps import step_records
from reedling.core.guidance.catalogue import Part
from reedling.core.guidance.plans import Plan, Step
from reedling.core.guidance.questions import Photo
from reedling.core.runsheet.events import (
    Answered,
    Arrived,
    Coded,
    FieldEvent,
    HeadedOut,
    LeftSite,
    NoteWritten,
    PartUsed,
    PictureMark,
    PictureMarked,
    StepDone,
    StepSkipped,
    StepStarted,
)
from reedling.core.runsheet.job import record, replay
from reedling.core.runsheet.job_runs import job_progress
from reedling.core.runsheet.job_state import Job, job_state
from reedling.errors import Conflict, InvalidInput, ReedlingError
from tests.plans import at, rake_plan, sheet_of
from tests.recounts import step_evidence

SHEET = sheet_of(rake_plan())
ARRIVE: list[FieldEvent] = [HeadedOut(at=at(0)), Arrived(at=at(30))]


def step(line: str, start: float, end: float, *answers: tuple[str, object]) -> list[FieldEvent]:
    """Start a line, answer, finish it."""
    said: list[FieldEvent] = [Answered(at=at(end), question=f"W:{q}", value=v) for q, v in answers]  # type: ignore[arg-type]
    return [StepStarted(at=at(start), line=f"W:{line}"), *said, StepDone(at=at(end), line=f"W:{line}")]


WHOLE: list[FieldEvent] = [
    *ARRIVE,
    *step("lock", 30, 41, ("locked", True)),
    *step("read", 41, 65, ("bar", 84.0)),
    *step("valve", 65, 80, ("seat", "scored")),
    *step("fit", 80, 115, ("fitted", True)),
    PartUsed(at=at(115), part="RV-SEAT", quantity=1, line="W:fit"),
    *step("run", 115, 127, ("runs", True)),
    NoteWritten(at=at(127), text="Gauge hard to find."),
    Coded(at=at(128), cause="relief-valve", remedy="reseated"),
    LeftSite(at=at(130), outcome="finished"),
]


def refused(events: list[FieldEvent]) -> ReedlingError:
    with pytest.raises(ReedlingError) as caught:
        record_all(events)
    return caught.value


def record_all(events: list[FieldEvent]) -> Job:
    """The job that the events add up to, each checked as it comes."""
    job = Job()
    for event in events:
        job = record(SHEET, job, event)
    return job


def test_a_whole_job_adds_up() -> None:
    job = replay(SHEET, WHOLE)
    assert job_state(job) == "Finished"
    assert job.finished_at == at(130)
    assert job.visits[0].minutes_on_site == 100
    assert (job.cause, job.remedy) == ("relief-valve", "reseated")
    assert {line: (t.minutes, t.rank) for line, t in job.times.items()} == {
        "W:lock": (11, 1),
        "W:read": (24, 2),
        "W:valve": (15, 3),
        "W:fit": (35, 4),
        "W:run": (12, 5),
    }


@pytest.mark.parametrize(
    ("events", "state"),
    [
        ([], None),
        (ARRIVE[:1], "Heading out"),
        (ARRIVE, "On site"),
        ([*ARRIVE, LeftSite(at=at(40), outcome="return needed", reason="no access")], "Return needed"),
    ],
)
def test_the_order_state_follows_the_events(events: list[FieldEvent], state: str | None) -> None:
    assert job_state(replay(SHEET, events)) == state


def test_a_second_visit_goes_on_where_the_first_left_off() -> None:
    first = [*ARRIVE, *step("lock", 30, 40, ("locked", True)), StepStarted(at=at(40), line="W:read")]
    left = LeftSite(at=at(50), outcome="return needed", reason="part to fetch")
    again: list[FieldEvent] = [
        HeadedOut(at=at(1000)),
        Arrived(at=at(1030)),
        *step("read", 1030, 1035, ("bar", 100.0)),
    ]
    job = replay(SHEET, [*first, left, *again])
    assert len(job.visits) == 2
    assert job.times["W:read"].minutes == 10 + 5
    assert job.times["W:read"].started_at == at(40)


def test_starting_another_step_stops_the_clock_of_the_first() -> None:
    events: list[FieldEvent] = [
        *ARRIVE,
        StepStarted(at=at(30), line="W:lock"),
        StepStarted(at=at(35), line="W:read"),
        StepStarted(at=at(45), line="W:lock"),
        StepStarted(at=at(46), line="W:lock"),
        Answered(at=at(50), question="W:locked", value=True),
        StepDone(at=at(50), line="W:lock"),
    ]
    job = replay(SHEET, events)
    assert (job.times["W:lock"].minutes, job.times["W:read"].minutes) == (10, 10)


@pytest.mark.parametrize(
    ("events", "sentence"),
    [
        ([Arrived(at=at(0))], "Arriving: you can arrive once, after heading out. Head out first."),
        ([*ARRIVE, Arrived(at=at(31))], "Arriving: you can arrive once, after heading out."),
        ([*ARRIVE, HeadedOut(at=at(31))], "Heading out: you are already on the way or on site."),
        ([*WHOLE, HeadedOut(at=at(200))], "Heading out: this job is finished."),
        (
            [HeadedOut(at=at(0)), StepStarted(at=at(1), line="W:lock")],
            "Step started: this is recorded on site, and nobody has arrived. Head out and arrive first.",
        ),
        ([*ARRIVE, StepStarted(at=at(31), line="W:none")], "there is no step W:none on this runsheet."),
        (
            [*ARRIVE, StepStarted(at=at(31), line="W:valve")],
            "“Check the valve”: this step is not wanted with the answers so far. Answer the earlier steps first.",
        ),
        (
            [*ARRIVE, Answered(at=at(31), question="W:bar", value="high")],
            "“Read the pressure”: “Pressure” wants a number in bar, got 'high'.",
        ),
        (
            [*ARRIVE, Answered(at=at(31), question="W:none", value=True)],
            "there is no question W:none on this runsheet.",
        ),
        ([*ARRIVE, StepDone(at=at(31), line="W:read")], "“Read the pressure”: still to answer: Pressure."),
        (
            [*ARRIVE, StepSkipped(at=at(31), line="W:lock", reason="in a hurry")],
            "“Lock the drive”: a step that makes safe is never left out. "
            "If it cannot be done, leave and say why a return is needed.",
        ),
        (
            [*ARRIVE, StepSkipped(at=at(31), line="W:read", reason=" ")],
            "“Read the pressure”: say why it is left out.",
        ),
        (
            [*ARRIVE, PartUsed(at=at(31), part="X", quantity=0)],
            "Part X: the quantity must be above 0.",
        ),
        (
            [*ARRIVE, LeftSite(at=at(31), outcome="return needed")],
            "Leaving: say why a return is needed.",
        ),
        (
            [*ARRIVE, LeftSite(at=at(31), outcome="finished")],
            "Finishing: still due: “Lock the drive”; “Read the pressure”; “Run it three times”. "
            "Do them, leave them out with a reason, or say that a return is needed.",
        ),
        (
            [*WHOLE[:-2], LeftSite(at=at(130), outcome="finished")],
            "Finishing: cause and remedy are not chosen yet. Choose both.",
        ),
    ],
)
def test_an_event_that_cannot_come_now_is_refused_in_a_sentence(
    events: list[FieldEvent], sentence: str
) -> None:
    error = refused(events)
    assert str(error) == sentence
    assert isinstance(error, Conflict | InvalidInput)


def test_a_step_left_out_can_be_taken_up_after_all() -> None:
    events = [
        *ARRIVE,
        StepSkipped(at=at(31), line="W:read", reason="No gauge"),
        *step("read", 40, 45, ("bar", 100.0)),
    ]
    job = replay(SHEET, events)
    assert job.skipped == {}
    assert "W:read" in job.done


def test_departures_name_what_was_long_out_of_limit_and_used() -> None:
    told = [(d.kind, d.sentence) for d in departures(SHEET, replay(SHEET, WHOLE))]
    assert told == [
        ("took long", "“Read the pressure” took 24 min, planned 10."),
        ("out of limit", "Pressure: 84 bar is below 90 bar."),
    ]


def test_departures_name_left_out_out_of_order_parts_and_returns() -> None:
    events: list[FieldEvent] = [
        *ARRIVE,
        LeftSite(at=at(35), outcome="return needed", reason="no access", note="Gate locked."),
        HeadedOut(at=at(900)),
        Arrived(at=at(930)),
        *step("read", 930, 940, ("bar", 100.0)),
        *step("lock", 940, 950, ("locked", True)),
        StepSkipped(at=at(951), line="W:run", reason="Called away"),
        PartUsed(at=at(952), part="OIL-32", quantity=2),
        Coded(at=at(953), cause="low-oil", remedy="topped-up"),
        LeftSite(at=at(954), outcome="finished"),
    ]
    told = [(d.kind, d.sentence) for d in departures(SHEET, replay(SHEET, events))]
    assert told == [
        ("left out", "“Run it three times” was left out: Called away"),
        ("out of order", "“Read the pressure” was done before “lock the drive”."),
        ("part not planned", "2 × OIL-32 used, planned 0."),
        ("return", "Visit 1 ended with a return needed: no access. “Gate locked.”"),
    ]


def test_a_planned_part_that_was_not_used_is_named() -> None:
    events = [e for e in WHOLE if not isinstance(e, PartUsed)]
    kinds = [d.kind for d in departures(SHEET, replay(SHEET, events))]
    assert "part not used" in kinds


def test_parts_are_told_by_name_and_unit_where_the_catalogue_has_them() -> None:
    oil = {"OIL-32": Part(code="OIL-32", name="Oil", unit="l")}
    events = [*WHOLE[:-2], PartUsed(at=at(116), part="OIL-32", quantity=2.5), *WHOLE[-2:]]
    sentences = [d.sentence for d in departures(SHEET, replay(SHEET, events), oil)]
    assert "2.5 l Oil used, planned 0." in sentences


def test_a_job_that_went_as_written_has_no_departures() -> None:
    calm = replace(SHEET, lines=tuple(replace(line, parts=()) for line in SHEET.lines))
    events: list[FieldEvent] = [
        *ARRIVE,
        *step("lock", 30, 40, ("locked", True)),
        *step("read", 40, 50, ("bar", 100.0)),
        *step("run", 50, 62, ("runs", True)),
        Coded(at=at(62), cause="unknown", remedy="none"),
        LeftSite(at=at(63), outcome="finished"),
    ]
    assert departures(calm, replay(SHEET, events)) == ()


def test_step_evidence_follows_a_step_through_its_jobs() -> None:
    records = [r for n in range(3) for r in step_records(f"WO-{n}", SHEET, replay(SHEET, WHOLE))]
    calm = [e for e in WHOLE if getattr(e, "line", None) not in ("W:valve", "W:fit")]
    high = [replace(e, value=100.0) if isinstance(e, Answered) and e.question == "W:bar" else e for e in calm]
    high = [e for e in high if not (isinstance(e, Answered) and e.question in ("W:seat", "W:fitted"))]
    records += step_records("WO-9", SHEET, replay(SHEET, high))
    found = step_evidence(records)
    valve, read = found[("W", "valve")], found[("W", "read")]
    assert (valve.wanted.n_hits, valve.wanted.n_total) == (3, 4)
    assert (read.out_of_limit.n_hits, read.out_of_limit.n_total) == (3, 4)
    assert read.taken is not None
    assert (read.taken.median, read.taken.count) == (24, 4)
    assert found[("W", "lock")].out_of_limit.n_total == 0


def test_an_empty_job_has_everything_still_to_do() -> None:
    progress = job_progress(SHEET, Job())
    assert (progress.n_done, progress.next_line) == (0, "W:lock")


PHOTOS = sheet_of(
    Plan(
        title="Photos",
        steps=(
            Step(id="look", phase="Diagnose", text="Look", questions=(Photo(id="before", label="Before"),)),
        ),
    )
)
SEAL = PictureMark(shape="arrow", x0=0.1, y0=0.2, x1=0.6, y1=0.5)


def marked(*marks: PictureMark, picture: str = "p1") -> list[FieldEvent]:
    photo = Answered(at=at(40), question="W:before", value="p1")
    return [*ARRIVE, photo, PictureMarked(at=at(41), picture=picture, marks=marks)]


def test_marks_lie_over_a_picture_and_the_later_ones_count() -> None:
    words = PictureMark(shape="words", x0=0.1, y0=0.1, x1=0.1, y1=0.1, text="Seal weeps")
    events = [*marked(SEAL), PictureMarked(at=at(42), picture="p1", marks=(SEAL, words))]
    job = replay(PHOTOS, [])
    for event in events:
        job = record(PHOTOS, job, event)
    assert job.marks == {"p1": (SEAL, words)}
    assert job.answers == {"W:before": "p1"}, "the picture stays as it was taken"


@pytest.mark.parametrize(
    ("events", "words"),
    [
        (marked(SEAL, picture="p2"), "this picture is no answer on this job"),
        (marked(replace(SEAL, x1=1.01)), "a mark lies outside the picture"),
        (marked(replace(SEAL, y0=float("nan"))), "a mark lies outside the picture"),
        (marked(replace(SEAL, shape="words", text=" ")), "words on a picture have from 1 to 120 characters"),
        (marked(*[SEAL] * 41), "a picture may have 40 marks, this has 41"),
    ],
)
def test_marks_that_cannot_be_are_refused(events: list[FieldEvent], words: str) -> None:
    job = Job()
    for event in events[:-1]:
        job = record(PHOTOS, job, event)
    with pytest.raises(ReedlingError, match=words):
        record(PHOTOS, job, events[-1])
