"""Whose plate was read: by the register and on a phone, against looking at every plate."""

from __future__ import annotations

import json
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.register.assets import Asset, PlacedAsset, Site
from reedling.device import carried_job
from reedling.device.plain import dump
from reedling.services.context import Context
from reedling.services.views.pocket import plate
from tests.conftest import LODE, RAKE, FakeClock, fresh_context

SERIALS = ("S1", "s1", " S1", "S-1", "", "  ", "Ä9", "ä9", "%", "S_", "R1")
SITES = (LODE, replace(LODE, code="hythe", name="Hythe End"))


@pytest.fixture(scope="module")
def context(tmp_path_factory: pytest.TempPathFactory) -> Context:
    made = fresh_context(tmp_path_factory.mktemp("plates") / "data", FakeClock())
    with made.store.writing() as unit:
        unit.register.put_site(SITES[1])
    return made


@given(
    st.lists(
        st.tuples(st.sampled_from(SERIALS), st.sampled_from(("Rake", "Pump")), st.sampled_from(SITES)),
        max_size=6,
    ),
    st.sampled_from((*SERIALS, "S1 ", "r1", "ÄA9")),
)
def test_register_and_phone_name_the_same_assets(
    context: Context, wanted: list[tuple[str, str, Site]], code: str
) -> None:
    placed = [
        PlacedAsset(asset=replace(RAKE, code=f"AS-{n}", name=name, serial=serial, site=site.code), site=site)
        for n, (serial, name, site) in enumerate(wanted)
    ]
    with context.store.writing() as unit:
        for old in unit.register.assets():
            unit.register.remove_asset(old.asset.code)
        for new in placed:
            unit.register.put_asset(new.asset)

    def is_it(asset: Asset) -> bool:
        pairs = zip(asset.serial.strip(), code.strip(), strict=False)
        alike = all(a == b or (a.isascii() and b.isascii() and a.upper() == b.upper()) for a, b in pairs)
        return bool(code.strip()) and len(asset.serial.strip()) == len(code.strip()) and alike

    carrying = [p for p in placed if is_it(p.asset)]
    found = plate(context, code)
    assert sorted(found.assets) == sorted(p.asset.code for p in carrying)
    assert (found.words == "") == (carrying == [])
    for p in carrying:
        assert f"{p.asset.name}, {p.site.name}" in found.words
    assert json.loads(carried_job.plate(code, json.dumps([dump(p) for p in placed]))) == found.words
