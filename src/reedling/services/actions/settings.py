"""What is set for everybody."""

from __future__ import annotations

from dataclasses import dataclass

from reedling.core.orders.order_card import (
    MOST_FIRST,
    MOST_FURTHER,
    MOST_LABEL,
    OrderCard,
    check_card,
    own_label,
)
from reedling.core.orders.orders import heading_of
from reedling.core.orders.taking_along import TakingAlong, check_rule
from reedling.core.people import Person
from reedling.errors import Conflict
from reedling.exchange.content import dump_value
from reedling.services.context import Context
from reedling.services.shared.kept_changes import keep_change
from reedling.services.shared.needed import need_order
from reedling.services.shared.order_cards import CardShown, card_shown, facts_for_cards
from reedling.services.shared.tags import tag_of
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class TakingAlongSet:
    """Which orders a device takes along, as it is set, and the tag that guards it."""

    rule: TakingAlong
    etag: str


def taking_along(context: Context) -> TakingAlongSet:
    """Which orders a device takes along."""
    with context.reading() as unit:
        return _taking_along_set(unit.settings.taking_along())


@dataclass(frozen=True, slots=True, kw_only=True)
class CardFact:
    """A fact that a card may show, with the label it has where the card gives none."""

    name: str
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CardSettings:
    """The card of orders in Pocket as it is set, the facts it may show, and how many fit."""

    card: OrderCard
    facts: tuple[CardFact, ...]
    etag: str
    most_first: int = MOST_FIRST
    most_further: int = MOST_FURTHER
    most_label: int = MOST_LABEL


def order_card(context: Context) -> CardSettings:
    """What the card of an order shows in Pocket."""
    with context.reading() as unit:
        return _card_settings(unit, unit.settings.order_card())


def set_order_card(context: Context, person: Person, card: OrderCard, etag: str) -> CardSettings:
    """Set what the card of an order shows in Pocket; who changed it is kept.

    Raises
    ------
    InvalidInput
        As :func:`reedling.core.orders.order_card.check_card`.
    Conflict
        ``settings.stale`` when somebody set it since the tag was read.
    """
    with context.writing() as unit:
        check_card(card, facts_for_cards(unit))
        before = unit.settings.order_card()
        _guard(_card_settings(unit, before).etag, etag, "The order's card")
        unit.settings.set_order_card(card)
        keep_change(
            context,
            unit,
            person,
            "setting",
            "order card",
            "changed",
            before=dump_value(before),
            after=dump_value(card),
        )
        return _card_settings(unit, card)


def preview_order_card(context: Context, card: OrderCard, order_id: str) -> CardShown:
    """What a card would show of an order; nothing is kept.

    Raises
    ------
    InvalidInput
        As :func:`set_order_card`.
    NotFound
        ``orders.unknown``.
    """
    with context.reading() as unit:
        facts = facts_for_cards(unit)
        check_card(card, facts)
        return card_shown(unit, card, heading_of(need_order(unit, order_id)), facts, context.clock())


def _card_settings(unit: Unit, card: OrderCard) -> CardSettings:
    facts = facts_for_cards(unit).values()
    shown = tuple(CardFact(name=f.name, label=own_label(f)) for f in facts)
    return CardSettings(card=card, facts=shown, etag=tag_of("order-card", dump_value(card)))


def _taking_along_set(rule: TakingAlong) -> TakingAlongSet:
    return TakingAlongSet(rule=rule, etag=tag_of("taking-along", dump_value(rule)))


def _guard(now: str, etag: str, what: str) -> None:
    if etag != now:
        raise Conflict(
            "settings.stale",
            "somebody set this otherwise since you read it.",
            where=what,
            hint="Look at it as it is now, then set yours again.",
        )


def set_taking_along(context: Context, person: Person, rule: TakingAlong, etag: str) -> TakingAlongSet:
    """Set which orders a device takes along; who changed it is kept.

    Raises
    ------
    InvalidInput
        ``taking_along.days``.
    Conflict
        ``settings.stale`` when somebody set it since the tag was read.
    """
    check_rule(rule)
    with context.writing() as unit:
        before = unit.settings.taking_along()
        _guard(_taking_along_set(before).etag, etag, "What phones take along")
        unit.settings.set_taking_along(rule)
        keep_change(
            context,
            unit,
            person,
            "setting",
            "taking along",
            "changed",
            before=dump_value(before),
            after=dump_value(rule),
        )
        return _taking_along_set(rule)
