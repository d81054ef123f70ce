"""What the card of an order shows, against looking each fact up by hand."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.guidance.facts import Fact, fact_text
from reedling.core.guidance.questions import Option
from reedling.core.logic.units import Quantity
from reedling.core.orders.order_card import (
    MOST_FIRST,
    MOST_FURTHER,
    MOST_LABEL,
    CardField,
    CardLine,
    OrderCard,
    card_lines,
    check_card,
    own_label,
)
from reedling.errors import InvalidInput

FACTS = {
    fact.name: fact
    for fact in (
        Fact(name="site.name", label="the site's name"),
        Fact(name="asset.model", label="the asset's model", options=(Option(id="WR3", label="Rake, three"),)),
        Fact(name="meter.hours", label="last run hours", number=True, unit="h"),
        Fact(name="asset.fenced", label="the asset's fence"),
    )
}
NAMES = st.sampled_from([*FACTS, "asset.gone"])
FIELDS = st.builds(CardField, fact=NAMES, label=st.sampled_from(["", "Mine"]))
VALUES = st.dictionaries(NAMES, st.sampled_from(["WR3", "Lode", 12.5, True, ""]))


@given(st.lists(FIELDS, max_size=6), VALUES)
def test_each_field_that_is_known_has_its_line_in_the_order_of_the_fields(
    fields: list[CardField], values: dict[str, str | float | bool]
) -> None:
    expected = []
    for field in fields:
        if field.fact in FACTS and field.fact in values and values[field.fact] != "":
            fact = FACTS[field.fact]
            expected.append(
                CardLine(label=field.label or own_label(fact), text=fact_text(fact, values[field.fact]))
            )
    assert card_lines(fields, FACTS, values) == tuple(expected)


@pytest.mark.parametrize(
    ("name", "value", "text"),
    [
        ("asset.model", "WR3", "Rake, three"),
        ("asset.model", "WR9", "WR9"),
        ("asset.model", ("WR3", "WR9"), "Rake, three, WR9"),
        ("meter.hours", 1200.0, "1200 h"),
        ("meter.hours", -0.5, "−0.5 h"),
        ("meter.hours", Quantity(value=3.0, unit="min"), "3 min"),
        ("asset.fenced", True, "yes"),
        ("asset.fenced", False, "no"),
        ("site.name", "Farrow Lode", "Farrow Lode"),
    ],
)
def test_a_fact_is_written_as_a_person_would(
    name: str, value: str | float | bool | tuple[str, ...] | Quantity, text: str
) -> None:
    assert fact_text(FACTS[name], value) == text


def test_a_fact_is_called_by_what_it_is_or_by_whose_name_it_is() -> None:
    assert [own_label(fact) for fact in FACTS.values()] == ["Site", "Model", "Last run hours", "Fence"]


def fields(n: int) -> tuple[CardField, ...]:
    return tuple(CardField(fact=f"f{i}") for i in range(n))


@pytest.mark.parametrize(
    ("card", "code", "where"),
    [
        (OrderCard(first=fields(MOST_FIRST + 1)), "order_card.too_many", "In the list"),
        (OrderCard(further=fields(MOST_FURTHER + 1)), "order_card.too_many", "On the order's page"),
        (OrderCard(first=(CardField(fact="gone"),)), "order_card.fact", "In the list"),
        (OrderCard(further=fields(1) * 2), "order_card.twice", "On the order's page"),
        (
            OrderCard(further=(CardField(fact="f1", label="x" * (MOST_LABEL + 1)),)),
            "order_card.label",
            "On the order's page",
        ),
    ],
)
def test_a_card_that_cannot_be_shown_is_refused_where_it_is_wrong(
    card: OrderCard, code: str, where: str
) -> None:
    known = {f"f{i}" for i in range(MOST_FURTHER + 1)} | {field.fact for field in OrderCard().further}
    with pytest.raises(InvalidInput) as refusal:
        check_card(card, known)
    assert (refusal.value.code, refusal.value.where) == (code, where)
    assert refusal.value.hint
    check_card(OrderCard(first=fields(MOST_FIRST), further=fields(MOST_FURTHER)), known)
    check_card(OrderCard(), known)
