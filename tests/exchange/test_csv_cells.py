"""Cells that a spreadsheet would run are defused, and every text reads back equal.

The characters that start a formula are those OWASP names under "CSV Injection".
"""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from reedling.exchange.csv_cells import cell_of, text_of

TEXTS = st.text(st.sampled_from("'=+-@\t\r1a. e"), max_size=6) | st.text(max_size=20)


@given(TEXTS)
def test_every_text_reads_back_equal(text: str) -> None:
    assert text_of(cell_of(text)) == text


@given(TEXTS)
def test_no_cell_but_a_number_begins_as_a_formula_does(text: str) -> None:
    cell = cell_of(text)
    if cell[:1] in tuple("=+-@\t\r"):
        float(cell)


def test_a_number_stays_a_number() -> None:
    assert [cell_of(x) for x in ("-0.25", "+3", "-1e5", "0.1")] == ["-0.25", "+3", "-1e5", "0.1"]
    assert cell_of("=HYPERLINK(1)") == "'=HYPERLINK(1)"
    assert cell_of("-cmd|x") == "'-cmd|x"
