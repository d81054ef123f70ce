"""Sites and assets as they are written, and where guidance refers to entries of the lists."""

from __future__ import annotations

from dataclasses import replace

import pytest

from reedling.core.guidance.catalogue import (
    AssetField,
    Catalogue,
    Contract,
    EquipmentClass,
    Holding,
    Model,
    Part,
    VanStock,
    VanTool,
)
from reedling.core.guidance.decision_tables import Cell, Column, DecisionTable, Row
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import AppliesWhen, FormUse, Plan, Repeat, Step
from reedling.core.guidance.questions import MeterReading, Raise, TextEntry, YesNo
from reedling.core.guidance.references import ListEntry, entries_between, entries_named
from reedling.core.guidance.skills import PartNeed, SkillNeed, ToolNeed
from reedling.core.logic.conditions import Comparison, Conjunction
from reedling.core.register.assets import Asset, Site
from reedling.core.register.soundness import asset_problems, site_problems

LISTS = Catalogue(
    equipment=(
        EquipmentClass(code="plant", name="Any plant"),
        EquipmentClass(code="rake", name="Rake", parent="plant"),
        EquipmentClass(code="pump", name="Pump", parent="plant"),
    ),
    models=(
        Model(code="WR2", name="WR 2", equipment="rake"),
        Model(code="ANY", name="Any", equipment="plant"),
    ),
    contracts=(Contract(code="full", name="Full care"),),
    fields=(AssetField(code="amps", name="Rated current", unit="A", number=True),),
)
SITE = Site(code="lode", name="Lode", district="North", contract="full", zone="Europe/London")
ASSET = Asset(code="AS-1", name="Rake 1", site="lode", equipment="rake", model="WR2")


def sentences(problems: object) -> list[str]:
    return [f"{p.path} {p.message}" for p in problems]  # type: ignore[attr-defined]


def test_a_sound_site_and_a_sound_asset_have_no_problem() -> None:
    assert not sentences(site_problems(SITE, {"other"}, LISTS))
    assert not sentences(asset_problems(ASSET, {"AS-2"}, {"lode"}, LISTS))
    known = replace(ASSET, model="ANY", fields={"amps": 31.5})
    assert not sentences(asset_problems(known, set(), {"lode"}, LISTS))


@pytest.mark.parametrize(
    ("change", "sentence"),
    [
        ({"code": " "}, "/code It has no code."),
        ({"code": "taken"}, "/code taken stands 2 times."),
        ({"name": ""}, "/name The site has no name."),
        ({"district": " "}, "/district The site has no district."),
        ({"contract": "gone"}, "/contract There is no contract gone."),
        ({"zone": "Mars/Base"}, "/zone Mars/Base is no time zone; they are named like Europe/London."),
        ({"north": 91.0}, "/east East is from -180 to 180 degrees, north from -90 to 90."),
        ({"east": float("nan")}, "/east East is from -180 to 180 degrees, north from -90 to 90."),
    ],
)
def test_what_is_wrong_with_a_site_is_said_beside_its_place(change: dict[str, object], sentence: str) -> None:
    assert sentences(site_problems(replace(SITE, **change), {"taken"}, LISTS)) == [sentence]  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("change", "sentence"),
    [
        ({"name": ""}, "/name The asset has no name."),
        ({"site": ""}, "/site The asset stands at no site."),
        ({"site": "moor"}, "/site There is no site moor."),
        ({"equipment": ""}, "/equipment The asset is of no class."),
        ({"equipment": "crane", "model": None}, "/equipment There is no equipment class crane."),
        ({"model": "WR9"}, "/model There is no model WR9."),
        ({"equipment": "pump"}, "/model WR 2 is a model of Rake, not of Pump."),
        ({"code": "AS-2"}, "/code AS-2 stands 2 times."),
        ({"fields": {"mood": "fair"}}, "/fields There is no asset field mood."),
        ({"fields": {"amps": "many"}}, "/fields Rated current is a number."),
        ({"fields": {"amps": float("inf")}}, "/fields Rated current is a number."),
        ({"fields": {"amps": True}}, "/fields Rated current is a number."),
    ],
)
def test_what_is_wrong_with_an_asset_is_said_beside_its_place(
    change: dict[str, object], sentence: str
) -> None:
    assert sentences(asset_problems(replace(ASSET, **change), {"AS-2"}, {"lode"}, LISTS)) == [sentence]  # type: ignore[arg-type]


def test_a_plan_names_entries_in_cells_needs_questions_and_conditions() -> None:
    on_wr2 = Comparison(question="asset.model", operator="is", value="WR2")
    worn = Comparison(question="asset.chain_fitted", operator="answered")
    stalls = Comparison(question="order.symptom", operator="is one of", value=("stalls", "trips"))
    plan = Plan(
        title="P",
        applies_when=AppliesWhen(equipment="rake", models=("WR3",), symptoms=("slow",)),
        forms=(FormUse(form="FM-1", condition=stalls),),
        steps=(
            Step(
                id="a",
                phase="Diagnose",
                text="Look",
                condition=Conjunction(parts=(on_wr2, Comparison(question="bar", operator="below", value=90))),
                skills=(SkillNeed(skill="hydraulics"),),
                parts=(PartNeed(part="OIL", condition=worn),),
                repeat=Repeat(per="pump", over="asset field", field="asset.pumps"),
                questions=(
                    MeterReading(id="m", label="Hours", meter="run_hours"),
                    TextEntry(id="t", label="Plate", prefill="asset.serial", write_back="asset.plate"),
                    TextEntry(id="l", label="Last", prefill="last"),
                    YesNo(
                        id="y",
                        label="Late",
                        raises=(Raise(when=Comparison(question="meter.starts", operator="above", value=1)),),
                    ),
                ),
            ),
        ),
    )
    assert {(e.listed, e.code) for e in entries_named(plan)} == {
        ("equipment", "rake"),
        ("models", "WR2"),
        ("models", "WR3"),
        ("symptoms", "slow"),
        ("symptoms", "stalls"),
        ("symptoms", "trips"),
        ("skills", "hydraulics"),
        ("parts", "OIL"),
        ("fields", "chain_fitted"),
        ("fields", "pumps"),
        ("fields", "plate"),
        ("meters", "run_hours"),
        ("meters", "starts"),
    }


def test_tables_and_incident_types_name_entries() -> None:
    table = DecisionTable(
        title="T",
        columns=(Column(kind="equipment"), Column(kind="meter", meter="hours"), Column(kind="site tag")),
        rows=(
            Row(id="r", cells={"equipment": Cell(values=("rake",)), "site tag": Cell(values=("tidal",))}),
            Row(id="s", cells={"equipment": Cell(operator="not", values=("pump",))}),
        ),
    )
    assert entries_named(table) == {
        ListEntry("equipment", "rake"),
        ListEntry("equipment", "pump"),
        ListEntry("meters", "hours"),
    }
    incident = IncidentType(
        title="I",
        equipment="rake",
        category="call-out",
        parts=(PartNeed(part="OIL"),),
        tools=(ToolNeed(tool="LAMP"),),
    )
    assert entries_named(incident) == {
        ListEntry("equipment", "rake"),
        ListEntry("categories", "call-out"),
        ListEntry("parts", "OIL"),
        ListEntry("tools", "LAMP"),
    }


def test_entries_name_each_other() -> None:
    lists = replace(
        LISTS,
        parts=(Part(code="OIL", name="Oil", substitutes=("OIL-46",)),),
        roster=(Holding(technician="Runa", district="North", skill="lock", level="Solo"),),
        van_stock=(VanStock(technician="Runa", part="OIL", quantity=2),),
        van_tools=(VanTool(technician="Runa", tool="LAMP"),),
    )
    assert [(a.code, b.listed, b.code) for a, b in entries_between(lists)] == [
        ("rake", "equipment", "plant"),
        ("pump", "equipment", "plant"),
        ("WR2", "equipment", "rake"),
        ("ANY", "equipment", "plant"),
        ("OIL", "parts", "OIL-46"),
        ("Runa lock", "skills", "lock"),
        ("Runa OIL", "parts", "OIL"),
        ("Runa LAMP", "tools", "LAMP"),
    ]
