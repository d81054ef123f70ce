"""What a technician's device is given: the day's orders, one order to carry out, what the job could not take in."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from reedling.core.guidance.phases import Phase
from reedling.core.orders.order_card import CardLine
from reedling.core.orders.orders import OrderHeading, heading_of
from reedling.core.orders.states import FOR_THE_FIELD
from reedling.core.orders.taking_along import TakingAlong, check_rule, is_taken_along
from reedling.core.people import Person
from reedling.core.register.assets import day_on_site
from reedling.core.register.distances import way_words
from reedling.core.register.plates import plate_words
from reedling.core.rollup.carrying import ToCarry, what_to_carry
from reedling.core.runsheet.job import replay
from reedling.core.runsheet.job_runs import job_run
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import Runsheet, pictures_of
from reedling.core.runsheet.run_view import RunView, job_view
from reedling.exchange.content import dump_json
from reedling.services.context import Context
from reedling.services.shared.needed import need_field_order, need_order
from reedling.services.shared.order_cards import card_shown, facts_for_cards
from reedling.services.shared.uses import shared_in_force
from reedling.services.views.loose_records import LooseLine, loose_lines
from reedling.services.views.orders import OrderLine, order_line
from reedling.services.views.past_fixes import PastFixView, past_fixes_of
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class PocketLine:
    """One of a technician's orders; ``version`` is another one as soon as somebody else changed something.

    ``taken`` says whether the device takes it along, ``card`` is what the list shows of it. ``way`` says how far it is from
    the site of the order planned before it on that day, in a straight line; empty where that is not known.
    """

    line: OrderLine
    version: str
    taken: bool
    card: tuple[CardLine, ...]
    way: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PocketDay:
    """A technician's orders by the time planned, and the loose records of theirs that wait for the office."""

    orders: tuple[PocketLine, ...]
    taking_along: TakingAlong
    loose: tuple[LooseLine, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class SiteAsset:
    """Equipment at an order's site."""

    code: str
    name: str
    equipment: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StandardStep:
    """A standard step in force, as it may be added on site; ``phase`` and ``minutes`` as it is written."""

    document: str
    title: str
    phase: Phase
    minutes: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PocketOrder:
    """One order to carry out: the runsheet as issued, the job so far, and where it stands on it.

    With ``runsheet`` and ``job`` a device carries the job on by itself; ``run`` is for showing it before it can.
    ``n_recorded`` counts the events recorded so far, ``past_fixes`` are what solved jobs like it, ``pictures`` are those of its
    instructions that go along, ``card`` is what its page shows of it. ``site_assets`` is the equipment at its site.
    """

    line: OrderLine
    version: str
    runsheet: Runsheet
    job: Job
    run: RunView
    n_recorded: int
    pictures: tuple[str, ...]
    loose: tuple[LooseLine, ...]
    past_fixes: tuple[PastFixView, ...]
    card: tuple[CardLine, ...]
    site_assets: tuple[SiteAsset, ...]


def own_day(context: Context, person: Person) -> PocketDay:
    """A technician's orders that wait or are under way, by the time planned."""
    now = context.clock()
    with context.reading() as unit:
        names, lists = unit.people.names(), unit.catalogues.get()
        rule = unit.settings.taking_along()
        found = unit.orders.headings(states=FOR_THE_FIELD, technician=person.id)
        card, facts = unit.settings.order_card(), facts_for_cards(unit)
        cards = {order.id: card_shown(unit, card, order, facts, now) for order in found}
        lines = sorted(
            (order_line(order, names, lists, now) for order in found),
            key=lambda line: (line.planned_for or line.logged_at, line.id),
        )
        before = (None, *lines)
        return PocketDay(
            orders=tuple(
                PocketLine(
                    line=line,
                    version=_version(unit, line.id, person),
                    taken=_is_taken(rule, line, now),
                    card=cards[line.id].first,
                    way=_way(earlier, line),
                )
                for earlier, line in zip(before, lines, strict=False)
            ),
            taking_along=rule,
            loose=loose_lines(unit.loose_records.find(person=person.id, open_only=True), names),
        )


def _way(before: OrderLine | None, line: OrderLine) -> str:
    if before is None or before.planned_for is None or line.planned_for is None:
        return ""
    return way_words((before.site, before.planned_for), (line.site, line.planned_for))


def own_load(context: Context, person: Person) -> ToCarry:
    """The parts and tools that a technician needs for the orders taken along, against what is in the van."""
    now = context.clock()
    with context.reading() as unit:
        lists = unit.catalogues.get()
        rule = unit.settings.taking_along()
        jobs = []
        for heading in unit.orders.headings(states=FOR_THE_FIELD, technician=person.id):
            if _is_taken(rule, heading, now):
                order = need_order(unit, heading.id)
                job = replay(order.runsheet, unit.recorded.events(order.id))
                jobs.append((order.id, job_run(order.runsheet, job), job, order.terms))
        return what_to_carry(jobs, lists, person.name)


@dataclass(frozen=True, slots=True, kw_only=True)
class Load:
    """What one order weighs on a device, in bytes before compression: its own data, and its pictures."""

    line: OrderLine
    taken: bool
    data_bytes: int
    picture_bytes: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Loads:
    """What a technician's device takes along by a rule, and what is left out."""

    taking_along: TakingAlong
    orders: tuple[Load, ...]


def loads(context: Context, rule: TakingAlong, technician: str) -> Loads:
    """What the rule would have a technician's device take along, and what each order weighs.

    Raises
    ------
    InvalidInput
        ``taking_along.days``.
    """
    check_rule(rule)
    now = context.clock()
    with context.reading() as unit:
        names, lists = unit.people.names(), unit.catalogues.get()
        out = []
        for heading in unit.orders.headings(states=FOR_THE_FIELD, technician=technician):
            order = need_order(unit, heading.id)
            job = replay(order.runsheet, unit.recorded.events(order.id))
            run = job_view(order.runsheet, job)
            out.append(
                Load(
                    line=order_line(heading, names, lists, now),
                    taken=_is_taken(rule, heading, now),
                    data_bytes=sum(len(dump_json(part)) for part in (order.runsheet, job, run)),
                    picture_bytes=sum(unit.illustrations.size(p) for p in _pictures(rule, order.runsheet)),
                )
            )
        out.sort(key=lambda load: (load.line.planned_for or load.line.logged_at, load.line.id))
        return Loads(taking_along=rule, orders=tuple(out))


def _pictures(rule: TakingAlong, runsheet: Runsheet) -> tuple[str, ...]:
    return tuple(sorted({p for line in runsheet.lines for p in pictures_of(line)})) if rule.pictures else ()


def _is_taken(rule: TakingAlong, order: OrderLine | OrderHeading, now: datetime) -> bool:
    planned = day_on_site(order.site, order.planned_for) if order.planned_for else None
    return is_taken_along(rule, order.state, planned, day_on_site(order.site, now))


@dataclass(frozen=True, slots=True, kw_only=True)
class PlateFound:
    """Whose plate was read, in words, and the codes of the assets that carry it."""

    assets: tuple[str, ...]
    words: str


def plate(context: Context, code: str) -> PlateFound:
    """Whose plate this is by the register; no words where it has no such plate."""
    with context.reading() as unit:
        found = unit.register.with_serial(code)
    return PlateFound(assets=tuple(p.asset.code for p in found), words=plate_words(code, found))


def standard_steps(context: Context) -> tuple[StandardStep, ...]:
    """The standard steps in force, by title."""
    with context.reading() as unit:
        found = [
            StandardStep(
                document=document,
                title=shared.plan.title,
                phase=shared.plan.steps[0].phase,
                minutes=sum(step.minutes.likely for step in shared.plan.steps),
            )
            for document, shared in shared_in_force(unit).standards.items()
            if shared.plan.steps
        ]
    return tuple(sorted(found, key=lambda step: (step.title, step.document)))


def own_order(context: Context, order_id: str, person: Person) -> PocketOrder:
    """One order of a technician's, also one that was theirs while they may have recorded something.

    Raises
    ------
    NotFound
        ``orders.unknown`` when it never was.
    """
    with context.reading() as unit:
        order = need_field_order(unit, order_id, person)
        names, lists = unit.people.names(), unit.catalogues.get()
        events = unit.recorded.events(order.id)
        job = replay(order.runsheet, events)
        heading, card = heading_of(order), unit.settings.order_card()
        return PocketOrder(
            line=order_line(heading, names, lists, context.clock()),
            version=_version(unit, order.id, person),
            runsheet=order.runsheet,
            job=job,
            run=job_view(order.runsheet, job),
            n_recorded=len(events),
            pictures=_pictures(unit.settings.taking_along(), order.runsheet),
            loose=loose_lines(unit.loose_records.find(order=order_id, person=person.id), names),
            past_fixes=past_fixes_of(unit, order),
            card=card_shown(unit, card, heading, facts_for_cards(unit), context.clock()).further,
            site_assets=tuple(
                SiteAsset(code=placed.asset.code, name=placed.asset.name, equipment=placed.asset.equipment)
                for placed in unit.register.assets()
                if placed.site.code == order.site.code
            ),
        )


def _version(unit: Unit, order_id: str, person: Person) -> str:
    """Another one as soon as anybody but this person has changed something of an order, or what its card shows."""
    loose = unit.loose_records.find(order=order_id, person=person.id)
    changes = unit.changes.newest("order", key=order_id, limit=1)
    parts = (
        unit.recorded.n_events(order_id, but=person.id),
        changes[0].id if changes else 0,
        len(unit.orders.changes(order_id)),
        sum(1 for record in loose if record.decision is not None),
        cards[0].id if (cards := unit.changes.newest("setting", key="order card", limit=1)) else 0,
    )
    return ".".join(str(part) for part in parts)
