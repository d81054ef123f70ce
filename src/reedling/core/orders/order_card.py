"""What a technician reads of an order on the phone before anything else: which facts, in what order, under which words."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from reedling.core.guidance.facts import Fact, fact_text
from reedling.core.logic.conditions import Answer
from reedling.errors import InvalidInput

MOST_FIRST = 3
"""More lines than this and the list of a day's orders no longer fits a phone."""
MOST_FURTHER = 16
MOST_LABEL = 40


@dataclass(frozen=True, slots=True, kw_only=True)
class CardField:
    """A fact by its name; an empty ``label`` is the fact's own."""

    fact: str
    label: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderCard:
    """``first`` stands in the list of a technician's orders, ``further`` on the page of one order."""

    first: tuple[CardField, ...] = ()
    further: tuple[CardField, ...] = (
        CardField(fact="order.report", label="Reported"),
        CardField(fact="asset.model", label="Model"),
        CardField(fact="asset.serial", label="Serial"),
        CardField(fact="site.district", label="District"),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class CardLine:
    """One fact of one order as the phone shows it."""

    label: str
    text: str


def check_card(card: OrderCard, facts: Collection[str]) -> None:
    """Refuse a card that cannot be shown; ``facts`` are the names of those that are known.

    Raises
    ------
    InvalidInput
        ``order_card.fact`` for a fact that is not known, ``order_card.twice`` for one that stands twice in one place,
        ``order_card.too_many`` beyond :data:`MOST_FIRST` or :data:`MOST_FURTHER`, ``order_card.label`` for a label
        longer than :data:`MOST_LABEL` characters.
    """
    for where, fields, most in (
        ("In the list", card.first, MOST_FIRST),
        ("On the order's page", card.further, MOST_FURTHER),
    ):
        if len(fields) > most:
            raise InvalidInput(
                "order_card.too_many",
                f"{len(fields)} fields do not fit, {most} at most.",
                where=where,
                hint="Take some away.",
            )
        for n, field in enumerate(fields):
            if field.fact not in facts:
                raise InvalidInput(
                    "order_card.fact",
                    f"nothing is known by the name {field.fact}.",
                    where=where,
                    hint="It may have been taken off a list. Take the field away.",
                )
            if field.fact in {other.fact for other in fields[:n]}:
                raise InvalidInput(
                    "order_card.twice",
                    f"{field.fact} stands there twice.",
                    where=where,
                    hint="Take one away.",
                )
            if len(field.label) > MOST_LABEL:
                raise InvalidInput(
                    "order_card.label",
                    f"“{field.label}” has {len(field.label)} characters, {MOST_LABEL} at most.",
                    where=where,
                    hint="Shorten it.",
                )


def card_lines(
    fields: Sequence[CardField], facts: Mapping[str, Fact], values: Mapping[str, Answer]
) -> tuple[CardLine, ...]:
    """The lines of an order, in the order of the fields; what is not known of it has no line.

    ``facts`` gives each fact by its name; a field whose fact is no longer known is passed over.
    """
    return tuple(
        CardLine(label=field.label or own_label(facts[field.fact]), text=text)
        for field in fields
        if field.fact in facts
        and field.fact in values
        and (text := fact_text(facts[field.fact], values[field.fact]))
    )


def own_label(fact: Fact) -> str:
    """A fact's name on a card, where nothing else says whose it is.

    >>> own_label(Fact(name="asset.serial", label="the asset's serial"))
    'Serial'
    >>> own_label(Fact(name="site.name", label="the site's name"))
    'Site'
    """
    whose, _, what = fact.label.removeprefix("the ").rpartition("'s ")
    name = whose if what == "name" else what
    return f"{name[:1].upper()}{name[1:]}"
