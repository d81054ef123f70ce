"""Try an order, log it with its frozen runsheet, plan its visit, cancel it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime

from reedling.core.guidance.catalogue import Catalogue, EquipmentTree
from reedling.core.guidance.decision_tables import PRIORITIES, After, earlier_of
from reedling.core.guidance.documents import Revision
from reedling.core.guidance.facts import fact_names
from reedling.core.guidance.incident_types import OrderTerms, terms_of
from reedling.core.guidance.plans import Link, Plan
from reedling.core.guidance.reuse import Library
from reedling.core.logic.conditions import Answer
from reedling.core.matching.applicability import (
    KEPT_TRACES,
    Match,
    MatchTrace,
    match_order,
    trace_rows,
)
from reedling.core.matching.order_facts import OrderFacts, facts_by_name
from reedling.core.orders.orders import Order
from reedling.core.orders.states import can_be_cancelled, can_be_planned
from reedling.core.people import Person
from reedling.core.register.assets import Asset, PlacedAsset
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Runsheet, Source
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.context import Context
from reedling.services.current import current_revision
from reedling.services.keep_changes import keep_order_change
from reedling.services.match_guidance import Readied, facts_now, guidance_in_force
from reedling.services.release_revisions import bring_into_force
from reedling.services.shared_library import library_in_force
from reedling.services.summaries import Related, note_returns, related_symptoms
from reedling.store.unit import Unit

MAX_TRACES = 400
"""How many rows that did not match a trial tells of: the nearest."""


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderToMatch:
    """An order as it comes in.

    ``incident_type`` and ``priority`` are empty where nobody said them, ``without`` are documents to
    leave out, and ``day`` is today unless another is given.
    """

    asset: str
    symptom: str
    incident_type: str = ""
    priority: str = ""
    day: date | None = None
    without: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Matched:
    """What an order gets: every document with its reason, and the runsheet they compose.

    Of the rows that did not match, the nearest are told of in ``trace``; there are ``n_rows``.
    """

    incident_type: str | None
    incident_type_revision: str | None
    incident_type_title: str
    facts: OrderFacts
    match: Match
    trace: tuple[MatchTrace, ...]
    n_rows: int
    runsheet: Runsheet
    terms: OrderTerms


def assets(context: Context) -> tuple[PlacedAsset, ...]:
    """All assets with their sites, by site and name."""
    with context.store.reading() as unit:
        return unit.register.assets()


def try_order(context: Context, order: OrderToMatch, *, draft: str | None = None) -> Matched:
    """What an order would get today; nothing is kept. ``draft`` names a table to try as it is written."""
    bring_into_force(context)
    with context.store.reading() as unit:
        drafts = [current_revision(unit, draft, ("decision table",))] if draft else []
        return _match(unit, order, context.clock(), drafts=drafts, keep=MAX_TRACES)


def try_again(context: Context, order_id: str, *, draft: str | None = None) -> Matched:
    """What an order that came in would get today, from what it was matched on then; as :func:`try_order`."""
    bring_into_force(context)
    with context.store.reading() as unit:
        held = need_order(unit, order_id)
        drafts = [current_revision(unit, draft, ("decision table",))] if draft else []
        asked = OrderToMatch(asset=held.asset.code, symptom=held.symptom, priority=held.priority)
        return _match(unit, asked, held.logged_at, drafts=drafts, keep=MAX_TRACES, facts=held.matched_on)


def log_order(
    context: Context,
    person: Person,
    asked: OrderToMatch,
    report: str,
    *,
    at: datetime | None = None,
) -> Order:
    """Log an order; it gets its runsheet, frozen, from the revisions in force.

    Raises
    ------
    Conflict
        ``matching.never_together`` when rows ask for two documents that must not be on one order;
        leave one of them out.
    """
    bring_into_force(context)
    when = at or context.clock()

    def prepare(unit: Unit) -> tuple[PlacedAsset, Matched, Related]:
        found = need_asset(unit, asked.asset)
        matched = _match(unit, asked, when, report=report)
        if matched.match.refused:
            raise Conflict(
                "matching.never_together",
                " ".join(r.sentence for r in matched.match.refused),
                where="New order",
                hint="Leave one of each pair out, and have the rows put right.",
            )
        return found, matched, related_symptoms(unit)

    def write(unit: Unit, prepared: tuple[PlacedAsset, Matched, Related]) -> Order:
        found, matched, related = prepared
        order = Order(
            id=f"WO-{unit.next_number('WO'):04d}",
            asset=found.asset,
            site=found.site,
            symptom=asked.symptom,
            report=report.strip(),
            incident_type=matched.incident_type,
            incident_type_revision=matched.incident_type_revision,
            runsheet=matched.runsheet,
            trace=matched.trace,
            logged_at=when,
            logged_by=person.id,
            state="Logged",
            matched_on=matched.facts,
            terms=matched.terms,
            priority=asked.priority,
        )
        unit.orders.add(order)
        note_returns(unit, found.asset.code, related)
        return order

    return context.store.change(prepare, write, on=_what_decides)


def _what_decides(unit: Unit) -> object:
    """A mark that is another one when something is released or withdrawn, or a list or place changes."""
    return (unit.documents.last_act(), unit.changes.last("list"))


def plan_visit(
    context: Context, person: Person, order_id: str, technician: str, planned_for: datetime
) -> Order:
    """Give an order to a technician for a time; also after a return was needed."""
    with context.store.writing() as unit:
        order = need_order(unit, order_id)
        if not can_be_planned(order.state):
            raise Conflict(
                "orders.state", f"it is {order.state.lower()} and cannot be planned now.", where=order_id
            )
        goes = unit.people.get(technician)
        if goes is None or goes.role != "technician" or goes.removed_at is not None:
            raise InvalidInput("orders.technician", f"there is no technician {technician}.", where=order_id)
        planned = replace(order, technician=technician, planned_for=planned_for, state="Planned")
        unit.orders.save(planned)
        keep_order_change(context, unit, person, "planned", order, planned)
        return planned


def cancel_order(context: Context, person: Person, order_id: str, reason: str) -> Order:
    """Cancel an order on which nobody is at work, with a reason."""
    if not reason.strip():
        raise InvalidInput("orders.reason", "say why it is cancelled.", where=order_id)
    with context.store.writing() as unit:
        order = need_order(unit, order_id)
        if not can_be_cancelled(order.state):
            raise Conflict(
                "orders.state", f"it is {order.state.lower()} and cannot be cancelled now.", where=order_id
            )
        cancelled = replace(order, state="Cancelled", review_note=reason.strip())
        unit.orders.save(cancelled)
        keep_order_change(context, unit, person, "cancelled", order, cancelled)
        note_returns(unit, order.asset.code, related_symptoms(unit))
        return cancelled


def need_order(unit: Unit, order_id: str) -> Order:
    """The order, or an error that names it."""
    order = unit.orders.get(order_id)
    if order is None:
        raise NotFound("orders.unknown", f"there is no order {order_id}.")
    return order


def need_asset(unit: Unit, asset_id: str) -> PlacedAsset:
    """The asset with its site, or an error that names it."""
    asset = unit.register.asset(asset_id)
    if asset is None:
        raise NotFound("assets.unknown", f"there is no asset {asset_id}.", hint="Choose one from the list.")
    return asset


def _match(
    unit: Unit,
    asked: OrderToMatch,
    now: datetime,
    *,
    report: str = "",
    drafts: Sequence[Revision] = (),
    keep: int = KEPT_TRACES,
    facts: OrderFacts | None = None,
) -> Matched:
    placed = need_asset(unit, asked.asset)
    ready = guidance_in_force(unit, instead=drafts)
    _check(asked, ready)
    as_now = facts_now(
        unit,
        placed,
        asked.symptom,
        at=now,
        day=asked.day,
        incident_type=asked.incident_type,
        priority=asked.priority,
    )
    facts = facts or as_now
    match = match_order(ready.guidance, facts, without=asked.without)
    incident = unit.documents.released(match.incident_type) if match.incident_type else None
    content = ready.guidance.incident_types.get(match.incident_type or "")
    taken = [ready.revisions[t.document] for t in match.taken]
    traced = facts if facts.incident_type else replace(facts, incident_type=match.incident_type or "")
    return Matched(
        incident_type=match.incident_type,
        incident_type_revision=incident.letter if incident else None,
        incident_type_title=content.title if content else "",
        facts=facts,
        match=match,
        trace=trace_rows(ready.guidance, traced, keep=keep),
        n_rows=len(ready.guidance.rows),
        runsheet=compose(
            unit,
            taken,
            placed.asset,
            facts_by_name(as_now, placed, report=report),
            after=ready.guidance.after,
        ),
        terms=terms_of(content) if content else OrderTerms(),
    )


def _check(asked: OrderToMatch, ready: Readied) -> None:
    if asked.symptom not in {s.code for s in ready.lists.symptoms}:
        raise InvalidInput(
            "orders.symptom", f"there is no symptom {asked.symptom}.", hint="Choose one from the list."
        )
    if asked.incident_type and asked.incident_type not in ready.guidance.incident_types:
        raise InvalidInput(
            "orders.incident_type",
            f"no incident type {asked.incident_type} is in force.",
            hint="Choose one from the list.",
        )
    if asked.priority and asked.priority not in PRIORITIES:
        raise InvalidInput(
            "orders.priority",
            f"there is no priority {asked.priority}.",
            hint=f"Say one of {', '.join(PRIORITIES)}.",
        )


def compose(
    unit: Unit,
    taken: Sequence[Revision],
    asset: Asset,
    facts: Mapping[str, Answer],
    *,
    after: Sequence[After],
    library: Library | None = None,
) -> Runsheet:
    """The runsheet of these documents for an asset; standard steps and forms as in force unless given."""
    lists = unit.catalogues.get()
    sheet = compile_runsheet(
        (
            (Source(document=r.document, revision=r.letter, title=r.content.title), r.content)
            for r in taken
            if isinstance(r.content, Plan)
        ),
        library=library or library_in_force(unit),
        facts=facts,
        last=unit.summaries.last_answers(asset.code),
        names=fact_names(lists),
        after=earlier_of(after),
    )
    return replace(sheet, links=tuple(dict.fromkeys((*sheet.links, *_links_at_hand(lists, sheet, asset)))))


def _links_at_hand(lists: Catalogue, sheet: Runsheet, asset: Asset) -> Iterator[Link]:
    """Documents of the asset's class and those above it, and of the parts that steps take."""
    classes = {c.code: c for c in lists.equipment}
    for code in EquipmentTree.of(lists.equipment).lineage(asset.equipment):
        yield from classes[code].links if code in classes else ()
    taken = {need.part for line in sheet.lines for need in line.parts}
    for part in lists.parts:
        yield from part.links if part.code in taken else ()
