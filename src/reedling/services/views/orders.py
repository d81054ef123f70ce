"""Read orders: the planner's list, one order in full, a technician's own."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime

from reedling.core.evidence.doubtful_times import Bounds, DoubtfulTime, doubtful_times
from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.facts import known_facts
from reedling.core.guidance.incident_types import OrderTerms
from reedling.core.guidance.questions import answer_text
from reedling.core.logic.conditions import fact_label
from reedling.core.matching.applicability import MatchTrace
from reedling.core.orders.order_costs import OrderCosts, order_costs
from reedling.core.orders.orders import Order, OrderHeading, WantedOrders, heading_of, is_overdue
from reedling.core.orders.photo_looks import doubts_in_words
from reedling.core.orders.receipts import Upload
from reedling.core.orders.states import takes_parts
from reedling.core.people import Person
from reedling.core.register.assets import Asset, PlacedAsset, Site, day_on_site
from reedling.core.register.distances import arrival_words
from reedling.core.runsheet.job import replay
from reedling.core.runsheet.job_runs import job_run
from reedling.core.runsheet.job_state import Job, OrderState
from reedling.core.runsheet.lines import Source
from reedling.core.runsheet.progress import Run, is_past, write_backs
from reedling.core.runsheet.run_view import RunView, run_view
from reedling.services.context import Context
from reedling.services.shared.composing import issued_documents
from reedling.services.shared.needed import need_order
from reedling.services.views.loose_records import LooseLine, loose_lines
from reedling.services.views.part_supplies import SupplyView, supply_views
from reedling.store.unit import Unit


def assets(context: Context) -> tuple[PlacedAsset, ...]:
    """All assets with their sites, by site and name."""
    with context.reading() as unit:
        return unit.register.assets()


PAGE = 100
"""Orders on a page of them."""


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderLine:
    """One order in a list."""

    id: str
    asset: Asset
    site: Site
    symptom: str
    symptom_label: str
    report: str
    incident_type: str | None
    plans: tuple[str, ...]
    state: OrderState
    logged_at: datetime
    technician: str | None
    technician_name: str
    planned_for: datetime | None
    finished_at: datetime | None
    planned_minutes: float
    priority: str
    due_on: date | None
    is_overdue: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenBack:
    """A field of the asset or order that the job wrote, in words."""

    field: str
    before: str
    after: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeByHand:
    """What was added to an order or taken off it by hand, by whom and why."""

    at: datetime
    person_name: str
    act: str
    document: str
    revision: str
    title: str
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderOnTrial:
    """A trial that took an order: it has the revision on trial, or the one in force beside it to compare with."""

    trial: str
    document: str
    letter: str
    tried: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderPage:
    """One order in full: what it was issued and how far it has come.

    ``documents`` are those put on it, without the forms and standard steps inside them; ``doubts`` say
    which of its times cannot be, ``clock_errors`` by how many seconds devices' clocks ran ahead whose times
    were put right. ``loose`` is what the job could not take in, ``coming`` the pictures still on their way,
    ``photo_doubts`` what is to be doubted of photos, in words by picture. ``supplies`` are the parts that come from
    elsewhere (``takes_parts``: another may be sent), ``costs`` what the job comes to so far. ``arrivals`` says of each
    visit how far from the site its technician arrived, empty where that was at the site or is not known.
    """

    line: OrderLine
    terms: OrderTerms
    incident_type_revision: str | None
    job: Job
    run: RunView
    answers_in_words: Mapping[str, str]
    written_back: tuple[WrittenBack, ...]
    logged_by_name: str
    reviewed_by_name: str
    documents: tuple[Source, ...]
    by_hand: tuple[ChangeByHand, ...]
    category_name: str
    doubts: tuple[DoubtfulTime, ...]
    clock_errors: tuple[float, ...]
    loose: tuple[LooseLine, ...]
    coming: tuple[Upload, ...]
    photo_doubts: Mapping[str, str]
    on_trial: tuple[OrderOnTrial, ...]
    supplies: tuple[SupplyView, ...]
    takes_parts: bool
    costs: OrderCosts
    arrivals: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class OrdersPage:
    """A page of orders, newest first, out of ``total``."""

    total: int
    rows: tuple[OrderLine, ...]


def orders_page(
    context: Context,
    *,
    states: Sequence[OrderState] = (),
    incident_type: str | None = None,
    words: str = "",
    offset: int = 0,
    limit: int = PAGE,
) -> OrdersPage:
    """Orders for the planner, newest first: those in the states, with every word in them somewhere."""
    with context.reading() as unit:
        names, lists = unit.people.names(), unit.catalogues.get()
        wanted = WantedOrders(
            states=tuple(states),
            incident_type=incident_type,
            words=tuple(words.split()),
            symptoms={s.code: s.label for s in lists.symptoms},
        )
        total, found = unit.orders.page(wanted, offset=offset, limit=limit)
        return OrdersPage(
            total=total, rows=tuple(order_line(order, names, lists, context.clock()) for order in found)
        )


def order_page(context: Context, order_id: str) -> OrderPage:
    """One order in full."""
    with context.reading() as unit:
        return page_of(unit, need_order(unit, order_id), context.clock())


def order_trace(context: Context, order_id: str) -> tuple[MatchTrace, ...]:
    """Which rows an order met when it was logged, and why not the nearest of the others."""
    with context.reading() as unit:
        return need_order(unit, order_id).trace


def page_of(unit: Unit, order: Order, now: datetime) -> OrderPage:
    """Put an order together with what the field recorded against it."""
    names = unit.people.names()
    job = replay(order.runsheet, unit.recorded.events(order.id))
    run = job_run(order.runsheet, job)
    put_on = set(issued_documents(order.runsheet))
    categories = {c.code: c.name for c in unit.catalogues.get().categories}
    return OrderPage(
        line=order_line(heading_of(order), names, unit.catalogues.get(), now),
        terms=order.terms,
        incident_type_revision=order.incident_type_revision,
        job=job,
        run=run_view(run, job),
        answers_in_words=answers_in_words(run),
        written_back=written_back(unit, run) if job.finished_at else (),
        logged_by_name=names.get(order.logged_by, ""),
        reviewed_by_name=names.get(order.reviewed_by or "", ""),
        documents=tuple(s for s in order.runsheet.sources if s.document in put_on),
        by_hand=tuple(
            ChangeByHand(
                at=c.at,
                person_name=names.get(c.person, c.person),
                act=c.act,
                document=c.document,
                revision=c.revision,
                title=c.title,
                reason=c.reason,
            )
            for c in unit.orders.changes(order.id)
        ),
        category_name=categories.get(order.terms.category, order.terms.category),
        doubts=doubtful_times(job, run.lines_ever, bounds_of(unit, order)),
        clock_errors=unit.recorded.clock_errors(order.id),
        arrivals=tuple(arrival_words(order.site, visit.arrived_where) for visit in job.visits),
        loose=loose_lines(unit.loose_records.find(order=order.id), names),
        coming=unit.uploads.of_order(order.id),
        photo_doubts={
            picture.id: doubts_in_words(picture.doubts)
            for picture in unit.pictures.of_order(order.id)
            if picture.doubts
        },
        supplies=supply_views(unit, job),
        takes_parts=takes_parts(order.state),
        costs=order_costs(
            order.terms.charges,
            job,
            {part.code: part for part in unit.catalogues.get().parts},
            order.runsheet.cost_kinds,
        ),
        on_trial=tuple(
            OrderOnTrial(
                trial=trial.id,
                document=trial.document,
                letter=trial.letter,
                tried=tried,
            )
            for trial, tried in unit.trials.taking(order.id)
        ),
    )


def bounds_of(unit: Unit, order: Order) -> Bounds:
    """What the times of an order's job are held against."""
    return Bounds(logged_at=order.logged_at, received_at=unit.recorded.received_at(order.id))


def answers_in_words(run: Run) -> dict[str, str]:
    """Each answer and computed value as a person would write it down, and each that is no longer asked."""
    questions = {q.id: q for line in run.lines_ever for q in line.questions}
    given = {q: a for q, a in run.answers.items() if q in questions and run.standing.wanted[q] is True}
    past = {q: a for q, a in run.past.answers.items() if q in questions and is_past(run, questions[q])}
    computed = run.progress.computed
    reasons = {**run.past.reasons, **run.reasons}
    words = {q: answer_text(questions[q], value) for q, value in {**past, **given, **computed}.items()}
    return {q: f"{text}, because {reasons[q]}" if q in reasons else text for q, text in words.items()}


def written_back(unit: Unit, run: Run) -> tuple[WrittenBack, ...]:
    """What the job wrote to the asset and the order, in words."""
    labels = {f.name: f.label for f in known_facts(unit.catalogues.get())}
    questions = {q.id: q for line in run.lines for q in line.questions}
    out = []
    for back in write_backs(run):
        question = questions[back.question]
        before = answer_text(question, back.before) if back.before is not None else "nothing"
        field = labels.get(back.field, fact_label(back.field))
        out.append(WrittenBack(field=field, before=before, after=answer_text(question, back.after)))
    return tuple(out)


def order_line(order: OrderHeading, names: Mapping[str, str], lists: Catalogue, now: datetime) -> OrderLine:
    """One order as a list shows it."""
    labels = {s.code: s.label for s in lists.symptoms}
    return OrderLine(
        id=order.id,
        asset=order.asset,
        site=order.site,
        symptom=order.symptom,
        symptom_label=labels.get(order.symptom, order.symptom),
        report=order.report,
        incident_type=order.incident_type,
        plans=tuple(f"{s.title}, {s.revision}" for s in order.sources),
        state=order.state,
        logged_at=order.logged_at,
        technician=order.technician,
        technician_name=names.get(order.technician or "", ""),
        planned_for=order.planned_for,
        finished_at=order.finished_at,
        planned_minutes=order.planned_minutes,
        priority=order.priority,
        due_on=order.due_on,
        is_overdue=is_overdue(order.state, order.due_on, day_on_site(order.site, now)),
    )


def technicians(context: Context) -> tuple[Person, ...]:
    """Everybody an order can be given to, by name."""
    with context.reading() as unit:
        return tuple(p for p in unit.people.all() if p.role == "technician")
