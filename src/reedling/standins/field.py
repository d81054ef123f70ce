"""The simulated field: technicians carry out orders through the same services as real ones.

Seeded: the same seed and the same end give the same orders, readings and times.
"""

from __future__ import annotations

import random
import uuid
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from dataclasses import field as field_of
from datetime import datetime, timedelta

from reedling.core.guidance.questions import Photo, Reading, Signature
from reedling.core.orders.orders import Order
from reedling.core.people import Person
from reedling.core.register.assets import Asset, PlacedAsset
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
from reedling.demo.loader import load_start, release_fault_guides, release_later_revisions
from reedling.errors import Conflict
from reedling.services.actions.orders import log_order, plan_visit
from reedling.services.actions.orders_by_hand import change_order
from reedling.services.context import Context
from reedling.services.shared.matched import OrderToMatch
from reedling.services.views.orders import assets
from reedling.standins.camera import Shot
from reedling.standins.field_beside import beside_the_steps
from reedling.standins.field_offices import HandedIn, Office, OneByOne, Shown, TakenPicture, Together
from reedling.standins.field_truth import (
    KINDS,
    NOTES,
    QUESTIONS,
    SURVEY,
    UNSERVED,
    Habit,
    Kind,
    Trouble,
    asks_for_help,
    drawn,
    habits_of,
    true_answer,
    truly_slow,
)
from reedling.standins.wider import WIDER_KINDS, WIDER_ROUTINES

DEMO_PASSWORD = "reed-bed"
"""The password the people of the demo share; shown on the sign-in page of a demo only."""
N_SURVEYS = 6
REVIEWED_AFTER_DAYS = 21
QUIET_DAYS = 40
SAME_PHOTO = 0.5
"""How often somebody who copies hands in the first photo of a visit again."""
DARK_PHOTO = 0.02
CALLED_OFF = 0.04
"""The share of routine visits that are cancelled."""
MADE_LATE = 0.12
"""The share of routine visits that are made after their last day."""
PUT_OFF_LATELY = timedelta(days=60)
PUT_OFF = 0.3
"""The share of the routine visits that fell due lately and that nobody has made yet."""
CALLED_OFF_BECAUSE = ("Road under water.", "Station is being rebuilt.", "Crew needed at the sluice.")
MOST_ANSWERS = 200
"""To one step; a plan that asks for more than that is not carried out."""


@dataclass(slots=True)
class Clock:
    """A clock the simulation sets."""

    now: datetime

    def __call__(self) -> datetime:
        """The instant it was set to."""
        return self.now


@dataclass(frozen=True, slots=True)
class Field:
    """The people and places of a simulation (``districts`` by site), with its clock and its dice, and the office that takes all of it in."""

    context: Context
    office: Office
    clock: Clock
    rng: random.Random
    people: dict[str, Person]
    placed: tuple[PlacedAsset, ...]
    districts: Mapping[str, str]
    habits: dict[str, Habit]
    begun_at: datetime
    kinds: tuple[Kind, ...]
    last: dict[str, datetime] = field_of(default_factory=dict)
    strays: bool = False
    """Whether somebody leaves the order of the runsheet now and then."""
    seasons: bool = False
    """Whether weed, storms and heat have their time of the year."""

    @property
    def assets(self) -> tuple[Asset, ...]:
        """Everything that is maintained."""
        return tuple(p.asset for p in self.placed)

    def district(self, asset: Asset) -> str:
        """Where an asset stands."""
        return self.districts[asset.site]

    def by_role(self, role: str) -> list[Person]:
        """Everybody of a role."""
        return [p for p in self.people.values() if p.role == role]


@dataclass(frozen=True, slots=True, kw_only=True)
class Extent:
    """How long a history is, and how many calls it holds."""

    days: int = 200
    n_calls: int = 60
    later_revisions_days_ago: int = 115
    is_wide: bool = False
    """Whether all stations and crews are in it."""
    is_together: bool = False
    """Whether it is taken in at once, which is quicker and comes to the same."""


SHORT = Extent(is_together=True)
"""The history that tests play."""
FULL = Extent(days=425, n_calls=2080, later_revisions_days_ago=150, is_wide=True, is_together=True)
"""The history of the demo: fourteen months."""


def play_demo(
    context: Context,
    password: str,
    *,
    seed: int = 14,
    extent: Extent = SHORT,
    told: Callable[[], None] = lambda: None,
) -> int:
    """Load the demo and play its history up to now; gives the number of orders. ``told`` hears of every call."""
    end = context.clock().replace(second=0, microsecond=0)
    clock = Clock(end - timedelta(days=extent.days + 5))
    rng = random.Random(seed)
    then = replace(context, clock=clock)
    load_start(then, password, today=end.date(), wide=extent.is_wide)
    with context.reading() as unit:
        people = {p.id: p for p in unit.people.all()}
    field = Field(
        context=then,
        office=Together(then) if extent.is_together else OneByOne(then),
        clock=clock,
        rng=rng,
        people=people,
        placed=(placed := assets(context)),
        districts=districts_of(placed),
        habits=habits_of(technicians_of(people)),
        begun_at=clock.now,
        kinds=kinds_of(is_wide=extent.is_wide),
        strays=extent.is_wide,
        seasons=extent.is_wide,
    )
    switch = end - timedelta(days=extent.later_revisions_days_ago)
    switched = False
    for logged_at, routine in _calendar(field, end, extent):
        if logged_at > switch and not switched:
            clock.now = switch
            field.office.settle()
            release_later_revisions(then, today=end.date(), wide=extent.is_wide)
            switched = True
        if routine is None:
            play_call(field, logged_at, end)
        else:
            _play_routine(field, *routine, logged_at, end)
        told()
    field.office.settle()
    field = replace(field, office=OneByOne(then))
    release_fault_guides(then, today=end.date(), wide=extent.is_wide)
    _play_surveys(field, end)
    _play_unserved(field, end)
    _leave_waiting(field, end)
    with context.reading() as unit:
        return sum(unit.orders.n_by_asset().values())


def districts_of(placed: Iterable[PlacedAsset]) -> dict[str, str]:
    """In which district each site lies, by site."""
    return {p.site.code: p.site.district for p in placed}


def technicians_of(people: Mapping[str, Person]) -> list[str]:
    """Who carries out orders, in the order in which habits are given out."""
    return sorted(p.id for p in people.values() if p.role == "technician")


def kinds_of(*, is_wide: bool) -> tuple[Kind, ...]:
    """The kinds of calls that come in."""
    return (*KINDS, *WIDER_KINDS) if is_wide else KINDS


def working_instants(
    rng: random.Random, end: datetime, n: int, *, days: float, until: float = 3
) -> list[datetime]:
    """``n`` instants from so many days before the end until so many, on working days between seven and fifteen o'clock."""
    out = []
    for _ in range(n):
        day = end - timedelta(days=rng.uniform(until, days))
        while day.weekday() > 4:
            day -= timedelta(days=1)
        out.append(day.replace(hour=rng.randint(7, 14), minute=rng.randint(0, 59)))
    return sorted(out)


def _play_surveys(field: Field, end: datetime) -> None:
    """The half-yearly visits that fell due lately, one station after the other."""
    stations = [a for a in field.assets if a.equipment == SURVEY.equipment]
    for n, station in enumerate(stations[:N_SURVEYS]):
        logged_at = (end - timedelta(days=10 + 3 * (N_SURVEYS - n))).replace(hour=8, minute=5 * n)
        trouble = drawn(field.rng, SURVEY.troubles, None)
        _carry_out(field, SURVEY, station, trouble, logged_at, end)


def _calendar(
    field: Field, end: datetime, extent: Extent
) -> list[tuple[datetime, tuple[Kind, Asset] | None]]:
    """When calls come in, and which routine visits fall due, one after the other."""
    due: list[tuple[datetime, tuple[Kind, Asset] | None]] = [
        (at, None) for at in working_instants(field.rng, end, extent.n_calls, days=extent.days)
    ]
    for kind, n in WIDER_ROUTINES if extent.is_wide else ():
        places = [a for a in field.assets if a.equipment == kind.equipment]
        for i in range(n):
            days_ago = extent.days - 5 - (extent.days - 8) * i / n
            at = (end - timedelta(days=days_ago)).replace(hour=7, minute=7 * i % 60)
            due.append((at, (kind, places[i % len(places)])))
    return sorted(due, key=lambda one: one[0])


def _play_routine(field: Field, kind: Kind, asset: Asset, logged_at: datetime, end: datetime) -> None:
    trouble = drawn(field.rng, kind.troubles, None)
    dice = random.Random(f"{asset.code} {logged_at.isoformat()} routine")
    _carry_out(field, kind, asset, trouble, logged_at, end, routine=dice)


def _days_until_done(order: Order, dice: random.Random) -> int | None:
    """Days after which a routine visit is made: mostly in time, sometimes late; none where it is called off."""
    window = order.terms.due_within_days
    assert window is not None
    chance = dice.random()
    if chance < CALLED_OFF:
        return None
    if chance < CALLED_OFF + MADE_LATE:
        return window + dice.randint(1, max(2, window // 2))
    return dice.randint(0, max(0, window - 1))


def _play_unserved(field: Field, end: datetime) -> None:
    """Calls for which nobody has written a plan: they get what every order gets, and no more."""
    served = {(kind.equipment, kind.symptom) for kind in field.kinds}
    unserved = [(k, n) for k, n in UNSERVED if (k.equipment, k.symptom) not in served]
    for n, kind in enumerate(k for k, times in unserved for _ in range(times)):
        places = [a for a in field.assets if a.equipment == kind.equipment]
        logged_at = (end - timedelta(days=170 - 14 * n)).replace(hour=9, minute=7 * n % 60)
        trouble = field.rng.choice(kind.troubles)
        _carry_out(field, kind, places[n % len(places)], trouble, logged_at, end)


def play_call(field: Field, logged_at: datetime, end: datetime) -> None:
    """Some call that comes in, carried out to its end, and the one that follows where it did not last."""
    season = logged_at if field.seasons else None
    kind = drawn(field.rng, field.kinds, season)
    asset = field.rng.choice(_quiet(field, kind, logged_at))
    field.last[asset.code] = logged_at
    trouble = drawn(field.rng, kind.troubles, season)
    _carry_out(field, kind, asset, trouble, logged_at, end)
    again = logged_at + timedelta(days=field.rng.uniform(6, 24))
    if field.rng.random() < trouble.back and again < end - timedelta(days=3):
        _carry_out(field, kind, asset, trouble, again, end)


def _carry_out(
    field: Field,
    kind: Kind,
    asset: Asset,
    trouble: Trouble,
    logged_at: datetime,
    end: datetime,
    *,
    routine: random.Random | None = None,
) -> None:
    """An order from when it is logged; ``routine`` draws when a routine visit is made, at once without it."""
    rng, clock = field.rng, field.clock
    clock.now = logged_at
    planner = field.by_role("planner")[0]
    asked = OrderToMatch(asset=asset.code, symptom=kind.symptom)
    order = field.office.log(
        planner, asked, _report(kind, trouble, rng.choice(kind.reports), asset, logged_at)
    )
    technician = _crew(field, asset)
    at = logged_at + timedelta(hours=rng.uniform(1, 3))
    if routine is not None:
        days = _days_until_done(order, routine)
        if days is None:
            clock.now = min(end, logged_at + timedelta(days=routine.randint(1, 4)))
            field.office.call_off(planner, order.id, routine.choice(CALLED_OFF_BECAUSE))
            return
        at += timedelta(days=days)
        is_put_off = end - logged_at < PUT_OFF_LATELY and routine.random() < PUT_OFF
        if is_put_off or at > end - timedelta(days=1):
            return
    fetch = rng.random() < trouble.fetch
    for visit in (1, 2):
        clock.now = max(clock.now, at - timedelta(minutes=30))
        field.office.plan(planner, order.id, technician.id, at)
        stop_early = fetch and visit == 1
        left_at, finished = _visit(field, kind, order, technician, trouble, at, stop_early=stop_early)
        if finished:
            break
        at = left_at + timedelta(days=rng.randint(1, 3))
    if clock.now < end - timedelta(days=REVIEWED_AFTER_DAYS):
        field.office.read(field.by_role("engineer")[0], order.id)


def _report(kind: Kind, trouble: Trouble, usual: str, asset: Asset, logged_at: datetime) -> str:
    """What the caller says: half of them tell more than the symptom, some of those the wrong thing."""
    dice = random.Random(f"{asset.code} {logged_at.isoformat()} report")
    seen = trouble if dice.random() < 0.9 else dice.choice(kind.troubles)
    return dice.choice(seen.said) if seen.said and dice.random() < 0.5 else usual


def _quiet(field: Field, kind: Kind, at: datetime) -> list[Asset]:
    """Assets of a kind that have not called for a while, where there are some: what was put right mostly lasts."""
    of_kind = [a for a in field.assets if a.equipment == kind.equipment]
    never = datetime.min.replace(tzinfo=at.tzinfo)
    quiet = [a for a in of_kind if at - field.last.get(a.code, never) > timedelta(days=QUIET_DAYS)]
    return quiet or of_kind


def _crew(field: Field, asset: Asset) -> Person:
    technicians = field.by_role("technician")
    local = [t for t in technicians if t.district == field.district(asset)]
    return field.rng.choice(local or technicians)


def _visit(
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
    now += timedelta(minutes=max(0.5, minutes))
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


def _leave_waiting(field: Field, end: datetime) -> None:
    """Orders of the last days that still wait, so that every list has something in it."""
    field.clock.now = end - timedelta(hours=5)
    planner = field.by_role("planner")[0]
    shown = next(p for p in field.by_role("technician") if p.offered)
    wanted: Sequence[tuple[str, str, str, bool]] = (
        ("screen-rake", "stalls", "Stalls with weed on, control reset it twice.", True),
        ("submersible-pump", "trips", "Out since five this morning.", True),
        ("station", "half-yearly", "Due this month.", True),
        ("level-sensor", "frozen", "Flat line since the weekend.", False),
        ("conveyor", "stalls", "Belt stops under load.", False),
    )
    used: set[str] = set()
    for equipment, symptom, report, planned in wanted:
        near = [a for a in field.assets if a.equipment == equipment and a.code not in used]
        asset = next((a for a in near if field.district(a) == shown.district), near[0])
        used.add(asset.code)
        order = log_order(field.context, planner, OrderToMatch(asset=asset.code, symptom=symptom), report)
        if (equipment, symptom) == ("conveyor", "stalls"):
            reason = "It has the rake's drive and valve, and there is no plan for conveyors."
            change_order(field.context, planner, order.id, "added", "WP-001", reason)
        if planned:
            plan_visit(field.context, planner, order.id, shown.id, end + timedelta(hours=len(used)))


def _uuid(rng: random.Random) -> str:
    return str(uuid.UUID(int=rng.getrandbits(128), version=4))
