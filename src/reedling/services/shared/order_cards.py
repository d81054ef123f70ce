"""What the card of an order shows in Pocket."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from reedling.core.guidance.facts import Fact, known_facts
from reedling.core.logic.conditions import Answer
from reedling.core.matching.order_facts import facts_by_name
from reedling.core.orders.order_card import CardLine, OrderCard, card_lines
from reedling.core.orders.orders import OrderHeading
from reedling.core.register.assets import PlacedAsset
from reedling.services.shared.guidance_in_force import facts_now
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class CardShown:
    """The lines of an order's card: in the list of orders, and on the order's page."""

    first: tuple[CardLine, ...]
    further: tuple[CardLine, ...]


def facts_for_cards(unit: Unit) -> Mapping[str, Fact]:
    """The facts that a card may show, by name, in the order menus offer them."""
    return {fact.name: fact for fact in known_facts(unit.catalogues.get())}


def card_shown(
    unit: Unit, card: OrderCard, order: OrderHeading, facts: Mapping[str, Fact], at: datetime
) -> CardShown:
    """What the card shows of an order, as its asset and site stand in the register."""
    placed = PlacedAsset(asset=order.asset, site=order.site)
    known = facts_now(unit, placed, order.symptom, at=at, priority=order.priority)
    values: dict[str, Answer] = facts_by_name(known, placed, report=order.report)
    values |= {f"order.{field}": value for field, value in order.fields.items()}
    return CardShown(
        first=card_lines(card.first, facts, values), further=card_lines(card.further, facts, values)
    )
