"""Matching: which plans an order gets and, for every other, why not."""

from __future__ import annotations

from dataclasses import replace

from reedling.core.guidance.catalogue import Catalogue, EquipmentClass, Model, Symptom
from reedling.core.guidance.plans import AppliesWhen, Plan
from reedling.core.matching.applicability import Candidate, OrderFacts, choose_incident_type, match_plans

LISTS = Catalogue(
    equipment=(
        EquipmentClass(code="plant", name="Any plant"),
        EquipmentClass(code="rake", name="Weed-screen rake", parent="plant"),
        EquipmentClass(code="pump", name="Pump", parent="plant"),
    ),
    models=(
        Model(code="WR2", name="WR 2", equipment="rake"),
        Model(code="WR3", name="WR 3", equipment="rake"),
    ),
    symptoms=(Symptom(code="stalls", label="Stalls"), Symptom(code="trips", label="Trips on overload")),
)
ORDER = OrderFacts(equipment="rake", model="WR2", symptom="stalls")


def candidate(document: str, **cells: object) -> Candidate:
    plan = Plan(title=document.lower(), applies_when=replace(AppliesWhen(), **cells))  # type: ignore[arg-type]
    return Candidate(document=document, revision="A", plan=plan)


CANDIDATES = (
    candidate("W4", equipment="pump", symptoms=("trips",)),
    candidate("W3", equipment="rake", models=("WR3",), symptoms=("stalls",)),
    candidate("W2", equipment="plant"),
    candidate("W1", equipment="rake", symptoms=("stalls", "trips")),
    candidate("W0"),
)


def test_all_that_apply_are_taken_and_near_misses_come_before_far_ones() -> None:
    traces = match_plans(ORDER, CANDIDATES, LISTS)
    assert [(t.document, t.misses) for t in traces] == [("W0", 0), ("W1", 0), ("W2", 0), ("W3", 1), ("W4", 2)]


def test_each_trace_says_why_in_a_sentence() -> None:
    told = {t.document: t.sentence for t in match_plans(ORDER, CANDIDATES, LISTS)}
    assert told == {
        "W0": "It applies: it is for every order.",
        "W1": "It applies: equipment weed-screen rake, symptom stalls.",
        "W2": "It applies: equipment weed-screen rake.",
        "W3": "One cell away: model is WR 2, the plan wants WR 3.",
        "W4": "2 cells away: equipment is weed-screen rake, the plan wants pump; "
        "symptom is stalls, the plan wants trips on overload.",
    }


def test_the_result_does_not_depend_on_the_order_of_the_candidates() -> None:
    assert match_plans(ORDER, CANDIDATES, LISTS) == match_plans(ORDER, tuple(reversed(CANDIDATES)), LISTS)


def test_the_incident_type_is_the_one_whose_plan_asks_for_most() -> None:
    trace = match_plans(ORDER, CANDIDATES, LISTS)
    uses = {"IT-1": ("W0",), "IT-2": ("W2",), "IT-3": ("W1", "W0"), "IT-4": ("W4",)}
    assert choose_incident_type(trace, uses) == "IT-3"


def test_a_plan_for_every_order_decides_no_incident_type() -> None:
    assert choose_incident_type(match_plans(ORDER, CANDIDATES, LISTS), {"IT-1": ("W0",)}) is None
