"""Patches between two states of a document, applied by the library that defines them (RFC 6902)."""

from __future__ import annotations

import copy
from typing import Any

import jsonpatch
import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.services.shared.patches import patch_between

LEAF = st.none() | st.booleans() | st.integers(-3, 3) | st.text("ab~/", max_size=3)
ROW = st.dictionaries(st.sampled_from(["id", "a/b", "x~y"]), LEAF | st.lists(LEAF, max_size=2), max_size=3)
DOCUMENT = st.dictionaries(
    st.sampled_from(["rows", "columns", "title", "note"]), LEAF | st.lists(ROW | LEAF, max_size=5)
)


@given(DOCUMENT, DOCUMENT)
def test_a_patch_makes_the_one_of_the_other_and_its_inverse_takes_it_back(
    before: dict[str, Any], after: dict[str, Any]
) -> None:
    there, back = patch_between(before, after), patch_between(after, before)
    assert jsonpatch.apply_patch(copy.deepcopy(before), there) == after
    assert jsonpatch.apply_patch(copy.deepcopy(after), back) == before


@pytest.mark.parametrize("place", [0, 499, 999])
def test_one_cell_of_many_rows_is_one_operation(place: int) -> None:
    before = {"title": "T", "rows": [{"id": f"r{n}", "cells": {"model": "WR2"}} for n in range(1000)]}
    after = copy.deepcopy(before)
    after["rows"][place]["cells"]["model"] = "WR3"  # type: ignore[index]
    assert patch_between(before, after) == [
        {"op": "replace", "path": f"/rows/{place}/cells/model", "value": "WR3"}
    ]


def test_a_row_that_moves_far_is_moved_and_not_written_again() -> None:
    before = {"rows": [{"id": n} for n in range(60)]}
    after = {"rows": [*before["rows"][1:], before["rows"][0]]}
    (moved,) = patch_between(before, after)
    assert (moved["op"], moved["from"], moved["path"]) == ("move", "/rows/0", "/rows/59")
