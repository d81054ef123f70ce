"""What is plainly wrong with a decision table, each problem beside its cell."""

from __future__ import annotations

from dataclasses import replace

import pytest

from reedling.core.guidance.catalogue import Catalogue, Contract, EquipmentClass, EquipmentTree, Meter, Model
from reedling.core.guidance.decision_tables import (
    After,
    Cell,
    Column,
    DecisionTable,
    NeverTogether,
    Row,
    earlier_of,
    ring_of,
)
from reedling.core.matching.table_soundness import Known, table_problems

LISTS = Catalogue(
    equipment=(EquipmentClass(code="rake", name="Rake"),),
    models=(Model(code="WR2", name="WR 2", equipment="rake"),),
    contracts=(Contract(code="full", name="Full care"),),
    meters=(Meter(code="hours", name="Hours run", unit="h"),),
)
KNOWN = Known(
    documents={"WP-1": "in force", "WP-2": "on its way", "WP-3": "withdrawn"},
    incident_types={"IT-1": "Rake call"},
)
COLUMNS = (
    Column(kind="equipment"),
    Column(kind="model"),
    Column(kind="day"),
    Column(kind="meter", meter="hours"),
    Column(kind="priority"),
)


def table(cells: dict[str, Cell] | None = None, documents: tuple[str, ...] = ("WP-1",)) -> DecisionTable:
    return DecisionTable(
        title="Plans", columns=COLUMNS, rows=(Row(id="a", cells=cells or {}, documents=documents),)
    )


def between(*values: float | str) -> Cell:
    return Cell(operator="between", values=values)


def told(made: DecisionTable) -> list[tuple[str, str]]:
    return [(p.code, p.message) for p in table_problems(made, LISTS, KNOWN)]


def test_a_sound_table_has_no_problem() -> None:
    cells = {
        "equipment": Cell(values=("rake",)),
        "model": Cell(operator="not", values=("WR2",)),
        "day": between("11-01", "02-28"),
        "meter hours": between(1000.0, 4000.0),
        "priority": Cell(operator="above", values=("This week",)),
    }
    assert told(table(cells)) == []


@pytest.mark.parametrize(
    ("cells", "problem"),
    [
        (
            {"model": Cell(values=("WR9",))},
            ("tables.value", "Row 1, model: there is no model WR9."),
        ),
        (
            {"model": Cell(operator="above", values=("WR2",))},
            ("tables.operator", "Row 1, model: “above” means nothing here."),
        ),
        (
            {"priority": Cell(values=("Soonish",))},
            ("tables.value", "Row 1, priority: there is no priority Soonish."),
        ),
        (
            {"meter hours": Cell(values=("many",))},
            ("tables.value", "Row 1, hours run, h: 'many' is not a number."),
        ),
        (
            {"meter hours": between(4000.0, 1000.0)},
            ("tables.backwards", "Row 1, hours run, h: the range runs backwards."),
        ),
        (
            {"meter hours": between(4000.0)},
            ("tables.bounds", "Row 1, hours run, h: between takes 2, got 1."),
        ),
        (
            {"equipment": Cell(values=())},
            ("tables.bounds", "Row 1, equipment: is takes at least one, got 0."),
        ),
        (
            {"day": between("2026-11-01", "02-28")},
            ("tables.year", "Row 1, day: days with and without a year do not mix."),
        ),
        (
            {"day": Cell(operator="above", values=("11-01",))},
            ("tables.year", "Row 1, day: days with and without a year do not mix."),
        ),
        (
            {"day": between("2027-01-01", "2026-01-01")},
            ("tables.backwards", "Row 1, day: the range runs backwards."),
        ),
        (
            {"customer": Cell(values=("somebody",))},
            ("tables.cell", "Row 1 has a cell for customer, which is no column."),
        ),
    ],
)
def test_each_wrong_cell_is_named_with_its_row_and_column(
    cells: dict[str, Cell], problem: tuple[str, str]
) -> None:
    assert told(table(cells)) == [problem]


def test_a_day_that_no_year_has_is_a_wrong_value() -> None:
    (code, message) = told(table({"day": Cell(values=("02-31",))}))[0]
    assert code == "tables.value"
    assert message.startswith("Row 1, day: day")


def test_rows_name_documents_that_are_in_force() -> None:
    assert told(table(documents=())) == [("tables.no_document", "Row 1 names no document.")]
    assert told(table(documents=("WP-2", "WP-3", "WP-9"))) == [
        ("tables.not_released", "Row 1 names WP-2, of which nothing is in force yet."),
        ("tables.withdrawn", "Row 1 names WP-3, which is withdrawn."),
        ("tables.document", "Row 1 names WP-9, and there is no such document."),
    ]


def test_a_document_named_wrongly_by_many_rows_is_one_problem() -> None:
    many = tuple(Row(id=f"r{n}", documents=("WP-9",)) for n in range(2_000))
    assert told(replace(table(), rows=many)) == [
        ("tables.document", "Rows 1, 2, 3 and 1997 more name WP-9, and there is no such document.")
    ]


def test_the_whole_is_looked_at_too() -> None:
    empty = DecisionTable(title=" ", columns=(*COLUMNS, COLUMNS[0], Column(kind="meter", meter="starts")))
    assert [code for code, _ in told(empty)] == [
        "tables.title",
        "tables.empty",
        "tables.column_twice",
        "tables.meter",
    ]
    twice = replace(table(), rows=(*table().rows, *table().rows))
    assert told(twice) == [("tables.row_identity", "The identity a is used by 2 rows.")]
    itself = replace(table(), never_together=(NeverTogether(first="WP-1", second="WP-1"),))
    assert told(itself) == [("tables.pair", "WP-1 cannot be kept from itself.")]


def test_a_ring_is_named_all_the_way_round() -> None:
    after = tuple(After(document=d, earlier=e) for d, e in (("A", "B"), ("B", "C"), ("C", "A"), ("D", "A")))
    ring = ring_of(after)
    earlier = earlier_of(after)
    assert set(ring) == {"A", "B", "C"}
    assert all(ring[(n + 1) % 3] in earlier[d] for n, d in enumerate(ring))
    assert ring_of(after[:2]) == ()


def test_a_loop_in_the_tree_is_found_and_ends_every_walk() -> None:
    classes = tuple(
        EquipmentClass(code=c, name=c, parent=p) for c, p in (("a", "b"), ("b", "c"), ("c", "a"), ("d", "a"))
    )
    tree = EquipmentTree.of(classes)
    assert set(tree.loop()) == {"a", "b", "c"}
    assert list(tree.lineage("d")) == ["d", "a", "b", "c"]
    assert EquipmentTree.of(classes[:2]).loop() == ()
