"""A visit of a simulated technician: what is done on site, step by step, with their habits."""

from __future__ import annotations

import random
import uuid
from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import datetime, timedelta

from reedling.core.guidance.questions import Photo, Reading, Signature
from reedling.core.orders.orders import Order
from reedling.core.people import Person
from reedling.core.runsheet.events import (
    Answered,
    Arrived,
    Coded,
    FieldEvent,
    HeadedOut,
    HelpAsked,
    HelpEnded,
    LeftSite,
    NoteWritten,
    PartUsed,
    StepDone,
    StepSkipped,
    StepStarted,
)
from reedling.core.runsheet.finishing import open_rules
from reedling.core.runsheet.job import record
from reedling.core.runsheet.job_runs import job_run
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import RunsheetLine
from reedling.core.runsheet.progress import line_progress, next_due
from reedling.errors import Conflict
from reedling.standins.camera import Shot
from reedling.standins.field_beside import beside_the_steps
from reedling.standins.field_habits import Habit
from reedling.standins.field_offices import HandedIn, Shown, TakenPicture
from reedling.standins.field_truth import (
    NOTES,
    QUESTIONS,
    Kind,
    Trouble,
    asks_for_help,
    true_answer,
    truly_slow,
)
from reedling.standins.simulation import Field

SAME_PHOTO = 0.5
"""How often somebody who copies hands in the first photo of a visit again."""
DARK_PHOTO = 0.02
MOST_ANSWERS = 200
"""To one step; a plan that asks for more than that is not carried out."""


def carry_out_visit(
    field: Field,
    kind: Kind,
    order: Order,
    technician: Person,
    trouble: Trouble,
    at: datetime,
    *,
    stop_early: bool,
) -> tuple[datetime, bool]:
    """One trip; with ``stop_early`` it ends at the first step that wants a part.

    Gives when it ended, and whether the job was finished.
    """
    rng = field.rng
    field.clock.now = at
    job = field.office.job_of(order)
    events: list[FieldEvent] = []

    def add(event: FieldEvent) -> None:
        nonlocal job
        job = record(order.runsheet, job, event)
        events.append(event)

    def missing_of(line: str) -> tuple[str, ...]:
        run = job_run(order.runsheet, job)
        return next(line_progress(run, one).missing for one in run.lines if one.id == line)

    now = at
    add(HeadedOut(at=now))
    now += timedelta(minutes=rng.uniform(12, 45))
    site = order.site
    add(
        Arrived(
            at=now,
            east=round(site.east + rng.gauss(0, 2e-4), 5),
            north=round(site.north + rng.gauss(0, 2e-4), 5),
        )
    )
    pictures: list[tuple[str, Photo | Signature]] = []
    while line := _taken_up(field, kind, order, technician, job):
        if stop_early and line.parts:
            break
        now = _do_line(field, kind, order, technician, trouble, line, now, add, missing_of, pictures)
    finished = _next(order, job) is None
    if not finished:
        add(LeftSite(at=now, outcome="return needed", reason="part to fetch", note="Not in the van."))
    else:
        dice = random.Random(f"{order.id} parts")
        for taken in trouble.takes:
            if dice.random() < taken.chance:
                add(PartUsed(at=now, part=taken.part, quantity=dice.choice(taken.quantities)))
        add(Coded(at=now, cause=trouble.cause, remedy=trouble.remedy))
        for event in beside_the_steps(order, trouble, now, is_late=len(job.visits) > 1):
            add(event)
        if any(rule.weight == "must" for rule in open_rules(job_run(order.runsheet, job), job)):
            add(NoteWritten(at=now, text=dice.choice(NOTES), line=None))
        add(LeftSite(at=now + timedelta(minutes=rng.uniform(1, 4)), outcome="finished"))
    field.clock.now = events[-1].at
    handed = HandedIn(
        submission=_uuid(rng),
        events=events,
        pictures=_as_taken(pictures, field.habits[technician.id], rng),
        job=job,
    )
    field.office.take_in(technician, order.id, handed)
    return events[-1].at, finished


def _next(order: Order, job: Job) -> RunsheetLine | None:
    return next_due(job_run(order.runsheet, job))


def _taken_up(field: Field, kind: Kind, order: Order, technician: Person, job: Job) -> RunsheetLine | None:
    """What is done next: what is due next, or what somebody does first who leaves the order there."""
    line = _next(order, job)
    if line is None or not field.strays:
        return line
    instead = kind.overtaken.get(line.id)
    dice = random.Random(f"{order.id} {line.id} strays")
    if instead is None or dice.random() >= field.habits[technician.id].strays:
        return line
    run = job_run(order.runsheet, job)
    other = next((one for one in run.lines if one.id == instead), line)
    return other if line_progress(run, other).state == "due" else line


def _as_taken(
    asked: Sequence[tuple[str, Photo | Signature]], habit: Habit, rng: random.Random
) -> list[TakenPicture]:
    """Photos as somebody with this habit takes them: in haste, in a dark pump house, or once for several questions."""
    out: list[TakenPicture] = []
    for picture, question in asked:
        dice, shown = random.Random(picture), Shown(question.label, rng.randrange(8))
        first = next((one for one in out if one.is_photo), None)
        is_photo = isinstance(question, Photo)
        if is_photo and habit.copies and first is not None and dice.random() < SAME_PHOTO:
            shown = first.shown
        elif is_photo:
            chance = dice.random()
            shot: Shot = "blurred" if chance < habit.blurs else "dark" if chance > 1 - DARK_PHOTO else "well"
            shown = replace(shown, shot=shot)
        out.append(TakenPicture(picture, question.id, shown, is_photo))
    return out


def _do_line(
    field: Field,
    kind: Kind,
    order: Order,
    technician: Person,
    trouble: Trouble,
    line: RunsheetLine,
    now: datetime,
    add: Callable[[FieldEvent], None],
    missing_of: Callable[[str], tuple[str, ...]],
    pictures: list[tuple[str, Photo | Signature]],
) -> datetime:
    rng = field.rng
    left_out, reasons = kind.left_out.get(line.id, (0.0, ()))
    dice = random.Random(f"{order.id} {line.id} left out")
    if dice.random() < left_out:
        add(StepSkipped(at=now, line=line.id, reason=dice.choice(reasons)))
        return now
    if line.phase == "Leave" and rng.random() < 0.04:
        add(StepSkipped(at=now, line=line.id, reason="Called away to the next job."))
        return now
    add(StepStarted(at=now, line=line.id))
    model = order.asset.model
    habit = field.habits[technician.id]
    if rng.random() < asks_for_help(line, model):
        thread = _uuid(rng)
        add(HelpAsked(at=now, thread=thread, line=line.id, text=rng.choice(QUESTIONS)))
        now += timedelta(minutes=rng.uniform(4, 15))
        add(HelpEnded(at=now, thread=thread, kept=True))
    slow = truly_slow(kind, line, model)
    minutes = line.minutes.likely * slow * habit.pace_at(now - field.begun_at) * rng.lognormvariate(0, 0.28)
    now += timedelta(minutes=_passed_over(order.id, line, habit) or max(0.5, minutes))
    asked = {q.id: q for q in line.questions}
    n_answers = 0
    while missing := missing_of(line.id):
        n_answers += 1
        if n_answers > MOST_ANSWERS:
            raise Conflict("field.endless", "no answer satisfies the step.", where=line.text)
        question = asked[missing[0]]
        value = true_answer(question, trouble, rng, order.runsheet.facts)
        if habit.copies and isinstance(question, Reading):
            value = habit.copied(question, value)
        if isinstance(question, Photo | Signature):
            value = _uuid(rng)
            pictures.append((value, question))
        assert value is not None
        add(Answered(at=now, question=question.id, value=value))
    for need in line.parts:
        add(PartUsed(at=now, part=need.part, quantity=need.quantity, line=line.id))
    add(StepDone(at=now, line=line.id))
    often, words = kind.noted.get(line.id, (0.0, ()))
    dice = random.Random(f"{order.id} {line.id} note")
    if dice.random() < often:
        add(NoteWritten(at=now, text=dice.choice(words), line=line.id))
    return now


def _passed_over(order: str, line: RunsheetLine, habit: Habit) -> float | None:
    """The minutes of a step that is ticked without being done; nothing where it is done, as most are."""
    dice = random.Random(f"{order} {line.id} passed over")
    if line.parts or any(isinstance(q, Reading | Photo | Signature) for q in line.questions):
        return None
    return line.minutes.likely * dice.uniform(0.03, 0.08) if dice.random() < habit.passes_over else None


def _uuid(rng: random.Random) -> str:
    return str(uuid.UUID(int=rng.getrandbits(128), version=4))
