"""The lookup of rows: equal to asking each row, and to a general-purpose rules engine."""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import replace
from datetime import date, timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from reedling.core.guidance.catalogue import EquipmentClass, EquipmentTree
from reedling.core.guidance.decision_tables import PRIORITIES, Cell, CellOperator, Column, DecisionTable, Row
from reedling.core.matching.cells import meets
from reedling.core.matching.lookup import look_up
from reedling.core.matching.order_facts import OrderFacts, fact_of
from tests.examples import examples
from tests.oracles.rules_engine import engine_of, inputs_of, rows_of

TREE = EquipmentTree.of(
    tuple(
        EquipmentClass(code=c, name=c, parent=p)
        for c, p in (
            ("plant", None),
            ("pump", "plant"),
            ("wet", "pump"),
            ("dry", "pump"),
            ("rake", "plant"),
        )
    )
)
CODED = {
    "equipment": (*TREE.classes, "unheard-of"),
    "model": ("A", "B", "C"),
    "incident type": ("I1", "I2"),
    "symptom": ("stalls", "trips", "leaks"),
    "customer": ("north", "south"),
    "contract": ("full", "part"),
    "warranty": ("yes", "no"),
}
COLUMNS = (*(Column(kind=k) for k in CODED), Column(kind="site tag"), Column(kind="day"))  # type: ignore[arg-type]
COLUMNS = (*COLUMNS, Column(kind="meter", meter="hours"), Column(kind="priority"))
START = date(2023, 12, 20)
DAYS = [START + timedelta(days=17 * n) for n in range(50)]
NUMBERS = [0.0, 10.0, 10.5, 20.0, 99.0]


def codes(values: tuple[str, ...]) -> st.SearchStrategy[Cell]:
    some = st.lists(st.sampled_from(values), min_size=1, max_size=2, unique=True).map(tuple)
    return st.builds(Cell, operator=st.sampled_from(["is", "not"]), values=some)


@st.composite
def bounds(draw: st.DrawFn, values: Sequence[float | str], *, yearly: bool = False) -> Cell:
    operator = draw(st.sampled_from(["is", "not", "between", *([] if yearly else ["above", "below"])]))
    n = 2 if operator == "between" else 1
    chosen = draw(st.lists(st.sampled_from(values), min_size=n, max_size=n))
    if n == 2 and not yearly:
        chosen = sorted(chosen, key=lambda v: PRIORITIES.index(v) if v in PRIORITIES else v)
    return Cell(operator=operator, values=tuple(chosen))  # type: ignore[arg-type]


def cell(column: Column) -> st.SearchStrategy[Cell]:
    if column.kind in CODED:
        return codes(CODED[column.kind])
    if column.kind == "site tag":
        return codes(("tidal", "unlit", "by boat"))
    if column.kind == "day":
        seasons = bounds([f"{d:%m-%d}" for d in DAYS] + ["02-29"], yearly=True)
        return seasons | bounds([d.isoformat() for d in DAYS])
    return bounds(list(PRIORITIES) if column.kind == "priority" else list(NUMBERS))


@st.composite
def rows(draw: st.DrawFn) -> dict[str, Cell]:
    chosen = draw(st.lists(st.sampled_from(COLUMNS), max_size=4, unique=True))
    return {c.key: draw(cell(c)) for c in chosen}


def orders() -> st.SearchStrategy[OrderFacts]:
    def one_of(*values: str) -> st.SearchStrategy[str]:
        return st.sampled_from(["", "none such", *values])

    return st.builds(
        OrderFacts,
        equipment=one_of(*CODED["equipment"]),
        model=one_of(*CODED["model"]),
        symptom=one_of(*CODED["symptom"]),
        incident_type=one_of(*CODED["incident type"]),
        customer=one_of(*CODED["customer"]),
        contract=one_of(*CODED["contract"]),
        tags=st.lists(st.sampled_from(["tidal", "unlit", "by boat", "far"]), unique=True).map(tuple),
        warranty=st.sampled_from([None, True, False]),
        day=st.none() | st.sampled_from(DAYS) | st.dates(date(2023, 12, 1), date(2026, 6, 1)),
        meters=st.dictionaries(
            st.just("hours"), st.sampled_from([*NUMBERS, -1.0, 10.2, 15.0, 500.0]), max_size=1
        ),
        priority=st.sampled_from(["", *PRIORITIES]),
    )


@pytest.mark.slow
@settings(max_examples=examples(300), deadline=None)
@given(st.lists(rows(), max_size=12), st.lists(orders(), min_size=1, max_size=6))
def test_looking_up_finds_what_asking_each_row_finds(
    table: list[dict[str, Cell]], tried: list[OrderFacts]
) -> None:
    lookup = look_up(table, COLUMNS, TREE)
    for facts in tried:
        asked = [
            n
            for n, cells in enumerate(table)
            if all(c.key not in cells or meets(cells[c.key], c, fact_of(facts, c), TREE) for c in COLUMNS)
        ]
        assert lookup.rows(facts) == asked


ENGINE_COLUMNS = tuple(
    c
    for c in COLUMNS
    # The engine has no sets, and no days that come every year; those are held by the test above.
    if c.kind not in ("site tag", "day")
)


def random_table(rng: random.Random, n_rows: int) -> DecisionTable:
    def made(column: Column) -> Cell:
        if column.kind in CODED:
            values = rng.sample(CODED[column.kind], rng.choice((1, 1, 2)))
            return Cell(operator=rng.choice(("is", "is", "not")), values=tuple(values))
        scale: list[float | str] = list(PRIORITIES) if column.kind == "priority" else list(NUMBERS)
        operator: CellOperator = rng.choice(("is", "not", "above", "below", "between"))
        n = 2 if operator == "between" else 1
        places = sorted(rng.sample(range(len(scale)), n))
        return Cell(operator=operator, values=tuple(scale[p] for p in places))

    return DecisionTable(
        title="t",
        columns=ENGINE_COLUMNS,
        rows=tuple(
            Row(id=f"r{n}", cells={c.key: made(c) for c in rng.sample(ENGINE_COLUMNS, rng.randint(0, 4))})
            for n in range(n_rows)
        ),
    )


def random_order(rng: random.Random) -> OrderFacts:
    def some(kind: str) -> str:
        return rng.choice(["", *CODED[kind]])

    return OrderFacts(
        equipment=some("equipment"),
        model=some("model"),
        symptom=some("symptom"),
        incident_type=some("incident type"),
        customer=some("customer"),
        contract=some("contract"),
        warranty=rng.choice([None, True, False]),
        meters=rng.choice([{}, {"hours": rng.choice([*NUMBERS, -1.0, 15.0, 500.0])}]),
        priority=rng.choice(["", *PRIORITIES]),
    )


@pytest.mark.parametrize("seed", range(8))
def test_a_general_rules_engine_finds_the_same_rows(seed: int) -> None:
    """zen-engine (a general-purpose decision-table engine, MIT) over the same tables, hit policy collect."""
    rng = random.Random(seed)
    table = random_table(rng, 40)
    engine = engine_of(table, TREE)
    lookup = look_up([r.cells for r in table.rows], table.columns, TREE)
    for _ in range(60):
        facts = random_order(rng)
        ours = [table.rows[n].id for n in lookup.rows(facts)]
        assert ours == rows_of(engine, inputs_of(facts, table.columns))


def test_the_last_day_of_a_season_counts_and_the_turn_of_the_year_is_inside() -> None:
    winter = Cell(operator="between", values=("11-01", "02-28"))
    lookup = look_up([{"day": winter}], COLUMNS, TREE)
    inside = [date(2026, 11, 1), date(2026, 12, 31), date(2027, 1, 1), date(2027, 2, 28)]
    outside = [date(2026, 10, 31), date(2024, 2, 29), date(2027, 3, 1)]
    assert [lookup.rows(OrderFacts(day=d)) for d in inside] == [[0]] * 4
    assert [lookup.rows(OrderFacts(day=d)) for d in outside] == [[]] * 3


def test_a_column_that_no_row_fills_in_is_not_asked_about() -> None:
    found = look_up([{}, {}], COLUMNS, TREE)
    assert (found.coded, found.scaled) == ((), ())
    assert look_up([{}, {}], COLUMNS, TREE).rows(OrderFacts()) == [0, 1]


def test_facts_are_not_changed_by_a_lookup() -> None:
    facts = OrderFacts(equipment="pump", tags=("tidal",))
    kept = replace(facts)
    look_up([{"equipment": Cell(values=("plant",))}], COLUMNS, TREE).rows(facts)
    assert facts == kept
