"""What decides which documents an order gets, read from the store, and the facts it decides on."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import date, datetime
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.decision_tables import DecisionTable
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import references
from reedling.core.guidance.revisions import PLAN_KINDS
from reedling.core.matching.applicability import Guidance, guidance_of
from reedling.core.matching.domain import Surroundings
from reedling.core.matching.order_facts import OrderFacts
from reedling.store.records import Asset, MeterState, OrderInShort, Revision, Site
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class Readied:
    """Guidance made ready, with the revisions in force that it may put on an order, and the lists."""

    guidance: Guidance
    revisions: Mapping[str, Revision]
    lists: Catalogue


def guidance_in_force(unit: Unit, *, instead: Iterable[Revision] = ()) -> Readied:
    """Everything in force that decides; ``instead`` are drafts of tables to take in place of theirs."""
    drafts = {r.document: r for r in instead}
    tables = {r.document: r for r in unit.documents.all_released("decision table")} | drafts
    released = {r.document: r for kind in PLAN_KINDS for r in unit.documents.all_released(kind)}
    plans = {d: r.content for d, r in released.items() if isinstance(r.content, Plan)}
    types = {
        r.document: r.content
        for r in unit.documents.all_released("incident type")
        if isinstance(r.content, IncidentType)
    }
    lists = unit.catalogues.get()
    guidance = guidance_of(
        ((d, r.letter, r.content) for d, r in sorted(tables.items()) if isinstance(r.content, DecisionTable)),
        ((d, released[d].letter, plan.applies_when) for d, plan in sorted(plans.items())),
        lists=lists,
        titles={d: plan.title for d, plan in plans.items()},
        incident_types=types,
        parts_of={d: tuple(references(plan)) for d, plan in plans.items()},
    )
    return Readied(guidance=guidance, revisions=released, lists=lists)


def facts_of(
    asset: Asset,
    symptom: str,
    *,
    day: date,
    meters: Mapping[str, float],
    incident_type: str = "",
    priority: str = "",
) -> OrderFacts:
    """What is known of an order for this asset on a day."""
    site = asset.site
    return OrderFacts(
        equipment=asset.equipment,
        model=asset.model,
        symptom=symptom,
        incident_type=incident_type,
        customer=site.customer,
        tags=site.tags,
        contract=site.contract,
        warranty=None if asset.warranty_until is None else day <= asset.warranty_until,
        day=day,
        meters=meters,
        priority=priority,
    )


def day_on_site(site: Site, at: datetime) -> date:
    """The day it is at a site at an instant."""
    try:
        return at.astimezone(ZoneInfo(site.zone)).date()
    except (ZoneInfoNotFoundError, ValueError):
        return at.date()


def facts_of_orders(unit: Unit, orders: Iterable[OrderInShort]) -> dict[str, OrderFacts]:
    """What each order was matched on; where that was not kept, what is known of its asset."""
    assets = {a.id: a for a in unit.places.assets()}
    meters = unit.places.all_meters()
    return {
        o.id: o.matched_on
        or facts_of(
            assets[o.asset],
            o.symptom,
            day=day_on_site(assets[o.asset].site, o.logged_at),
            meters=meters_at(meters.get(o.asset, ()), o.logged_at),
            priority=o.priority,
        )
        for o in orders
    }


def with_type(facts: Mapping[str, OrderFacts], orders: Iterable[OrderInShort]) -> dict[str, OrderFacts]:
    """The same facts with the incident type each order came to have."""
    return {o.id: o.typed or replace(facts[o.id], incident_type=o.incident_type or "") for o in orders}


def meters_at(states: tuple[MeterState, ...], at: datetime) -> dict[str, float]:
    """What each meter read last by a time, from its states, oldest first."""
    n = bisect_right([s.at for s in states], at)
    return {s.meter: s.value for s in states[:n]}


def surroundings(unit: Unit) -> Surroundings:
    """Kinds of asset, customers and sets of tags that there are."""
    assets = unit.places.assets()
    return Surroundings(
        kinds=frozenset((a.equipment, a.model) for a in assets),
        customers=frozenset(a.site.customer for a in assets if a.site.customer),
        tag_sets=frozenset(tuple(a.site.tags) for a in assets),
    )
