"""What decides which documents an order gets, read from the store, and the facts it decides on."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import date, datetime

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.decision_tables import DecisionTable
from reedling.core.guidance.documents import Revision
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import SharedPlans, references
from reedling.core.guidance.revisions import PLAN_KINDS
from reedling.core.matching.applicability import Guidance, guidance_of
from reedling.core.matching.domain import Surroundings
from reedling.core.matching.order_facts import OrderFacts, facts_of
from reedling.core.orders.orders import OrderInShort
from reedling.core.register.assets import PlacedAsset, day_on_site, meters_at
from reedling.services.shared.uses import shared_among
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class Readied:
    """Guidance made ready, with the revisions in force that it may put on an order, what these refer to, and the lists."""

    guidance: Guidance
    revisions: Mapping[str, Revision]
    shared: SharedPlans
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
    return Readied(guidance=guidance, revisions=released, shared=shared_among(released.values()), lists=lists)


def facts_now(
    unit: Unit,
    placed: PlacedAsset,
    symptom: str,
    *,
    at: datetime,
    day: date | None = None,
    incident_type: str = "",
    priority: str = "",
) -> OrderFacts:
    """What is known of an order for this asset as it stands; the day is the site's at ``at`` unless given."""
    return facts_of(
        placed,
        symptom,
        day=day or day_on_site(placed.site, at),
        meters={m: s.value for m, s in unit.register.meters(placed.asset.code).items()},
        incident_type=incident_type,
        priority=priority,
    )


def facts_of_orders(unit: Unit, orders: Iterable[OrderInShort]) -> dict[str, OrderFacts]:
    """What each order was matched on; where that was not kept, what is known of its asset."""
    assets = {a.asset.code: a for a in unit.register.assets()}
    meters = unit.register.all_meters()
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
    """The same facts with the incident type that each order was given."""
    return {o.id: o.typed or replace(facts[o.id], incident_type=o.incident_type or "") for o in orders}


def surroundings(unit: Unit) -> Surroundings:
    """Kinds of asset, customers and sets of tags that there are."""
    placed = unit.register.assets()
    return Surroundings(
        kinds=frozenset((p.asset.equipment, p.asset.model) for p in placed),
        customers=frozenset(p.site.customer for p in placed if p.site.customer),
        tag_sets=frozenset(p.site.tags for p in placed),
    )
