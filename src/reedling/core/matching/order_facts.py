"""What is known of an order when guidance is matched to it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date

from reedling.core.guidance.decision_tables import Column
from reedling.core.logic.conditions import Answer
from reedling.core.register.assets import PlacedAsset


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderFacts:
    """Codes of the order's equipment, model and symptom, and what else columns may ask for.

    What is empty is not known, and what is not known meets no cell but "any": not even "not".
    ``day`` is the day the order came in, ``meters`` what each meter of the asset read last,
    ``priority`` one of ``PRIORITIES``.
    """

    equipment: str = ""
    model: str = ""
    symptom: str = ""
    incident_type: str = ""
    customer: str = ""
    tags: tuple[str, ...] = ()
    contract: str = ""
    warranty: bool | None = None
    day: date | None = None
    meters: Mapping[str, float] = field(default_factory=dict)
    priority: str = ""


def facts_of(
    placed: PlacedAsset,
    symptom: str,
    *,
    day: date,
    meters: Mapping[str, float],
    incident_type: str = "",
    priority: str = "",
) -> OrderFacts:
    """What is known of an order for this asset on a day; ``meters`` give what each meter read last."""
    asset, site = placed.asset, placed.site
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


def facts_by_name(facts: OrderFacts, placed: PlacedAsset, *, report: str = "") -> dict[str, Answer]:
    """The same facts, and what else is recorded of the asset, by the names guidance asks for them with.

    The names are those of :mod:`reedling.core.guidance.facts`. What is empty is not known and left out.
    """
    asset, site = placed.asset, placed.site
    named: dict[str, Answer] = {
        "asset.equipment": facts.equipment,
        "asset.model": facts.model,
        "asset.name": asset.name,
        "asset.serial": asset.serial,
        "site.name": site.name,
        "site.district": site.district,
        "site.contract": facts.contract,
        "customer.name": facts.customer,
        "order.symptom": facts.symptom,
        "order.priority": facts.priority,
        "order.report": report.strip(),
    }
    named |= {f"asset.{code}": value for code, value in asset.fields.items()}
    named |= {f"meter.{code}": value for code, value in facts.meters.items()}
    return {name: value for name, value in named.items() if value != ""}


FactValue = str | float | date | tuple[str, ...] | None
"""The value of one column: nothing when it is not known."""


def fact_of(facts: OrderFacts, column: Column) -> FactValue:
    """What the order has in a column. Site tags are always known: a site may have none."""
    match column.kind:
        case "equipment":
            return facts.equipment or None
        case "model":
            return facts.model or None
        case "incident type":
            return facts.incident_type or None
        case "symptom":
            return facts.symptom or None
        case "customer":
            return facts.customer or None
        case "site tag":
            return facts.tags
        case "contract":
            return facts.contract or None
        case "warranty":
            return None if facts.warranty is None else "yes" if facts.warranty else "no"
        case "day":
            return facts.day
        case "meter":
            return facts.meters.get(column.meter)
        case "priority":
            return facts.priority or None
