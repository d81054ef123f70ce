"""What is known of an order when guidance is matched to it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date

from reedling.core.guidance.decision_tables import Column


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


Fact = str | float | date | tuple[str, ...] | None
"""The value of one column: nothing when it is not known."""


def fact_of(facts: OrderFacts, column: Column) -> Fact:
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
