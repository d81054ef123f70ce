"""What a value has in a row's columns, and back."""

from __future__ import annotations

import importlib
import pkgutil
from dataclasses import dataclass, fields

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling import store
from reedling.core.orders.asked_back import AskedBack
from reedling.core.refining.trials import Trial
from reedling.core.register.assets import Asset, Site
from reedling.store.register import ASSETS, SITES
from reedling.store.row_mapping import RowMapping, row_mapping
from reedling.store.tables import AskedBackRow, SiteRow
from reedling.store.trials import TRIALS

LETTERS = st.text("abc", max_size=5)


def mappings() -> list[RowMapping[object, SiteRow]]:
    """Every mapping of the store."""
    modules = [
        importlib.import_module(f"{store.__name__}.{m.name}") for m in pkgutil.iter_modules(store.__path__)
    ]
    return [held for module in modules for held in vars(module).values() if isinstance(held, RowMapping)]


def test_no_two_fields_of_a_value_stand_in_one_column() -> None:
    found = mappings()
    assert len({mapping.value for mapping in found}) > 20
    for mapping in found:
        assert len(set(mapping.columns.values())) == len(mapping.columns), mapping.value


@given(
    st.builds(
        Site, code=LETTERS, name=LETTERS, zone=st.just("UTC"), tags=st.lists(LETTERS, unique=True).map(tuple)
    ),
    st.builds(Asset, code=LETTERS, site=LETTERS, fields=st.dictionaries(LETTERS, st.integers() | LETTERS)),
)
def test_what_is_written_is_read_again(site: Site, asset: Asset) -> None:
    """Sites have tuples, assets mappings; both go by a code that is the identity of their row."""
    row = SITES.new_row(site)
    assert (row.id, row.tags) == (site.code, list(site.tags))
    assert SITES.read(row) == site
    assert ASSETS.read(ASSETS.new_row(asset)) == asset
    other = SITES.new_row(Site(code="x", name="x", district="x", east=0, north=0, zone="UTC"))
    SITES.write(site, other)
    assert SITES.read(other) == site


@given(st.from_type(Trial))
def test_a_value_of_many_kinds_of_fields_is_read_as_it_was(trial: Trial) -> None:
    assert TRIALS.read(TRIALS.new_row(trial)) == trial


def test_a_field_without_a_column_and_a_name_that_is_no_field_are_found_when_the_store_is_loaded() -> None:
    @dataclass(frozen=True)
    class Odd:
        name: str
        colour: str

    with pytest.raises(TypeError, match=r"SiteRow has no column for Odd\.colour"):
        row_mapping(Odd, SiteRow)
    with pytest.raises(TypeError, match=r"Odd has no \['color'\]"):
        row_mapping(Odd, SiteRow, elsewhere=("colour",), color="name")
    assert row_mapping(Odd, SiteRow, elsewhere=("colour",)).columns == {"name": "name"}


def test_what_refers_to_another_row_stands_in_the_column_of_its_identity() -> None:
    columns = row_mapping(AskedBack, AskedBackRow).columns
    assert (columns["order"], columns["technician"]) == ("order_id", "technician_id")
    assert columns.keys() == {field.name for field in fields(AskedBack)}
