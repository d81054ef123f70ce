"""Standard steps and forms by reference: filled in, and named for where they were written."""

from __future__ import annotations

from reedling.core.guidance.plans import FormUse, Minutes, Plan, Step
from reedling.core.guidance.questions import Computed, Limits, Reading, TextEntry, Tick
from reedling.core.guidance.reuse import Shared, SharedPlans, fill_in, references
from reedling.core.logic.conditions import Answer, Comparison
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Source
from tests.runs import follow

LOCK = Plan(
    title="Lock off",
    steps=(
        Step(
            id="lock",
            phase="Make safe",
            text="Lock off the drive",
            minutes=Minutes(likely=8),
            safety="It can start by itself.",
            questions=(Tick(id="locked"), TextEntry(id="permit", label="Permit")),
        ),
    ),
)
SURVEY = Plan(
    title="Survey",
    steps=(
        Step(
            id="amps",
            phase="Diagnose",
            text="Currents",
            minutes=Minutes(likely=6),
            questions=(
                Reading(id="a", name="a", label="A", unit="A"),
                Reading(id="b", name="b", label="B", unit="A"),
                Computed(id="sum", label="Sum", formula="a + b", unit="A", limits=Limits(high=50)),
            ),
        ),
        Step(
            id="more",
            phase="Diagnose",
            text="More",
            condition=Comparison(question="sum", operator="above", value=50.0),
            questions=(Tick(id="looked"),),
        ),
    ),
)
LIBRARY = SharedPlans(
    standards={"SS-1": Shared(document="SS-1", revision="B", plan=LOCK)},
    forms={"FM-1": Shared(document="FM-1", revision="C", plan=SURVEY)},
)
PLAN = Plan(
    title="Visit",
    steps=(
        Step(id="one", phase="Make safe", text="", standard="SS-1"),
        Step(id="two", phase="Make safe", text="Lock off the second drive", standard="SS-1"),
        Step(
            id="fill",
            phase="Diagnose",
            text="Survey it",
            minutes=Minutes(likely=1),
            form="FM-1",
            questions=(),
        ),
        Step(
            id="late",
            phase="Put right",
            text="Ease the load",
            condition=Comparison(question="fill/sum", operator="above", value=50.0),
            questions=(Tick(id="eased"),),
        ),
    ),
)
SOURCE = Source(document="W", revision="A", title="Visit")


def test_a_standard_step_does_what_its_document_says_under_the_plans_own_words() -> None:
    filled = fill_in(PLAN, LIBRARY)
    first, second = filled.plan.steps[:2]
    assert (first.text, second.text) == ("Lock off the drive", "Lock off the second drive")
    assert first.minutes == second.minutes == Minutes(likely=8)
    assert [q.id for q in first.questions] == ["one/locked", "one/permit"]
    assert [q.id for q in second.questions] == ["two/locked", "two/permit"]
    assert filled.origins["one"].standard == "SS-1 B"


def test_a_forms_sections_hang_under_the_step_that_fills_it_in() -> None:
    filled = fill_in(PLAN, LIBRARY)
    assert [(s.id, s.under) for s in filled.plan.steps[2:5]] == [
        ("fill", None),
        ("fill/amps", "fill"),
        ("fill/more", "fill"),
    ]
    origin = filled.origins["fill/amps"]
    assert (origin.document, origin.revision, origin.step, origin.index) == ("FM-1", "C", "amps", 2)
    assert filled.reused == ("SS-1", "FM-1")


def test_a_reference_to_nothing_is_named_and_left_as_it_is() -> None:
    filled = fill_in(PLAN, SharedPlans())
    assert filled.missing == ("SS-1", "FM-1")
    assert len(filled.plan.steps) == 4


def test_a_form_that_goes_with_the_plan_stands_last_in_its_phase() -> None:
    plan = Plan(title="t", steps=PLAN.steps[:1], forms=(FormUse(form="FM-1", phase="Make safe"),))
    assert list(references(plan)) == ["SS-1", "FM-1"]
    assert [s.id for s in fill_in(plan, LIBRARY).plan.steps] == [
        "one",
        "form-FM-1",
        "form-FM-1/amps",
        "form-FM-1/more",
    ]


def test_the_runsheet_keeps_where_each_line_was_written_and_at_which_revision() -> None:
    sheet = compile_runsheet([(SOURCE, PLAN)], shared=LIBRARY)
    assert [(s.document, s.revision) for s in sheet.sources] == [("W", "A"), ("SS-1", "B"), ("FM-1", "C")]
    by_id = {line.id: line for line in sheet.lines}
    assert (by_id["W:one"].document, by_id["W:one"].standard) == ("W", "SS-1 B")
    amps = by_id["W:fill/amps"]
    assert (amps.document, amps.revision, amps.step) == ("FM-1", "C", "amps")


def test_a_safety_note_is_acknowledged_before_the_step_counts_as_done() -> None:
    sheet = compile_runsheet([(SOURCE, PLAN)], shared=LIBRARY)
    answers: dict[str, Answer] = {"W:one/locked": True, "W:one/permit": "P-1"}
    assert follow(sheet, answers).lines[0].missing == ("W:one!",)
    assert follow(sheet, {**answers, "W:one!": True}).lines[0].missing == ()


def test_a_later_step_depends_on_what_a_form_was_answered() -> None:
    sheet = compile_runsheet([(SOURCE, PLAN)], shared=LIBRARY)
    states = {p.line: p.state for p in follow(sheet, {"W:fill/a": 30.0, "W:fill/b": 25.0}).lines}
    assert (states["W:late"], states["W:fill/more"]) == ("due", "due")
    states = {p.line: p.state for p in follow(sheet, {"W:fill/a": 3.0, "W:fill/b": 2.0}).lines}
    assert (states["W:late"], states["W:fill/more"]) == ("hidden", "hidden")
