"""The simulated field: technicians carry out orders through the same services as real ones.

Seeded: the same seed and the same end give the same orders, readings and times.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from functools import partial

from reedling.core.orders.orders import Order
from reedling.core.people import Person
from reedling.core.register.assets import Asset, PlacedAsset
from reedling.demo.loader import load_start, release_fault_guides, release_later_revisions
from reedling.services.actions.orders import log_order, plan_visit
from reedling.services.actions.orders_by_hand import change_order
from reedling.services.context import Context
from reedling.services.shared.matched import OrderToMatch
from reedling.services.views.orders import assets
from reedling.standins.diaries import LONGEST_VISIT, working_morning
from reedling.standins.field_habits import habits_of
from reedling.standins.field_kinds import KINDS, SURVEY, UNSERVED
from reedling.standins.field_offices import OneByOne, PastJobWriter, Together, WritesHere
from reedling.standins.field_trial import begin_field_trial
from reedling.standins.field_truth import Kind, Trouble, drawn
from reedling.standins.field_visits import carry_out_visit
from reedling.standins.simulation import Clock, Field
from reedling.standins.wider import WIDER_KINDS, WIDER_ROUTINES

DEMO_PASSWORD = "reed-bed"
"""The password the people of the demo share; shown on the sign-in page of a demo only."""
N_SURVEYS = 6
REVIEWED_AFTER_DAYS = 21
QUIET_DAYS = 40
CALLED_OFF = 0.04
"""The share of routine visits that are cancelled."""
MADE_LATE = 0.12
"""The share of routine visits that are made after their last day."""
BETWEEN_VISITS = timedelta(hours=2, minutes=30)
"""How far apart the visits that wait are planned."""
PUT_OFF_LATELY = timedelta(days=60)
PUT_OFF = 0.3
"""The share of the routine visits that fell due lately and that nobody has made yet."""
HELD = 200
"""So many orders are handed to a writer of its own at a time."""
CALLED_OFF_BECAUSE = ("Road under water.", "Station is being rebuilt.", "Crew needed at the sluice.")


@dataclass(frozen=True, slots=True, kw_only=True)
class Extent:
    """How long a history is, and how many calls it holds."""

    days: int = 200
    n_calls: int = 60
    later_revisions_days_ago: int = 115
    trial_days_ago: int | None = None
    """When the trial of the demo begins; none without it."""
    is_wide: bool = False
    """Whether all stations and crews are in it."""
    is_together: bool = False
    """Whether it is taken in at once, which is quicker and comes to the same."""


SHORT = Extent(is_together=True)
"""The history that tests play."""
FULL = Extent(
    days=425, n_calls=2080, later_revisions_days_ago=150, trial_days_ago=70, is_wide=True, is_together=True
)
"""The history of the demo: fourteen months."""


def play_demo(
    context: Context,
    password: str,
    *,
    seed: int = 14,
    extent: Extent = SHORT,
    told: Callable[[], None] = lambda: None,
    writer: PastJobWriter | None = None,
) -> int:
    """Load the demo and play its history up to now; gives the number of orders. ``told`` hears of every call.

    A history that is taken in at once is written by ``writer``, in this process without one.
    """
    end = context.clock().replace(second=0, microsecond=0)
    clock = Clock(end - timedelta(days=extent.days + 5))
    rng = random.Random(seed)
    then = replace(context, clock=clock)
    load_start(then, password, today=end.date(), wide=extent.is_wide)
    with context.reading() as unit:
        people = {p.id: p for p in unit.people.all()}
    field = Field(
        context=then,
        office=Together(then, writer or WritesHere(then), HELD if writer else None)
        if extent.is_together
        else OneByOne(then),
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
    coming: list[tuple[int, Callable[[], None]]] = [
        (
            extent.later_revisions_days_ago,
            partial(release_later_revisions, then, today=end.date(), wide=extent.is_wide),
        )
    ]
    if extent.trial_days_ago is not None:
        coming.append((extent.trial_days_ago, partial(begin_field_trial, field, seed)))
    for logged_at, routine in _calendar(field, end, extent):
        while coming and logged_at > end - timedelta(days=coming[0][0]):
            days_ago, act = coming.pop(0)
            clock.now = end - timedelta(days=days_ago)
            field.office.settle()
            act()
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
        at = field.diaries.free_from(technician.id, at)
        if at > end - LONGEST_VISIT:
            # It would not be over by the end: the order waits for it.
            break
        clock.now = max(clock.now, at - timedelta(minutes=30))
        field.office.plan(planner, order.id, technician.id, at)
        stop_early = fetch and visit == 1
        left_at, finished = carry_out_visit(
            field, kind, order, technician, trouble, at, stop_early=stop_early
        )
        field.diaries.enter(technician.id, at, left_at)
        if finished:
            break
        at = working_morning(left_at + timedelta(days=rng.randint(1, 3)))
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


def _round_from(now: datetime) -> datetime:
    """When the first of a day's visits is made: in an hour, to the half hour, or at eight the next morning."""
    begins = now.replace(minute=30 * (now.minute // 30), second=0, microsecond=0) + timedelta(minutes=90)
    at_eight = begins.replace(hour=8, minute=0)
    if begins < at_eight:
        return at_eight
    return begins if begins.hour < 12 else at_eight + timedelta(days=1)


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
    visit_at = _round_from(end)
    for equipment, symptom, report, planned in wanted:
        near = [a for a in field.assets if a.equipment == equipment and a.code not in used]
        asset = next((a for a in near if field.district(a) == shown.district), near[0])
        used.add(asset.code)
        order = log_order(field.context, planner, OrderToMatch(asset=asset.code, symptom=symptom), report)
        if (equipment, symptom) == ("conveyor", "stalls"):
            reason = "It has the rake's drive and valve, and there is no plan for conveyors."
            change_order(field.context, planner, order.id, "added", "WP-001", reason)
        if planned:
            plan_visit(field.context, planner, order.id, shown.id, visit_at)
            visit_at += BETWEEN_VISITS
