"""What changed in the questions between two revisions, in words: moved is moved, not removed and added."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.guidance.differences import compare_plans, question_text
from reedling.core.guidance.plans import AppliesWhen, FormUse, Link, Plan, Repeat, Step
from reedling.core.guidance.questions import (
    Computed,
    DateEntry,
    Instruction,
    Limits,
    MeterReading,
    OneOf,
    Option,
    Photo,
    Question,
    Raise,
    Reading,
    Scan,
    Signature,
    TextEntry,
    Tick,
    YesNo,
)
from reedling.core.guidance.skills import PartNeed
from reedling.core.logic.conditions import Comparison

BAR = Reading(id="bar", label="Pressure", unit="bar", limits=Limits(low=90, high=120))
WET = YesNo(id="wet", label="Wet")
SAY = TextEntry(id="say", label="Say")


def form(*sections: tuple[str, tuple[Question, ...]], **fields: object) -> Plan:
    steps = tuple(Step(id=name, phase="Diagnose", text=name.title(), questions=qs) for name, qs in sections)
    return Plan(title="Form", steps=steps, **fields)  # type: ignore[arg-type]


BASE = form(("one", (BAR, WET)), ("two", (SAY,)))


def told(newer: Plan, older: Plan = BASE) -> list[tuple[str, str, str, str, str]]:
    return [(d.change, d.place, d.aspect, d.before, d.after) for d in compare_plans(older, newer)]


def test_the_same_form_says_nothing() -> None:
    assert told(BASE) == []


def test_a_question_added_and_one_removed_are_named_with_their_section() -> None:
    newer = form(("one", (BAR,)), ("two", (SAY, Tick(id="t"))))
    assert [(d.change, d.title, d.before, d.after) for d in compare_plans(BASE, newer)] == [
        ("added", "“Done” of “Two”", "", "tick “Done”"),
        ("removed", "“Wet” of “One”", "yes no “Wet”", ""),
    ]


def test_a_question_that_went_to_another_section_is_moved() -> None:
    assert told(form(("one", (BAR,)), ("two", (WET, SAY)))) == [("moved", "wet", "", "on “One”", "on “Two”")]


def test_of_two_that_changed_places_one_is_moved() -> None:
    changes = [(c, p) for c, p, *_ in told(form(("one", (WET, BAR)), ("two", (SAY,))))]
    assert changes in ([("moved", "bar")], [("moved", "wet")])


def test_the_questions_of_a_section_that_moved_are_not_moved_too() -> None:
    assert [(c, p) for c, p, *_ in told(form(("two", (SAY,)), ("one", (BAR, WET))))] in (
        [("moved", "one")],
        [("moved", "two")],
    )


def test_a_section_that_is_gone_takes_its_questions_along() -> None:
    assert [(c, p) for c, p, *_ in told(form(("one", (BAR, WET))))] == [("removed", "two")]


@pytest.mark.parametrize(
    ("newer", "aspect", "before", "after"),
    [
        (
            replace(BAR, limits=Limits(low=85, high=120)),
            "question",
            "reading “Pressure” in bar, want 90 to 120 bar",
            "reading “Pressure” in bar, want 85 to 120 bar",
        ),
        (
            replace(BAR, units=("psi",)),
            "question",
            "reading “Pressure” in bar, want 90 to 120 bar",
            "reading “Pressure” in bar or psi, want 90 to 120 bar",
        ),
        (replace(BAR, detail="At the pack"), "detail", "", "At the pack"),
        (replace(BAR, required="never"), "required", "always", "never"),
        (
            replace(
                BAR,
                required="when",
                required_when=Comparison(question="asset.model", operator="is", value="PP2"),
            ),
            "required",
            "always",
            "when the asset's model is PP2",
        ),
        (replace(BAR, prefill="last"), "filled in from", "nothing", "last"),
        (replace(BAR, write_back="asset.set"), "written back to", "nothing", "asset.set"),
        (
            replace(
                BAR,
                raises=(
                    Raise(when=Comparison(question="bar", operator="above", value=150.0), says="Too high"),
                ),
            ),
            "findings",
            "none",
            "Act when pressure is above 150 bar: Too high",
        ),
        (
            replace(BAR, limits=replace(BAR.limits, due_days=7)),
            "findings",
            "none",
            "outside a limit: planner, within 7 days",
        ),
    ],
)
def test_what_changed_of_a_question_is_said_aspect_by_aspect(
    newer: Question, aspect: str, before: str, after: str
) -> None:
    assert told(form(("one", (newer, WET)), ("two", (SAY,)))) == [("changed", "bar", aspect, before, after)]


def test_when_a_question_is_asked_is_said_in_words() -> None:
    asked = replace(WET, condition=Comparison(question="bar", operator="below", value=90.0))
    assert told(form(("one", (BAR, asked)), ("two", (SAY,)))) == [
        ("changed", "wet", "asked when", "always", "pressure is below 90 bar")
    ]


@pytest.mark.parametrize(
    ("question", "words"),
    [
        (
            Computed(id="c", label="Gap", formula="a - b", unit="bar", limits=Limits(high_high=3)),
            "computed “Gap” = a - b in bar, want 3 bar or less, stop above 3",
        ),
        (
            Reading(id="r", label="R", unit="A", lowest=0, highest=400),
            "reading “R” in A, shows 0 to 400",
        ),
        (
            OneOf(
                id="o", label="Seat", options=(Option(id="a", label="Sound"), Option(id="b", label="Worn"))
            ),
            "one of “Seat”: Sound, Worn",
        ),
        (Photo(id="p", label="Lock", moment="before"), "photo “Lock”, before"),
        (Signature(id="s", label="Keeper"), "signature “Keeper”, by the keeper"),
        (Scan(id="s", label="Plate", equals="P1"), "scan “Plate”, must be P1"),
        (MeterReading(id="m", label="Hours", meter="hours"), "meter “Hours” of hours"),
        (TextEntry(id="t", label="Say", ready=("Fine.", "Worn.")), "text “Say”, ready: Fine.; Worn."),
        (Instruction(id="i", label="Look", pictures=("a", "b")), "instruction “Look”, 2 pictures"),
        (DateEntry(id="d", label="Due"), "date “Due”"),
    ],
)
def test_a_question_in_one_line(question: Question, words: str) -> None:
    assert question_text(question) == words


def test_what_belongs_to_the_whole_is_compared_too() -> None:
    newer = replace(
        BASE,
        phrases=("Fine.",),
        links=(Link(title="Drawing", address="/d"),),
        forms=(FormUse(form="FM-1"),),
        applies_when=AppliesWhen(equipment="rake"),
    )
    assert {(a, after) for _, _, a, _, after in told(newer)} == {
        ("ready phrases", "Fine."),
        ("links", "Drawing (/d)"),
        ("forms", "FM-1 in Prove"),
        ("applies when", "equipment rake, model any, symptom any"),
    }


@pytest.mark.parametrize(
    ("fields", "aspect", "after"),
    [
        ({"safety": "Lock it"}, "safety note", "Lock it"),
        ({"chance": 0.25}, "chance", "25 %"),
        ({"standard": "SS-1"}, "standard step", "SS-1"),
        ({"form": "FM-1"}, "form", "FM-1"),
        ({"repeat": Repeat(per="pump", names=("A", "B"))}, "repeat", "once per pump: A, B"),
        ({"repeat": Repeat(per="door", over="on site")}, "repeat", "once per door: found on site"),
        ({"pictures": ("a",)}, "pictures", "1"),
        (
            {
                "parts": (
                    PartNeed(part="OIL", condition=Comparison(question="wet", operator="is", value=True)),
                )
            },
            "parts",
            "1 × OIL when wet is yes",
        ),
    ],
)
def test_what_changed_of_a_step_is_said_aspect_by_aspect(
    fields: dict[str, object], aspect: str, after: str
) -> None:
    steps = (BASE.steps[0], replace(BASE.steps[1], **fields))  # type: ignore[arg-type]
    assert [(a, new) for _, _, a, _, new in told(replace(BASE, steps=steps))] == [(aspect, after)]


@given(st.permutations(list("abcdefgh")), st.integers(0, 8))
def test_the_fewest_questions_are_called_moved(order: list[str], cut: int) -> None:
    """Those called moved are as few as can be: the rest kept their order, and no longer run did."""
    older = form(("one", tuple(Tick(id=i) for i in "abcdefgh")))
    newer = form(("one", tuple(Tick(id=i) for i in order)))
    moved = {p for c, p, *_ in told(newer, older) if c == "moved"}
    stayed = [i for i in order if i not in moved]
    assert stayed == sorted(stayed)
    longest = 0
    for mask in range(2 ** len(order)):
        run = [i for n, i in enumerate(order) if mask >> n & 1]
        if run == sorted(run):
            longest = max(longest, len(run))
    assert len(stayed) == longest
