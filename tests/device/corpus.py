"""Jobs to be carried on in two places and compared: runsheets, events right and wrong, and what came of them."""

from __future__ import annotations

import random
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import get_args

from reedling.core.faultguide.order_guides import OrderGuide, rounded
from reedling.core.guidance.finish_rules import FinishRule
from reedling.core.guidance.plans import Plan, Repeat, Step
from reedling.core.guidance.questions import (
    AnyOf,
    Computed,
    DateEntry,
    Instruction,
    Limits,
    MeterReading,
    OneOf,
    Option,
    Photo,
    Question,
    Raise,
    Reading,
    Scan,
    Signature,
    TextEntry,
    Tick,
    YesNo,
)
from reedling.core.logic.conditions import Answer, Comparison
from reedling.core.logic.units import Quantity
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.events import (
    Answered,
    Arrived,
    Coded,
    FieldEvent,
    HeadedOut,
    HelpAdded,
    HelpAsked,
    HelpEnded,
    LeftSite,
    NoteWritten,
    PartUsed,
    PictureMark,
    PictureMarked,
    ReturnReason,
    StepDone,
    StepSkipped,
    StepStarted,
)
from reedling.core.runsheet.job import record
from reedling.core.runsheet.job_runs import job_run
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import Runsheet, Source
from reedling.core.runsheet.site_events import (
    BreakBegan,
    BreakEnded,
    CheckSeen,
    CustomerSaid,
    EquipmentFound,
    FixMarked,
    NoCauseFits,
    PartTyped,
    RemedyTried,
    SignedOff,
    StepAdded,
    TimeCorrected,
    WorkAnswered,
    WorkRecommended,
)
from reedling.errors import ReedlingError
from tests.core.faultguide.test_faultguide import a_guide
from tests.core.rollup.test_outlook import sound_plan
from tests.plans import at


@dataclass(frozen=True, slots=True)
class Case:
    """A runsheet and the events to record on it, one by one."""

    name: str
    runsheet: Runsheet
    events: tuple[FieldEvent, ...]


def every_kind_of_question() -> Plan:
    """One plan with a question of each kind, branches, repeats, units, formulas and findings."""
    above = Comparison(question="bar", operator="above", value=120.0)
    options = tuple(Option(id=o, label=o.upper()) for o in "abc")
    return Plan(
        title="Every kind",
        phrases=("Left as found",),
        finish=(
            FinishRule(
                id="note",
                says="Say how it was left",
                needs=Comparison(question="job.notes", operator="at least", value=1.0),
                when=above,
            ),
            FinishRule(
                id="seen",
                says="Show what you found",
                needs=Comparison(question="job.photos", operator="at least", value=2.0),
                weight="should",
            ),
        ),
        steps=(
            Step(
                id="safe",
                phase="Make safe",
                text="Lock the drive",
                safety="Dead and locked?",
                questions=(Tick(id="locked"),),
            ),
            Step(
                id="look",
                phase="Diagnose",
                text="Look at it",
                questions=(
                    Instruction(id="how", label="Stand to the left"),
                    Scan(id="plate", label="Plate", equals="R1"),
                    Reading(
                        id="bar",
                        label="Pressure",
                        unit="bar",
                        units=("kPa", "psi"),
                        lowest=0,
                        highest=400,
                        limits=Limits(
                            low_low=20, low=90, high=120, high_high=200, owner="engineer", due_days=3
                        ),
                    ),
                    MeterReading(id="hours", label="Hours", meter="hours"),
                    YesNo(
                        id="oil",
                        label="Oil seen",
                        raises=(
                            Raise(
                                when=Comparison(question="oil", operator="is", value=True),
                                severity="Act",
                                says="Oil on the floor",
                            ),
                        ),
                    ),
                    OneOf(id="seat", label="Seat", options=options, prefill="last"),
                    AnyOf(id="worn", label="Worn", options=options),
                    Computed(
                        id="ratio",
                        label="Ratio",
                        formula="bar / 100 bar",
                        decimals=3,
                        limits=Limits(high=1.5),
                    ),
                    TextEntry(id="words", label="Words", required="when", required_when=above),
                    DateEntry(id="day", label="Last oiled", required="never"),
                    DateEntry(id="hour", label="Stopped at", with_time=True, required="never"),
                ),
            ),
            Step(
                id="valve",
                phase="Diagnose",
                text="Check the valve",
                under="look",
                condition=above,
                questions=(Photo(id="before", label="Before", moment="before", required="never"),),
            ),
            Step(
                id="pumps",
                phase="Diagnose",
                text="Read each pump",
                repeat=Repeat(per="pump", over="on site"),
                questions=(
                    Reading(id="amps", label="Current", unit="A", limits=Limits(high=40)),
                    YesNo(
                        id="hot",
                        label="Hot",
                        condition=Comparison(question="amps", operator="above", value=30.0),
                    ),
                ),
            ),
            Step(
                id="cool",
                phase="Put right",
                text="Cool a pump",
                condition=Comparison(question="hot", operator="is", value=True, repeats="any"),
                questions=(Tick(id="cooled"),),
            ),
            Step(
                id="sign",
                phase="Leave",
                text="Have it signed",
                questions=(Signature(id="name", label="Keeper", required="never"),),
            ),
        ),
    )


def any_answer(rng: random.Random, question: Question) -> Answer:
    """An answer to a question; about one in twelve does not fit."""
    if rng.random() < 0.08:
        return rng.choice((True, 3.0, "words", ("a", "z"), Quantity(value=1.0, unit="kPa")))
    match question:
        case Tick():
            return True
        case Reading(units=units) if units and rng.random() < 0.4:
            return Quantity(value=float(rng.choice((1500, 9000, 11000, 15000))), unit=rng.choice(units))
        case Reading() | MeterReading():
            return float(rng.choice((2, 5, 31, 45, 95, 119.5, 130, 250)))
        case YesNo():
            return rng.random() < 0.6
        case OneOf(options=options):
            return rng.choice(options).id
        case AnyOf(options=options):
            return tuple(o.id for o in options if rng.random() < 0.5)
        case DateEntry(with_time=with_time):
            return "2026-01-02T10:30" if with_time else rng.choice(("2026-01-01", "2026-01-02"))
        case _ if question.kind == "names":
            return tuple(n for n in ("P1", "P2", "Pump, west") if rng.random() < 0.6)
        case _ if question.kind == "safety":
            return True
        case Scan():
            return rng.choice(("R1", " r1 ", "R2"))
    return "as seen"


def beside_the_steps(rng: random.Random, line: str, when: datetime) -> FieldEvent:
    """Something that no step asks for."""
    record_ = rng.choice("abc")
    return rng.choice(
        (
            BreakBegan(at=when),
            BreakEnded(at=when),
            TimeCorrected(at=when, visit=rng.choice((1, 2)), time="arrived", to=at(8), reason="Forgot"),
            PartTyped(at=when, record=record_, text="seat kti", quantity=1, line=line),
            EquipmentFound(at=when, record=record_, name="Booster pump"),
            StepAdded(at=when, record=record_, phase="Prove", text="Cleaned it", minutes=4),
            WorkRecommended(at=when, record=record_, text="New teeth", price=rng.choice((None, 480.0))),
            WorkAnswered(at=when, record=record_, accepted=rng.random() < 0.5),
            SignedOff(at=when, picture="p", name="H. Osk", role=rng.choice(("Keeper", ""))),
            CustomerSaid(at=when, comment="Quick", rating=rng.choice((None, 4, 9))),
            FixMarked(at=when, cause="C", remedy="R", helped=rng.random() < 0.5),
            CheckSeen(at=when, check=rng.choice(("k2", "k3", "k9")), seen=rng.choice((True, False, None))),
            RemedyTried(at=when, remedy=rng.choice(("r0", "r1", "r2")), helped=rng.random() < 0.2),
            NoCauseFits(at=when, text=rng.choice(("Smells burnt", ""))),
        )
    )


def any_event(rng: random.Random, sheet: Runsheet, job: Job, minute: int) -> FieldEvent:
    """Something a technician might record now, or might not be able to."""
    run = job_run(sheet, job)
    line = rng.choice(run.lines)
    choice = rng.random()
    when = at(minute + rng.random())
    if choice < 0.62 and line.questions:
        question = rng.choice(line.questions)
        return Answered(
            at=when,
            question=question.id,
            value=any_answer(rng, question),
            reason="Meter changed" if rng.random() < 0.3 else "",
        )
    if choice < 0.72:
        return StepStarted(at=when, line=line.id)
    if choice < 0.88:
        return StepDone(at=when, line=line.id)
    if choice < 0.92:
        return StepSkipped(at=when, line=line.id, reason=rng.choice(("Not reached", " ")))
    if choice < 0.94:
        return PartUsed(at=when, part="SEAL", quantity=rng.choice((1.0, 0.0)), line=line.id)
    if choice < 0.95:
        pictures = [a for q, a in job.answers.items() if q.endswith((":before", ":name"))]
        place = rng.choice((0.25, 0.5, 1.5))
        mark = PictureMark(
            shape=rng.choice(("arrow", "words")), x0=0.1, y0=place, x1=0.9, y1=0.3, text="crack"
        )
        return PictureMarked(at=when, picture=str(rng.choice(pictures or ["none"])), marks=(mark,))
    if choice < 0.952:
        return HelpAsked(at=when, thread=rng.choice("ab"), text=rng.choice(("Which one?", "")), line=line.id)
    if choice < 0.954:
        return HelpAdded(at=when, thread=rng.choice("ab"), text="The left one?")
    if choice < 0.956:
        return HelpEnded(at=when, thread=rng.choice("ab"), kept=rng.random() < 0.5)
    if choice < 0.965:
        return beside_the_steps(rng, line.id, when)
    if choice < 0.972:
        return NoteWritten(at=when, text="Left as found", line=rng.choice((line.id, None)))
    if choice < 0.98:
        return Coded(at=when, cause="C", remedy="R")
    outcome = rng.choice(("finished", "return needed"))
    return LeftSite(at=when, outcome=outcome, reason=rng.choice((None, *get_args(ReturnReason))))  # type: ignore[arg-type]


def a_case(name: str, seed: int, sheet: Runsheet, n_events: int) -> Case:
    """A job at random on a runsheet: going there, then events of which some are refused."""
    rng = random.Random(seed)
    events: list[FieldEvent] = [HeadedOut(at=at(0)), Arrived(at=at(9), east=0.1, north=0.3)]
    job = Job()
    for event in events:
        job = record(sheet, job, event)
    for minute in range(10, 10 + n_events):
        event = any_event(rng, sheet, job, minute)
        events.append(event)
        try:
            job = record(sheet, job, event)
        except ReedlingError:
            continue
        if isinstance(event, LeftSite) and rng.random() < 0.7:
            again: list[FieldEvent] = [HeadedOut(at=event.at), Arrived(at=event.at)]
            events += again
            for each in again:
                job = job if job.finished_at else record(sheet, job, each)
    return Case(name, sheet, tuple(events))


def generated_cases(n_plans: int, n_kinds: int) -> Iterator[Case]:
    """Jobs on random plans, and on the plan with every kind of question."""
    for seed in range(n_plans):
        plan, _ = sound_plan(seed)
        yield a_case(f"plan {seed}", seed, sheet_with_facts(plan), 12)
    plan = every_kind_of_question()
    sheet = sheet_with_facts(plan)
    for seed in range(n_kinds):
        guided = replace(sheet, guide=guide_of_kinds(seed))
        yield a_case(f"every kind {seed}", seed, guided if seed % 2 else sheet, 40)


def guide_of_kinds(seed: int) -> OrderGuide:
    """A fault guide for the plan with every kind of question: looks of three kinds, and a check that nothing asks."""
    guide = rounded(a_guide(seed, 4, 4, 3))
    return OrderGuide(
        document="FG-1",
        revision="A",
        title="Every kind",
        n_jobs=40,
        guide=guide,
        labels=tuple(f"Cause {c}" for c in guide.causes),
        looks=("W:seat=b", "W:hot=yes", "W:amps!", ""),
        lines=("W:look", "W:pumps", "W:pumps", ""),
        remedies=("x", "y", "z"),
        remedy_lines=("W:cool", "W:gone", ""),
    )


def sheet_with_facts(plan: Plan) -> Runsheet:
    """The runsheet of a plan for an order of which something is known."""
    return compile_runsheet(
        [(Source(document="W", revision="A", title=plan.title), plan)],
        facts={"asset.serial": "R1", "meter.hours": 40.0},
        last={"W:seat": "b"},
    )


def recorded_case(name: str, sheet: Runsheet, events: Sequence[FieldEvent]) -> Case:
    """A job that was carried out."""
    return Case(name, sheet, tuple(events))
