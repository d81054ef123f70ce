"""What was recorded stays: readable, counted and offered again, whatever a later answer closes."""

from __future__ import annotations

import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.evidence.departures import departures
from reedling.core.evidence.steps import step_records
from reedling.core.guidance.plans import Plan, Repeat, Step
from reedling.core.guidance.questions import Limits, Question, Reading, TextEntry, YesNo
from reedling.core.logic.conditions import Answer, Comparison
from reedling.core.runsheet.events import (
    Answered,
    Arrived,
    FieldEvent,
    HeadedOut,
    StepDone,
    StepSkipped,
    StepStarted,
)
from reedling.core.runsheet.job import record, replay
from reedling.core.runsheet.job_runs import job_progress, job_run
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import Runsheet
from reedling.core.runsheet.progress import offered_answers, take_up
from reedling.errors import ReedlingError
from tests.plans import at, sheet_of


def yes(question: str) -> Comparison:
    return Comparison(question=question, operator="is", value=True)


def amps(id: str = "amps", **fields: object) -> Reading:
    return Reading(id=id, label="Current", unit="A", limits=Limits(high=40), **fields)  # type: ignore[arg-type]


PUMPS = Plan(
    title="Pumps",
    steps=(
        Step(
            id="pump",
            phase="Diagnose",
            text="Read the current",
            repeat=Repeat(per="pump", over="on site"),
            questions=(amps(),),
        ),
    ),
)
BRANCH = Plan(
    title="Branch",
    steps=(
        Step(
            id="ask", phase="Diagnose", text="Look inside", questions=(YesNo(id="wet", label="Wet inside"),)
        ),
        Step(
            id="read",
            phase="Diagnose",
            text="Read the current",
            under="ask",
            condition=yes("wet"),
            questions=(amps(),),
        ),
    ),
)
THERE: list[FieldEvent] = [HeadedOut(at=at(0)), Arrived(at=at(10))]


def done(line: str, start: float, end: float, **answers: Answer) -> list[FieldEvent]:
    said = [Answered(at=at(end), question=f"W:{q}", value=a) for q, a in answers.items()]
    return [StepStarted(at=at(start), line=f"W:{line}"), *said, StepDone(at=at(end), line=f"W:{line}")]


def departed(sheet: Runsheet, events: list[FieldEvent]) -> list[tuple[str, str]]:
    return [(d.kind, d.sentence) for d in departures(sheet, replay(sheet, events))]


def test_a_reading_out_of_limit_stays_when_its_pump_is_taken_off_the_list() -> None:
    sheet = sheet_of(PUMPS)
    named = Answered(at=at(11), question="W:pump@", value=("North", "South"))
    events = [*THERE, named, StepDone(at=at(11), line="W:pump@")]
    events += done("pump@North", 11, 31, **{"amps@North": 55.0})
    events += done("pump@South", 31, 36, **{"amps@South": 30.0})
    events += [Answered(at=at(37), question="W:pump@", value=("South",))]
    job = replay(sheet, events)
    assert departed(sheet, events)[:2] == [
        ("no longer asked", "“Read the current: North” was done in 20 min; a later answer closed it."),
        (
            "took long",
            "“Read the current: North” took 20 min, planned 5.",
        ),
    ]
    (finding,) = job_progress(sheet, job).findings
    assert finding.no_longer_asked
    assert finding.sentence.startswith("Current, North: 55 A is above 40 A. This is no longer asked")
    record_ = next(r for r in step_records("WO", sheet, job) if r.step == "pump" and r.minutes)
    assert (record_.minutes, record_.done, record_.out_of_limit) == (25, True, True)


def test_a_step_done_out_of_limit_stays_when_a_later_answer_closes_its_branch() -> None:
    sheet = sheet_of(BRANCH)
    events = [*THERE, *done("ask", 10, 12, wet=True), *done("read", 12, 30, amps=55.0)]
    events += [Answered(at=at(31), question="W:wet", value=False)]
    job = replay(sheet, events)
    kinds = [kind for kind, _ in departed(sheet, events)]
    assert kinds == ["no longer asked", "took long", "out of limit"]
    (read,) = [r for r in step_records("WO", sheet, job) if r.step == "read"]
    assert (read.wanted, read.done, read.minutes, read.out_of_limit) == (True, True, 18, True)


def test_a_branch_that_opens_again_offers_the_earlier_reading_and_is_not_taken_as_done() -> None:
    sheet = sheet_of(BRANCH)
    events = [*THERE, *done("ask", 10, 12, wet=True), *done("read", 12, 30, amps=55.0)]
    events += [Answered(at=at(n), question="W:wet", value=v) for n, v in ((31, False), (32, True))]
    job = replay(sheet, events)
    assert job_progress(sheet, job).lines[1].state == "due"
    assert offered_answers(job_run(sheet, job)) == {"W:amps": 55.0}
    job = replay(sheet, [*events, Answered(at=at(33), question="W:amps", value=54.0)])
    job = record(sheet, job, StepDone(at=at(33), line="W:read"))
    assert job_progress(sheet, job).lines[1].state == "done"
    assert job.past.answers == {}
    assert [f.sentence for f in job_progress(sheet, job).findings] == ["Current: 54 A is above 40 A."]


def test_a_question_closed_on_a_step_that_stays_keeps_its_finding() -> None:
    plan = Plan(
        title="t",
        steps=(
            Step(
                id="s",
                phase="Diagnose",
                text="Look",
                questions=(YesNo(id="wet", label="Wet"), amps(condition=yes("wet"))),
            ),
        ),
    )
    sheet = sheet_of(plan)
    events = [*THERE, *done("s", 10, 12, wet=True, amps=55.0)]
    job = replay(sheet, [*events, Answered(at=at(13), question="W:wet", value=False)])
    assert [f.no_longer_asked for f in job_progress(sheet, job).findings] == [True]
    assert job_progress(sheet, job).lines[0].past == ("W:amps",)


@st.composite
def plans(draw: st.DrawFn) -> Plan:
    """Steps under gates, questions under gates, gates on steps that are themselves under a gate, repeats."""
    yes_or_no = st.booleans()
    gates: list[str] = []
    steps: list[Step] = []
    for n in range(draw(st.integers(2, 6))):
        own: list[Question] = []
        gate = st.sampled_from(gates or ["none"])
        condition = yes(draw(gate)) if draw(yes_or_no) and gates else None
        repeat = draw(yes_or_no) and n % 3 == 0
        if not repeat and draw(st.integers(0, 3)):
            own.append(YesNo(id=f"g{n}", label=f"Gate {n}"))
        inner = yes(draw(gate)) if draw(yes_or_no) and gates else None
        own.append(amps(f"a{n}", condition=inner))
        if draw(yes_or_no):
            own.append(TextEntry(id=f"t{n}", label="Note", required="never"))
        under = draw(st.sampled_from([None, *(s.id for s in steps if s.repeat is None)]))
        gates += [q.id for q in own if q.kind == "yes_no"]
        steps.append(
            Step(
                id=f"s{n}",
                phase="Diagnose",
                text=f"Step {n}",
                under=under,
                condition=condition,
                questions=tuple(own),
                repeat=Repeat(per="pump", over="on site") if repeat else None,
            )
        )
    return Plan(title="t", steps=tuple(steps))


def random_event(rng: random.Random, sheet: Runsheet, job: Job, minute: int) -> FieldEvent:
    run = job_run(sheet, job)
    line = rng.choice(run.lines)
    q = rng.choice(line.questions)
    choice = rng.random()
    if choice < 0.6:
        value: Answer
        match q.kind:
            case "yes_no":
                value = rng.random() < 0.6
            case "names":
                value = tuple(n for n in ("A", "B", "C") if rng.random() < 0.6)
            case "text":
                value = "seen"
            case _:
                value = float(rng.choice((30, 50)))
        return Answered(at=at(minute), question=q.id, value=value)
    if choice < 0.7:
        return StepStarted(at=at(minute), line=line.id)
    if choice < 0.92:
        return StepDone(at=at(minute), line=line.id)
    return StepSkipped(at=at(minute), line=line.id, reason="Not reached")


class SlowTwin:
    """The rule read aloud: after every event, what is not wanted is no longer among what counts."""

    def __init__(self, sheet: Runsheet) -> None:
        self.sheet = sheet
        self.answers: dict[str, Answer] = {}
        self.done: set[str] = set()
        self.skipped: set[str] = set()

    def take(self, event: FieldEvent) -> None:
        if isinstance(event, Answered):
            self.answers[event.question] = event.value
        if isinstance(event, StepDone | StepSkipped):
            self.done.discard(event.line)
            self.skipped.discard(event.line)
            (self.done if isinstance(event, StepDone) else self.skipped).add(event.line)
        for _ in range(5):
            run = take_up(self.sheet, self.answers, done=self.done, skipped=self.skipped)
            live = {key for key, truth in run.standing.wanted.items() if truth is True}
            self.answers = {q: a for q, a in self.answers.items() if q in live}
            self.done &= live
            self.skipped &= live


@pytest.mark.slow
@given(plans(), st.integers(0, 10_000))
def test_nothing_that_was_recorded_is_ever_lost(plan: Plan, seed: int) -> None:
    sheet = sheet_of(plan)
    rng = random.Random(seed)
    twin = SlowTwin(sheet)
    job = Job()
    last: dict[str, Answer] = {}
    finished: dict[str, str] = {}
    for event in THERE:
        job = record(sheet, job, event)
    for minute in range(10, 60):
        event = random_event(rng, sheet, job, minute)
        try:
            job = record(sheet, job, event)
        except ReedlingError:
            continue
        twin.take(event)
        if isinstance(event, Answered):
            last[event.question] = event.value
        if isinstance(event, StepDone | StepSkipped):
            finished[event.line] = event.kind
    assert (job.answers, set(job.done), set(job.skipped)) == (twin.answers, twin.done, twin.skipped)
    assert job.answers.keys() & job.past.answers.keys() == set()
    assert {**job.answers, **job.past.answers} == last
    assert {*job.done, *job.past.done} == {k for k, kind in finished.items() if kind == "step done"}
    assert {*job.skipped, *job.past.skipped} == {k for k, kind in finished.items() if kind == "step skipped"}

    run = job_run(sheet, job)
    asked_again = {q for q in job.past.answers if run.standing.wanted.get(q) is True}
    high = {q for q, a in last.items() if a == 50.0} - asked_again
    assert sorted(f.question for f in job_progress(sheet, job).findings) == sorted(high)

    every = list(step_records("WO", sheet, job))
    worked = sum(r.minutes for r in every if r.minutes is not None)
    whole = {(r.document, r.step) for r in every if r.done}
    lines = [line for line in run.lines_ever if (line.document, line.step) in whole]
    assert worked == pytest.approx(sum(job.times[i.id].minutes for i in lines if i.id in job.times))
