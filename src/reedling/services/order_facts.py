"""What is known of an order when it is issued: facts for conditions, pre-filled answers and repeats."""

from __future__ import annotations

from reedling.core.logic.conditions import Answer
from reedling.store.records import Asset
from reedling.store.unit import Unit


def order_facts(
    unit: Unit, asset: Asset, symptom: str, report: str = "", priority: str = ""
) -> dict[str, Answer]:
    """The facts of an order for this asset, by the names guidance asks for them with."""
    facts: dict[str, Answer] = {
        "asset.equipment": asset.equipment,
        "asset.model": asset.model,
        "asset.name": asset.name,
        "asset.serial": asset.serial,
        "site.name": asset.site.name,
        "site.district": asset.site.district,
        "site.contract": asset.site.contract,
        "customer.name": asset.site.customer,
        "order.symptom": symptom,
        "order.priority": priority,
        "order.report": report.strip(),
    }
    facts |= {f"asset.{code}": value for code, value in asset.fields.items()}
    facts |= {f"meter.{m}": state.value for m, state in unit.places.meters(asset.id).items()}
    return {name: value for name, value in facts.items() if value != ""}
