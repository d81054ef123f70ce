"""Try an order, log it with its frozen runsheet, plan its visit, cancel it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from reedling.core.guidance.catalogue import Catalogue, EquipmentTree
from reedling.core.guidance.facts import fact_names
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import AppliesWhen, Link, Plan
from reedling.core.matching.applicability import (
    Candidate,
    MatchTrace,
    OrderFacts,
    choose_incident_type,
    match_plans,
)
from reedling.core.runsheet.lines import Runsheet, Source, compile_runsheet
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.exchange.content import Content
from reedling.services.context import Context
from reedling.services.order_facts import last_answers, order_facts
from reedling.services.release_revisions import bring_into_force
from reedling.services.shared_library import library_in_force
from reedling.store.records import Asset, Order, Person
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class Matched:
    """What an order gets: every plan with its reason, and the runsheet they compose."""

    incident_type: str | None
    incident_type_revision: str | None
    incident_type_title: str
    trace: tuple[MatchTrace, ...]
    runsheet: Runsheet


def assets(context: Context) -> tuple[Asset, ...]:
    """All assets, by site and name."""
    with context.store.reading() as unit:
        return unit.places.assets()


def try_order(context: Context, asset: str, symptom: str) -> Matched:
    """What an order for this asset with this symptom would get today. Nothing is kept."""
    bring_into_force(context)
    with context.store.reading() as unit:
        return _match(unit, need_asset(unit, asset), symptom)


def log_order(
    context: Context, person: Person, asset: str, symptom: str, report: str, *, at: datetime | None = None
) -> Order:
    """Log an order; it gets its runsheet, frozen, from the revisions in force."""
    bring_into_force(context)
    with context.store.writing() as unit:
        found = need_asset(unit, asset)
        matched = _match(unit, found, symptom, report)
        order = Order(
            id=f"WO-{unit.next_number('WO'):04d}",
            asset=found,
            symptom=symptom,
            report=report.strip(),
            incident_type=matched.incident_type,
            incident_type_revision=matched.incident_type_revision,
            runsheet=matched.runsheet,
            trace=matched.trace,
            logged_at=at or context.clock(),
            logged_by=person.id,
            state="Logged",
        )
        unit.orders.add(order)
        return order


def plan_visit(context: Context, order_id: str, technician: str, planned_for: datetime) -> Order:
    """Give an order to a technician for a time; also after a return was needed."""
    with context.store.writing() as unit:
        order = need_order(unit, order_id)
        if order.state not in ("Logged", "Planned", "Return needed"):
            raise Conflict(
                "orders.state", f"it is {order.state.lower()} and cannot be planned now.", where=order_id
            )
        person = unit.people.get(technician)
        if person is None or person.role != "technician":
            raise InvalidInput("orders.technician", f"there is no technician {technician}.", where=order_id)
        planned = replace(order, technician=technician, planned_for=planned_for, state="Planned")
        unit.orders.save(planned)
        return planned


def cancel_order(context: Context, order_id: str, reason: str) -> Order:
    """Cancel an order on which nobody is at work, with a reason."""
    if not reason.strip():
        raise InvalidInput("orders.reason", "say why it is cancelled.", where=order_id)
    with context.store.writing() as unit:
        order = need_order(unit, order_id)
        if order.state not in ("Logged", "Planned", "Return needed"):
            raise Conflict(
                "orders.state", f"it is {order.state.lower()} and cannot be cancelled now.", where=order_id
            )
        cancelled = replace(order, state="Cancelled", review_note=reason.strip())
        unit.orders.save(cancelled)
        return cancelled


def need_order(unit: Unit, order_id: str) -> Order:
    """The order, or an error that names it."""
    order = unit.orders.get(order_id)
    if order is None:
        raise NotFound("orders.unknown", f"there is no order {order_id}.")
    return order


def need_asset(unit: Unit, asset_id: str) -> Asset:
    """The asset, or an error that names it."""
    asset = unit.places.asset(asset_id)
    if asset is None:
        raise NotFound("assets.unknown", f"there is no asset {asset_id}.", hint="Choose one from the list.")
    return asset


def _match(unit: Unit, asset: Asset, symptom: str, report: str = "") -> Matched:
    lists = unit.catalogues.get()
    if symptom not in {s.code for s in lists.symptoms}:
        raise InvalidInput(
            "orders.symptom", f"there is no symptom {symptom}.", hint="Choose one from the list."
        )
    forms = [r for r in unit.documents.all_released("form") if applies_by_itself(r.content)]
    candidates = [
        Candidate(document=r.document, revision=r.letter, plan=r.content)
        for r in (*unit.documents.all_released("plan"), *forms)
        if isinstance(r.content, Plan)
    ]
    facts = OrderFacts(equipment=asset.equipment, model=asset.model, symptom=symptom)
    trace = match_plans(facts, candidates, lists)
    incidents = {
        r.document: (r.letter, r.content)
        for r in unit.documents.all_released("incident type")
        if isinstance(r.content, IncidentType)
    }
    chosen = choose_incident_type(trace, {code: content.plans for code, (_, content) in incidents.items()})
    return Matched(
        incident_type=chosen,
        incident_type_revision=incidents[chosen][0] if chosen else None,
        incident_type_title=incidents[chosen][1].title if chosen else "",
        trace=trace,
        runsheet=_compose(unit, trace, candidates, asset, symptom, report),
    )


def applies_by_itself(content: Content) -> bool:
    """Whether a form says when it applies, and so comes with a class of assets and not with a plan."""
    return isinstance(content, Plan) and content.applies_when != AppliesWhen()


def _compose(
    unit: Unit,
    trace: Sequence[MatchTrace],
    candidates: Sequence[Candidate],
    asset: Asset,
    symptom: str,
    report: str,
) -> Runsheet:
    by_document = {c.document: c for c in candidates}
    taken = [by_document[t.document] for t in trace if t.matched]
    lists = unit.catalogues.get()
    sheet = compile_runsheet(
        ((Source(document=c.document, revision=c.revision, title=c.plan.title), c.plan) for c in taken),
        library=library_in_force(unit),
        facts=order_facts(unit, asset, symptom, report),
        last=last_answers(unit, asset.id),
        names=fact_names(lists),
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
