"""Cells as they are typed and pasted, and how they read back."""

from __future__ import annotations

import pytest
from hypothesis import given, settings

from reedling.core.guidance.catalogue import (
    Catalogue,
    Contract,
    EquipmentClass,
    Meter,
    Model,
    Symptom,
)
from reedling.core.guidance.decision_tables import Cell, Column, ColumnKind, DecisionTable, Row
from reedling.core.matching.cell_reading import Unreadable, read_cell, read_documents, vocabulary_of
from reedling.core.matching.cells import cell_words, naming_of
from reedling.core.matching.table_editing import (
    MAX_ROWS,
    AddColumn,
    AddRow,
    MoveRow,
    RemoveColumn,
    RemoveRows,
    SetTexts,
    WriteRow,
    edit_table,
)
from reedling.errors import InvalidInput, NotFound
from tests.core.matching.test_table_lookup import CODED, COLUMNS, cell
from tests.examples import examples

LISTS = Catalogue(
    equipment=(
        EquipmentClass(code="rake", name="Weed-screen rake"),
        EquipmentClass(code="pump", name="Pump"),
    ),
    models=(
        Model(code="WR2", name="WR 2", equipment="rake"),
        Model(code="WR3", name="WR 3", equipment="rake"),
    ),
    symptoms=(
        Symptom(code="stalls", label="Stalls", synonyms=("jams",)),
        Symptom(code="low-flow", label="Low flow, motor normal"),
        Symptom(code="either", label="Slow or noisy"),
    ),
    contracts=(Contract(code="full", name="Full care"),),
    meters=(Meter(code="hours", name="Hours run"),),
)
WORDS = vocabulary_of(
    LISTS,
    documents={"WP-1": "Rake stalls", "WP-2": "Clear, then grease", "IT-1": "Rake call"},
    incident_types=["IT-1"],
    customers=["North Growers"],
    tags=["tidal"],
)
NAMING = naming_of(LISTS, incident_types={"IT-1": "Rake call"})


def column(kind: ColumnKind) -> Column:
    return Column(kind=kind, meter="hours" if kind == "meter" else "")


def is_(*values: float | str) -> Cell:
    return Cell(values=values)


@pytest.mark.parametrize(
    ("kind", "text", "wanted"),
    [
        ("model", "", None),
        ("model", "any", None),
        ("model", "WR 3", is_("WR3")),
        ("model", "wr3", is_("WR3")),
        ("model", "not WR 3", Cell(operator="not", values=("WR3",))),
        ("model", "WR 2 or WR 3", is_("WR2", "WR3")),
        ("model", "WR 2, WR 3", is_("WR2", "WR3")),
        ("symptom", "jams", is_("stalls")),
        ("symptom", "Low flow, motor normal", is_("low-flow")),
        ("symptom", "“low flow, motor normal” or stalls", is_("low-flow", "stalls")),
        ("symptom", "slow or noisy", is_("either")),
        ("equipment", "weed-screen rake", is_("rake")),
        ("incident type", "rake call", is_("IT-1")),
        ("contract", "Full care", is_("full")),
        ("customer", "Somebody new", is_("Somebody new")),
        ("customer", "north growers", is_("North Growers")),
        ("site tag", "not tidal", Cell(operator="not", values=("tidal",))),
        ("warranty", "Yes", is_("yes")),
        ("meter", "above 4000", Cell(operator="above", values=(4000.0,))),
        ("meter", "> 4 000", Cell(operator="above", values=(4000.0,))),
        ("meter", "1000 to 4000", Cell(operator="between", values=(1000.0, 4000.0))),
        ("meter", "between 1000 and 4000", Cell(operator="between", values=(1000.0, 4000.0))),
        ("meter", "1000-4000", Cell(operator="between", values=(1000.0, 4000.0))),
        ("meter", "4000", is_(4000.0)),
        ("priority", "above this week", Cell(operator="above", values=("This week",))),
        ("priority", "this week to at once", Cell(operator="between", values=("This week", "At once"))),
        ("day", "1 Nov to 28 Feb", Cell(operator="between", values=("11-01", "02-28"))),
        ("day", "1 November 2026", is_("2026-11-01")),
        ("day", "after 2026-11-01", Cell(operator="above", values=("2026-11-01",))),
        ("day", "before 1 Nov 2026", Cell(operator="below", values=("2026-11-01",))),
        ("day", "29 Feb", is_("02-29")),
    ],
)
def test_what_is_typed_is_read(kind: ColumnKind, text: str, wanted: Cell | None) -> None:
    assert read_cell(text, column(kind), WORDS) == wanted


@pytest.mark.parametrize(
    ("kind", "text", "sentence"),
    [
        ("model", "WR 4", "“WR 4” is not a model here. Did you mean “wr 3”?"),
        ("symptom", "xyzzy", "“xyzzy” is not a symptom here. Choose a symptom from the list."),
        ("incident type", "gate call", "“gate call” is not an incident type here. Did you mean “rake call”?"),
        ("meter", "many", "“many” is not a number. Write 4000, above 4000 or 2000 to 4000."),
        ("meter", "4000 to 1000", "“4000 to 1000” runs backwards. Write the lower bound first."),
        ("day", "31 Feb", "“31 Feb” is not a day. Write 1 Nov, 1 Nov 2026 or 2026-11-01."),
        ("day", "WR 3", "“WR 3” is not a day. Write 1 Nov, 1 Nov 2026 or 2026-11-01."),
        (
            "day",
            "after 1 Nov",
            "“after 1 Nov” needs a year. Write 1 Nov 2026, or 1 Nov to 28 Feb for every year.",
        ),
        (
            "day",
            "1 Nov to 1 Feb 2026",
            "“1 Nov to 1 Feb 2026” has a year on one side only. Write both days with a year, or neither.",
        ),
    ],
)
def test_what_cannot_be_read_says_what_would_do(kind: ColumnKind, text: str, sentence: str) -> None:
    with pytest.raises(Unreadable) as wrong:
        read_cell(text, column(kind), WORDS)
    assert f"{wrong.value.message} {wrong.value.hint}" == sentence


OPEN = vocabulary_of(
    Catalogue(
        equipment=tuple(EquipmentClass(code=c, name=c) for c in CODED["equipment"]),
        models=tuple(Model(code=m, name=f"Model {m}, big", equipment="") for m in CODED["model"]),
        symptoms=tuple(Symptom(code=s, label=f"{s} or so") for s in CODED["symptom"]),
        contracts=tuple(Contract(code=c, name=c) for c in CODED["contract"]),
    ),
    documents={"I1": "First", "I2": "Second"},
    incident_types=["I1", "I2"],
)
OPEN_NAMES = naming_of(
    Catalogue(
        equipment=tuple(EquipmentClass(code=c, name=c) for c in CODED["equipment"]),
        models=tuple(Model(code=m, name=f"Model {m}, big", equipment="") for m in CODED["model"]),
        symptoms=tuple(Symptom(code=s, label=f"{s} or so") for s in CODED["symptom"]),
    ),
    incident_types={"I1": "First", "I2": "Second"},
)


@pytest.mark.parametrize("of", COLUMNS, ids=lambda c: c.key)
def test_a_cell_reads_back_from_its_own_words(of: Column) -> None:
    """Whatever a cell says, typing what the sheet shows gives the same cell."""

    @settings(max_examples=examples(60), deadline=None)
    @given(cell(of))
    def holds(made: Cell) -> None:
        assert read_cell(cell_words(made, of, OPEN_NAMES), of, OPEN) == made

    holds()


def test_documents_are_named_by_identity_or_title() -> None:
    assert read_documents("WP-1; rake call", WORDS) == ("WP-1", "IT-1")
    assert read_documents("Clear, then grease", WORDS) == ("WP-2",)
    with pytest.raises(Unreadable, match="document"):
        read_documents("WP-9", WORDS)


TABLE = DecisionTable(
    title="Plans",
    columns=(column("model"), column("symptom")),
    rows=(
        Row(id="a", cells={"model": is_("WR2")}, documents=("WP-1",)),
        Row(id="b", cells={"symptom": is_("stalls")}, documents=("WP-2",)),
    ),
)


def texts(*lines: tuple[str, ...], row: str = "", column: int = 0, skip: bool = False) -> SetTexts:
    return SetTexts(row=row, column=column, texts=lines, skip=skip)


def test_a_pasted_sheet_fills_cells_and_makes_new_rows() -> None:
    made = edit_table(TABLE, texts(("WR 3", "any", "WP-1"), ("", "jams", "WP-2"), row="b"), WORDS, new_id="n")
    assert [r.id for r in made.rows] == ["a", "b", "n-2"]
    assert made.rows[1] == Row(id="b", cells={"model": is_("WR3")}, documents=("WP-1",))
    assert made.rows[2] == Row(id="n-2", cells={"symptom": is_("stalls")}, documents=("WP-2",))


def test_a_sheet_comes_as_spreadsheets_put_it_on_the_clipboard() -> None:
    """Cells apart by tabs; one with a break or a quotation mark of its own stands in quotation marks."""
    sheet = 'WR 3\tany\t"WP-1; WP-2"\r\n\t"ja\nms"\tWP-2\r\n'
    with pytest.raises(InvalidInput, match="“ja ms” is not a symptom"):
        edit_table(TABLE, SetTexts(row="b", column=0, sheet=sheet), WORDS, new_id="n")
    mended = sheet.replace("ja\nms", "jams")
    made = edit_table(TABLE, SetTexts(row="b", column=0, sheet=mended), WORDS, new_id="n")
    assert [r.documents for r in made.rows] == [("WP-1",), ("WP-1", "WP-2"), ("WP-2",)]
    assert made.rows[2].cells == {"symptom": is_("stalls")}


def test_a_sheet_of_wrong_types_is_refused_whole_with_every_cell_named() -> None:
    with pytest.raises(InvalidInput) as refused:
        edit_table(TABLE, texts(("12", "stalls", "WP-1"), ("WR 2", "12", "WP-9", "more")), WORDS, new_id="n")
    assert [(p.path, p.message) for p in refused.value.problems] == [
        ("row 3, model", "“12” is not a model here."),
        ("row 4, symptom", "“12” is not a symptom here."),
        ("row 4, documents", "“WP-9” is not a document here."),
        ("row 4, documents", "“more” is right of the last column."),
    ]
    assert refused.value.hint == "Nothing was written."


def test_of_a_sheet_with_wrong_cells_the_rest_can_be_taken() -> None:
    made = edit_table(TABLE, texts(("12", "stalls", "WP-1"), skip=True), WORDS, new_id="n")
    assert made.rows[-1] == Row(id="n", cells={"symptom": is_("stalls")}, documents=("WP-1",))


def test_a_table_does_not_outgrow_its_limit() -> None:
    long = texts(*(("WR 2", "", "WP-1") for _ in range(20_000)))
    with pytest.raises(InvalidInput, match=f"a table may have {MAX_ROWS:,} rows, this would have 20,002"):
        edit_table(TABLE, long, WORDS, new_id="n")


def test_rows_are_added_copied_moved_and_removed() -> None:
    added = edit_table(TABLE, AddRow(after="a"), WORDS, new_id="n")
    assert [r.id for r in added.rows] == ["a", "n", "b"]
    copied = edit_table(TABLE, AddRow(after="a", copy_of="b"), WORDS, new_id="n")
    assert copied.rows[1].documents == ("WP-2",)
    moved = edit_table(TABLE, MoveRow(row="b", direction="up"), WORDS, new_id="n")
    assert [r.id for r in moved.rows] == ["b", "a"]
    assert edit_table(TABLE, MoveRow(row="a", direction="up"), WORDS, new_id="n") == TABLE
    assert edit_table(TABLE, RemoveRows(rows=("a", "b")), WORDS, new_id="n").rows == ()
    with pytest.raises(NotFound, match="there is no row z in this draft"):
        edit_table(TABLE, RemoveRows(rows=("z",)), WORDS, new_id="n")


def test_columns_come_in_their_usual_order_and_go_with_their_cells() -> None:
    wider = edit_table(TABLE, AddColumn(column=column("equipment")), WORDS, new_id="n")
    assert [c.kind for c in wider.columns] == ["equipment", "model", "symptom"]
    assert edit_table(wider, AddColumn(column=column("equipment")), WORDS, new_id="n") == wider
    fewer = edit_table(TABLE, RemoveColumn(key="model"), WORDS, new_id="n")
    assert fewer.rows[0].cells == {}


def test_a_row_is_written_from_words_with_the_columns_it_takes() -> None:
    made = edit_table(
        TABLE,
        WriteRow(cells=((column("equipment"), "pump"), (column("symptom"), "stalls")), documents="WP-1"),
        WORDS,
        new_id="n",
    )
    assert [c.kind for c in made.columns] == ["equipment", "model", "symptom"]
    assert made.rows[-1].cells == {"equipment": is_("pump"), "symptom": is_("stalls")}
