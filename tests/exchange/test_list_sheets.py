"""Lists as sheets: out and in again unchanged, and what cannot be read is named by its line."""

from __future__ import annotations

import csv
import io

import pytest

from reedling.core.guidance.catalogue import Holding, Part, VanStock
from reedling.demo.loader import demo_pack
from reedling.errors import InvalidInput
from reedling.exchange.content import dump_value
from reedling.exchange.list_sheets import ENTRY_TYPES, load_entries, read_sheet, write_sheet

LISTS = dump_value(demo_pack().catalogue)


@pytest.mark.parametrize("name", sorted(LISTS))
def test_every_list_of_the_demo_comes_back_as_it_went(name: str) -> None:
    """The writing and reading of CSV itself is the standard library's, whose reader sees the same cells."""
    text = write_sheet(name, LISTS[name])  # type: ignore[arg-type]
    plain = list(csv.DictReader(io.StringIO(text)))
    assert len(plain) == len(LISTS[name])
    read = load_entries(name, read_sheet(name, text))  # type: ignore[arg-type]
    assert read == [{**entry, **({"links": []} if "links" in entry else {})} for entry in LISTS[name]]


@pytest.mark.parametrize("apart", [",", ";", "\t"])
def test_cells_are_apart_as_the_spreadsheet_writes_them(apart: str) -> None:
    lines = [("Code", "Name", "unit", "substitutes"), ("OIL", "Oil", "l", '"A; B"'), ("S", "Seat", "", "")]
    text = "\ufeff" + "\r\n".join(apart.join(line) for line in lines) + "\r\n\r\n"
    assert load_entries("parts", read_sheet("parts", text)) == [
        dump_value(Part(code="OIL", name="Oil", unit="l", substitutes=("A", "B"))),
        dump_value(Part(code="S", name="Seat")),
    ]


def test_a_line_gives_only_the_columns_it_has() -> None:
    assert read_sheet("parts", "code,stocked\nOIL,van\n\nSEAT,\n") == [
        (2, {"code": "OIL", "stocked": ["van"]}),
        (4, {"code": "SEAT", "stocked": ()}),
    ]
    assert read_sheet("assets", "Code,Fields.ratedA,\nA,2,\n") == [
        (2, {"code": "A", "fields": {"ratedA": "2"}})
    ]
    assert read_sheet("assets", "code,fields.amps,fields.pumps\nA,31.5,\n") == [
        (2, {"code": "A", "fields": {"amps": "31.5", "pumps": ""}})
    ]


def test_levels_days_numbers_and_words_become_what_they_are() -> None:
    roster = "technician,district,skill,level,expires_on\nRuna,North,lock,Coach,2027-03-31\n"
    (holding,) = load_entries("roster", read_sheet("roster", roster))
    assert holding["level"] == "Coach"
    assert holding["expires_on"] == "2027-03-31"
    stock = load_entries("van_stock", read_sheet("van_stock", "technician,part,quantity\nRuna,OIL,2.5\n"))
    assert stock == [dump_value(VanStock(technician="Runa", part="OIL", quantity=2.5))]
    skills = load_entries("skills", read_sheet("skills", "code,name,certificate\na,A,yes\nb,B,no\n"))
    assert [s["certificate"] for s in skills] == [True, False]
    assert ENTRY_TYPES["roster"] is Holding


@pytest.mark.parametrize(
    ("text", "code", "words"),
    [
        ("", "sheets.header", "the sheet is empty"),
        ("OIL,Oil\n", "sheets.header", "names “oil”, which is no column here"),
        ("code,colour\nOIL,red\n", "sheets.header", "names “colour”, which is no column here"),
        ("code,name,name\nOIL,Oil,Oel\n", "sheets.header", "names “name” twice"),
        ("code,name\nOIL,Oil, light\n", "sheets.width", "line 2 has 3 cells"),
        ("code,name\nOIL,\ufffdl\n", "sheets.encoding", "not in UTF-8"),
        ('code,name\nOIL,"Oil\n', "sheets.quotes", "the sheet cannot be read"),
    ],
)
def test_a_sheet_that_is_none_is_refused_with_the_way_out(text: str, code: str, words: str) -> None:
    with pytest.raises(InvalidInput, match=words) as refused:
        read_sheet("parts", text)
    assert refused.value.code == code
    assert refused.value.hint


def test_cells_that_do_not_fit_are_named_by_line_and_column() -> None:
    text = "technician,part,quantity\nRuna,OIL,2\nTeo,OIL,plenty\nIvo,OIL,\n"
    with pytest.raises(InvalidInput, match="2 cells do not fit; nothing was written") as refused:
        load_entries("van_stock", read_sheet("van_stock", text))
    assert [(p.path, p.message) for p in refused.value.problems] == [
        ("/3/quantity", "Line 3, quantity: it says “plenty”, and it wants a number."),
        ("/4/quantity", "Line 4, quantity: it is empty, and it wants a number."),
    ]


def test_a_level_a_day_and_a_yes_that_are_none_are_told_what_they_want() -> None:
    roster = "technician,district,skill,level,expires_on\nRuna,North,lock,Expert,soon\n"
    with pytest.raises(InvalidInput) as refused:
        load_entries("roster", read_sheet("roster", roster))
    assert [p.message for p in refused.value.problems] == [
        "Line 2, level: it says “Expert”, and it wants Shadow, Assisted, Solo or Coach.",
        "Line 2, expires_on: it says “soon”, and it wants a day such as 2027-03-31.",
    ]
    with pytest.raises(InvalidInput, match="1 cell does not fit"):
        load_entries("skills", read_sheet("skills", "code,name,certificate\na,A,perhaps\n"))
