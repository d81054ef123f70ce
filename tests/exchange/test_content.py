"""Authored values as JSON: what is refused, and where it says the fault is."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.guidance.editing import edit_plan
from reedling.core.guidance.plans import Plan
from reedling.errors import InvalidInput, NotFound
from reedling.exchange.content import PLANS, dump_value, load_content, load_value
from tests.core.guidance.test_editing import EDITS
from tests.plans import rake_plan


def read_plan(data: object) -> Plan:
    return load_value(PLANS, data, where="plan")


def broken(**step: Any) -> InvalidInput:
    data = dump_value(rake_plan())
    data["steps"][1].update(step)
    with pytest.raises(InvalidInput) as caught:
        read_plan(data)
    return caught.value


@given(st.lists(EDITS, max_size=5))
def test_any_plan_survives_the_trip_through_json(edits: list[Any]) -> None:
    plan: Plan = rake_plan()
    for n, edit in enumerate(edits):
        try:
            plan = edit_plan(plan, edit, new_id=f"n{n}", new_question_id=f"q{n}")
        except NotFound:
            continue
    assert read_plan(dump_value(plan)) == plan


def test_an_unknown_key_is_refused_with_the_nearest_known_name() -> None:
    error = broken(minuts={"likely": 3})
    assert [(p.path, p.message, p.hint) for p in error.problems] == [
        ("/steps/1/minuts", "there is no “minuts” here.", "Did you mean “minutes”?")
    ]


def test_a_missing_key_names_its_place() -> None:
    data = dump_value(rake_plan())
    del data["steps"][0]["text"]
    with pytest.raises(InvalidInput, match=r"plan, /steps/0/text: this is missing\."):
        read_plan(data)


def test_a_fault_inside_one_kind_of_proof_is_told_without_the_other_kinds() -> None:
    error = broken(
        questions=[{"kind": "reading", "id": "x", "label": "P", "unit": "bar", "limits": {"low": "ninety"}}]
    )
    assert [p.path for p in error.problems] == ["/steps/1/questions/0/limits/low"]
    assert "got 'ninety'" in error.problems[0].message


def test_a_kind_that_does_not_exist_is_one_problem() -> None:
    error = broken(questions=[{"kind": "guess", "id": "x", "label": "P"}])
    assert [(p.path, p.message) for p in error.problems] == [
        (
            "/steps/1/questions/0/kind",
            "the kind must be one of any_of, computed, date, instruction, meter, names, one_of, photo, reading, "
            "safety, scan, signature, text, tick, yes_no, got 'guess'.",
        )
    ]


def test_every_fault_is_reported_at_once() -> None:
    error = broken(phase="Lunch", minutes={"likely": "soon"})
    assert {p.path for p in error.problems} == {"/steps/1/phase", "/steps/1/minutes/likely"}


@pytest.mark.parametrize("data", [None, [], 3, "text", {"steps": "none"}])
def test_what_is_not_a_document_is_refused_not_crashed_on(data: object) -> None:
    with pytest.raises(InvalidInput):
        load_content("plan", data, where="file")


def test_names_may_be_in_any_script() -> None:
    plan = read_plan({"title": "泵跳闸 🚰 отказ", "steps": []})
    assert read_plan(dump_value(plan)).title == "泵跳闸 🚰 отказ"
