"""Runsheets and their progress: what is shown, due, wrong and raised."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from reedling.core.guidance.plans import Minutes, Plan, Step
from reedling.core.guidance.questions import Limits, Reading, Tick
from reedling.core.logic.conditions import Answer, Comparison, Disjunction, Negation
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Source
from reedling.core.runsheet.progress import refused_answers
from tests.plans import rake_plan, sheet_of
from tests.runs import consequence_of, follow

SHEET = sheet_of(rake_plan())


def states(
    answers: dict[str, Answer], done: tuple[str, ...] = (), skipped: tuple[str, ...] = ()
) -> dict[str, str]:
    return {p.line: p.state for p in follow(SHEET, answers, done=done, skipped=skipped).lines}


def test_lines_remember_where_they_were_written() -> None:
    line = SHEET.lines[2]
    assert (line.id, line.document, line.revision, line.step, line.under) == (
        "W:valve",
        "W",
        "A",
        "valve",
        "W:read",
    )
    assert line.when == "pressure is below 90 bar"


def test_several_plans_join_by_phase_then_in_their_order() -> None:
    tidy = Plan(
        title="Tidy",
        steps=(
            Step(id="sign", phase="Arrive", text="Sign in"),
            Step(id="read", phase="Diagnose", text="Look round", questions=(Tick(id="bar"),)),
        ),
    )
    both = compile_runsheet(
        [
            (Source(document="W", revision="A", title="Rake"), rake_plan()),
            (Source(document="T", revision="C", title="Tidy"), tidy),
        ]
    )
    assert [line.id for line in both.lines] == [
        "T:sign",
        "W:lock",
        "W:read",
        "W:valve",
        "T:read",
        "W:fit",
        "W:run",
    ]
    assert consequence_of(both, {"T:bar": True}, "W:bar") is None


def test_a_branch_is_open_until_its_question_is_answered() -> None:
    assert states({})["W:valve"] == "open question"
    assert states({"W:bar": 84.0})["W:valve"] == "due"
    assert states({"W:bar": 100.0})["W:valve"] == "hidden"


def test_what_hangs_on_a_hidden_question_is_hidden_too() -> None:
    assert states({"W:bar": 100.0})["W:fit"] == "hidden"


def test_a_hidden_question_has_no_answer_for_any_condition_but_keeps_it_for_later() -> None:
    answers: dict[str, Answer] = {"W:bar": 84.0, "W:seat": "scored"}
    assert states(answers)["W:fit"] == "due"
    assert states({**answers, "W:bar": 100.0})["W:fit"] == "hidden"
    assert states({**answers, "W:bar": 80.0})["W:fit"] == "due"


def test_either_of_two_questions_settles_an_alternative_although_one_is_hidden() -> None:
    plan = rake_plan()
    other = Step(
        id="other",
        phase="Put right",
        text="Something else",
        condition=Disjunction(
            parts=(
                Comparison(question="seat", operator="is", value="sound"),
                Comparison(question="bar", operator="above", value=120.0),
            )
        ),
    )
    sheet = sheet_of(replace(plan, steps=(*plan.steps[:4], other, plan.steps[4])))
    high = {p.line: p.state for p in follow(sheet, {"W:bar": 130.0}).lines}
    middle = {p.line: p.state for p in follow(sheet, {"W:bar": 100.0}).lines}
    assert (high["W:other"], middle["W:other"]) == ("due", "hidden")


def test_a_denied_condition_on_a_hidden_question_is_not_wanted() -> None:
    """Unknown stays unknown under not; once nobody can answer it, the step is not wanted."""
    plan = rake_plan()
    never = replace(
        plan.steps[3], condition=Negation(part=Comparison(question="seat", operator="is", value="sound"))
    )
    sheet = sheet_of(replace(plan, steps=(*plan.steps[:3], never, plan.steps[4])))
    assert {p.line: p.state for p in follow(sheet, {"W:bar": 100.0}).lines}["W:fit"] == "hidden"


def test_a_line_is_done_only_with_its_proof() -> None:
    assert states({}, done=("W:read",))["W:read"] == "due"
    assert states({"W:bar": 100.0}, done=("W:read",))["W:read"] == "done"


def test_a_skipped_line_settles_what_hung_on_it() -> None:
    assert states({}, skipped=("W:read",)) | {"W:lock": ""} == {
        "W:lock": "",
        "W:read": "skipped",
        "W:valve": "hidden",
        "W:fit": "hidden",
        "W:run": "due",
    }


def test_minutes_left_count_what_is_due_and_what_is_open() -> None:
    start = follow(SHEET, {})
    assert (start.minutes_left, start.minutes_open) == (32, 45)
    later = follow(SHEET, {"W:locked": True, "W:bar": 84.0}, done=("W:lock", "W:read"))
    assert (later.minutes_left, later.minutes_open, later.n_done, later.next_line) == (27, 30, 2, "W:valve")


def test_a_reading_of_160_f_against_150_f_opens_its_remedy_step() -> None:
    """Common practice, no source: a bearing at 160 °F against 150 °F fails and adds a fan replacement."""
    plan = Plan(
        title="Bearing",
        steps=(
            Step(
                id="read",
                phase="Diagnose",
                text="Read the bearing temperature",
                questions=(Reading(id="t", label="Bearing", unit="°F", limits=Limits(high=150)),),
            ),
            Step(
                id="fan",
                phase="Put right",
                text="Replace the fan",
                minutes=Minutes(likely=40),
                condition=Comparison(question="t", operator="above", value=150.0),
            ),
        ),
    )
    sheet = sheet_of(plan)
    hot = follow(sheet, {"W:t": 160.0})
    assert [(f.severity, f.sentence) for f in hot.findings] == [("Act", "Bearing: 160 °F is above 150 °F.")]
    told = consequence_of(sheet, {"W:t": 160.0}, "W:t")
    assert told is not None
    assert told.opened == ("W:fan",)
    assert told.sentence == "160 °F is above 150 °F. “Replace the fan” is added, about 40 min."
    cool = consequence_of(sheet, {"W:t": 150.0}, "W:t")
    assert cool is not None
    assert (cool.opened, cool.sentence) == ((), "")
    assert follow(sheet, {"W:t": 150.0}).findings == ()


def test_an_answer_on_a_hidden_line_has_no_consequence_and_raises_nothing() -> None:
    assert consequence_of(SHEET, {"W:bar": 100.0, "W:seat": "scored"}, "W:seat") is None
    assert consequence_of(SHEET, {}, "W:bar") is None


def test_misfits_and_strangers_among_answers_are_named() -> None:
    assert refused_answers(SHEET, {"W:bar": "high", "W:x": True, "W:locked": True}) == (
        "“Pressure” wants a number in bar, got 'high'.",
        "There is no question W:x here.",
    )


@given(
    st.fixed_dictionaries(
        {},
        optional={
            "W:bar": st.floats(0, 200),
            "W:seat": st.sampled_from(["sound", "scored"]),
            "W:locked": st.just(True),
        },
    )
)
def test_progress_never_loses_a_line_and_opened_lines_are_shown(answers: dict[str, Answer]) -> None:
    progress = follow(SHEET, answers)
    assert [p.line for p in progress.lines] == [line.id for line in SHEET.lines]
    by_line = {p.line: p.state for p in progress.lines}
    for question in answers:
        told = consequence_of(SHEET, answers, question)
        if told is not None:
            assert all(by_line[line] in ("due", "done") for line in told.opened)
