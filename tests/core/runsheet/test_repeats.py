"""Repeat sections: once per pump, phase or door, with conditions and formulas across them."""

from __future__ import annotations

from dataclasses import replace

import pytest

from reedling.core.guidance.plans import Minutes, Plan, Repeat, Step
from reedling.core.guidance.questions import (
    Computed,
    Limits,
    Photo,
    Question,
    Reading,
    TextEntry,
    Tick,
    YesNo,
)
from reedling.core.guidance.skills import PartNeed
from reedling.core.logic.conditions import Answer, Comparison
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Runsheet, Source
from reedling.core.runsheet.progress import consequences_of, take_up
from reedling.core.runsheet.repeats import lay_out, repeat_names
from tests.runs import follow

AMPS = Reading(id="amps", name="amps", label="Current", unit="A", lowest=0, highest=100)


def pump(repeat: Repeat, *more: Question) -> Plan:
    """One section per pump, then a step that looks at all of them."""
    return Plan(
        title="Survey",
        steps=(
            Step(
                id="pump",
                phase="Diagnose",
                text="Each pump",
                minutes=Minutes(likely=10),
                repeat=repeat,
                questions=(AMPS, *more),
            ),
            Step(
                id="all",
                phase="Diagnose",
                text="All together",
                questions=(
                    Computed(
                        id="worst",
                        label="Highest current",
                        formula="max(amps)",
                        unit="A",
                        limits=Limits(high=40),
                    ),
                ),
            ),
            Step(
                id="hot",
                phase="Put right",
                text="Clear the pump that works too hard",
                minutes=Minutes(likely=30),
                condition=Comparison(question="amps", operator="above", value=40.0),
                questions=(Tick(id="cleared"),),
            ),
        ),
    )


def sheet(plan: Plan, **facts: Answer) -> Runsheet:
    source = Source(document="W", revision="A", title=plan.title)
    return compile_runsheet(
        [(source, plan)], facts={name.replace("_", ".", 1): v for name, v in facts.items()}
    )


NAMED = Repeat(per="pump", over="named", names=("North", "South"))


def test_a_named_repeat_stands_on_the_sheet_once_per_name() -> None:
    laid = lay_out(sheet(pump(NAMED)), {})
    assert [line.id for line in laid.lines] == ["W:pump@North", "W:pump@South", "W:all", "W:hot"]
    assert [line.text for line in laid.lines[:2]] == ["Each pump: North", "Each pump: South"]
    assert laid.lines[1].questions[0].id == "W:amps@South"


@pytest.mark.parametrize(
    ("field", "names"),
    [
        (3.0, ("pump 1", "pump 2", "pump 3")),
        ("2", ("pump 1", "pump 2")),
        ("Old, New", ("Old", "New")),
        ("Old, Old, ", ("Old",)),
        (0.0, ()),
        (True, ()),
    ],
)
def test_an_asset_field_holds_a_count_or_names(field: Answer, names: tuple[str, ...]) -> None:
    repeat = Repeat(per="pump", over="asset field", field="asset.pumps")
    assert repeat_names(repeat, {"asset.pumps": field}) == names
    assert repeat_names(repeat, {}) == ()


def test_what_is_found_on_site_is_asked_for_first() -> None:
    runsheet = sheet(pump(Repeat(per="door", over="on site")))
    before = follow(runsheet, {})
    assert [(p.line, p.state) for p in before.lines] == [
        ("W:pump@", "due"),
        ("W:all", "due"),
        ("W:hot", "open question"),
    ]
    assert before.minutes_open == 30 + 10
    after = follow(runsheet, {"W:pump@": ("Left", "Right")}, done=["W:pump@"])
    assert [p.line for p in after.lines][:3] == ["W:pump@", "W:pump@Left", "W:pump@Right"]
    none = follow(runsheet, {"W:pump@": ()}, done=["W:pump@"])
    assert [(p.line, p.state) for p in none.lines] == [
        ("W:pump@", "done"),
        ("W:all", "due"),
        ("W:hot", "hidden"),
    ]


def test_a_condition_outside_is_true_when_it_is_true_of_any_repeat() -> None:
    runsheet = sheet(pump(NAMED))
    states = {p.line: p.state for p in follow(runsheet, {"W:amps@North": 30.0}).lines}
    assert states["W:hot"] == "open question"
    states = {p.line: p.state for p in follow(runsheet, {"W:amps@North": 44.0}).lines}
    assert states["W:hot"] == "due"
    low = {"W:amps@North": 30.0, "W:amps@South": 31.0}
    assert {p.line: p.state for p in follow(runsheet, low).lines}["W:hot"] == "hidden"


def test_a_formula_over_the_repeats_has_limits_of_its_own() -> None:
    runsheet = sheet(pump(NAMED))
    assert follow(runsheet, {"W:amps@North": 30.0}).computed == {}
    progress = follow(runsheet, {"W:amps@North": 30.0, "W:amps@South": 41.0})
    assert progress.computed == {"W:worst": 41.0}
    assert [f.sentence for f in progress.findings] == ["Highest current: 41 A is above 40 A."]


def test_inside_a_repeat_conditions_and_formulas_speak_of_their_own() -> None:
    own = (
        Computed(id="twice", label="Twice", formula="2 * amps", unit="A"),
        TextEntry(id="why", label="Why", condition=Comparison(question="amps", operator="above", value=40.0)),
    )
    run = take_up(sheet(pump(NAMED, *own)), {"W:amps@North": 45.0, "W:amps@South": 10.0})
    progress = run.progress
    assert {q: v for q, v in progress.computed.items() if "twice" in q} == {
        "W:twice@North": 90.0,
        "W:twice@South": 20.0,
    }
    asked = {p.line: p.asked for p in progress.lines}
    assert "W:why@North" in asked["W:pump@North"]
    assert "W:why@South" not in asked["W:pump@South"]
    assert "is added" in consequences_of(run)["W:amps@North"].sentence


def test_a_branch_under_a_repeat_repeats_with_it() -> None:
    plan = pump(NAMED)
    branch = Step(
        id="seal",
        phase="Diagnose",
        text="Open the seal chamber",
        under="pump",
        condition=Comparison(question="amps", operator="above", value=40.0),
        questions=(Photo(id="seal-photo", label="Seal"),),
        parts=(PartNeed(part="OIL", condition=Comparison(question="amps", operator="above", value=60.0)),),
    )
    steps = (plan.steps[0], branch, *plan.steps[1:])
    runsheet = sheet(replace(plan, steps=steps))
    progress = follow(runsheet, {"W:amps@North": 50.0, "W:amps@South": 12.0})
    states = {p.line: p.state for p in progress.lines}
    assert (states["W:seal@North"], states["W:seal@South"]) == ("due", "hidden")
    assert [line.under for line in lay_out(runsheet, {}).lines if line.step == "seal"] == [
        "W:pump@North",
        "W:pump@South",
    ]


def test_what_a_pump_was_answered_goes_with_its_name_and_not_with_its_place() -> None:
    runsheet = sheet(pump(Repeat(per="pump", over="on site")))
    answers: dict[str, Answer] = {"W:pump@": ("A", "B"), "W:amps@B": 22.0}
    assert follow(runsheet, answers).computed == {}
    only_b = {**answers, "W:pump@": ("B",)}
    assert follow(runsheet, only_b).computed == {"W:worst": 22.0}


def test_findings_of_a_repeat_say_which() -> None:
    dry = YesNo(id="dry", label="Seal dry")
    limited = replace(AMPS, limits=Limits(high=40, owner="engineer", due_days=3))
    plan = pump(NAMED, dry)
    first = replace(plan.steps[0], questions=(limited, dry))
    progress = follow(sheet(replace(plan, steps=(first, *plan.steps[1:]))), {"W:amps@South": 41.0})
    assert [(f.sentence, f.owner, f.due_days) for f in progress.findings] == [
        ("Current, South: 41 A is above 40 A.", "engineer", 3)
    ]
