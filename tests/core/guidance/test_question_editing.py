"""Edits of questions and of words: each a small structural change that keeps identities."""

from __future__ import annotations

from dataclasses import replace

import pytest

from reedling.core.guidance.editing import (
    AddStep,
    CopySteps,
    PlaceSteps,
    PlanEdit,
    RemoveSteps,
    UseDocument,
    edit_plan,
    insert_steps,
)
from reedling.core.guidance.plans import Plan, Step
from reedling.core.guidance.question_editing import (
    AddPhotoSet,
    AddQuestion,
    BranchQuestion,
    ChangeKind,
    MoveQuestion,
    PlaceQuestion,
    QuestionKind,
    RemoveQuestion,
    ReplaceText,
    find_text,
    question_depths,
    telling_condition,
)
from reedling.core.guidance.questions import (
    AnyOf,
    Computed,
    Limits,
    OneOf,
    Option,
    Photo,
    Question,
    Raise,
    Reading,
    TextEntry,
    Tick,
    YesNo,
    answer_problem,
    answer_text,
)
from reedling.core.logic.conditions import Answer, Comparison, Conjunction
from reedling.core.logic.units import Quantity
from reedling.errors import NotFound
from tests.plans import rake_plan

SHEET = Plan(
    title="Seal survey",
    summary="Every seal",
    phrases=("Seal was dry.",),
    steps=(
        Step(
            id="one",
            phase="Diagnose",
            text="Seals",
            detail="Look at each seal",
            safety="Seal chambers hold pressure",
            questions=(
                Reading(id="bar", label="Seal pressure", unit="bar", limits=Limits(low=2)),
                YesNo(id="dry", label="Dry", detail="The seal, not the pump"),
                TextEntry(id="say", label="Say", ready=("New seal fitted.",)),
            ),
        ),
        Step(
            id="two",
            phase="Diagnose",
            text="Rest",
            questions=(
                OneOf(
                    id="state",
                    label="State",
                    options=(Option(id="a", label="Seal sound"), Option(id="b", label="Worn")),
                    raises=(
                        Raise(
                            when=Comparison(question="state", operator="is", value="b"), says="Seal is worn"
                        ),
                    ),
                ),
            ),
        ),
    ),
)


def edited(edit: PlanEdit, plan: Plan = SHEET, source: Plan | None = None) -> Plan:
    return edit_plan(plan, edit, new_id="s-1", new_question_id="q-1", source=source)


def ids(plan: Plan) -> list[list[str]]:
    return [[q.id for q in s.questions] for s in plan.steps]


def first(plan: Plan, question: str) -> Question:
    return next(q for s in plan.steps for q in s.questions if q.id == question)


@pytest.mark.parametrize(
    ("edit", "order"),
    [
        (AddQuestion(step="one", question_kind="tick"), [["bar", "dry", "say", "q-1"], ["state"]]),
        (
            AddQuestion(step="one", question_kind="tick", after="bar"),
            [["bar", "q-1", "dry", "say"], ["state"]],
        ),
        (MoveQuestion(question="dry", direction="up"), [["dry", "bar", "say"], ["state"]]),
        (MoveQuestion(question="say", direction="down"), [["bar", "dry"], ["say", "state"]]),
        (MoveQuestion(question="state", direction="up"), [["bar", "dry", "say", "state"], []]),
        (MoveQuestion(question="bar", direction="up"), [["bar", "dry", "say"], ["state"]]),
        (PlaceQuestion(question="bar", step="two", before="state"), [["dry", "say"], ["bar", "state"]]),
        (PlaceQuestion(question="bar", step="two"), [["dry", "say"], ["state", "bar"]]),
        (PlaceQuestion(question="bar", step="one", before="bar"), [["bar", "dry", "say"], ["state"]]),
        (RemoveQuestion(question="dry"), [["bar", "say"], ["state"]]),
        (
            AddPhotoSet(step="two"),
            [["bar", "dry", "say"], ["state", "q-1-1", "q-1-2", "q-1-3"]],
        ),
    ],
)
def test_questions_go_where_they_are_put(edit: PlanEdit, order: list[list[str]]) -> None:
    assert ids(edited(edit)) == order


def test_the_photo_set_is_before_nameplate_and_finished() -> None:
    photos = edited(AddPhotoSet(step="two")).steps[1].questions[1:]
    assert [(p.label, p.moment) for p in photos if isinstance(p, Photo)] == [
        ("Before", "before"),
        ("Nameplate", "nameplate"),
        ("Finished", "after"),
    ]


KINDS: tuple[QuestionKind, ...] = (
    "tick",
    "reading",
    "yes_no",
    "one_of",
    "any_of",
    "text",
    "date",
    "photo",
    "signature",
    "scan",
    "meter",
    "computed",
    "instruction",
)


@pytest.mark.parametrize("kind", KINDS)
def test_a_question_becomes_another_kind_and_keeps_what_it_is(kind: QuestionKind) -> None:
    condition = Comparison(question="bar", operator="below", value=2.0)
    plan = replace(
        SHEET,
        steps=(
            replace(
                SHEET.steps[0],
                questions=(
                    SHEET.steps[0].questions[0],
                    replace(SHEET.steps[0].questions[1], condition=condition),
                ),
            ),
        ),
    )
    changed = first(edited(ChangeKind(question="dry", question_kind=kind), plan), "dry")
    assert (changed.kind, changed.id, changed.detail) == (kind, "dry", "The seal, not the pump")
    assert changed.condition == condition


def test_a_reading_that_becomes_computed_keeps_its_unit_and_limits() -> None:
    changed = first(edited(ChangeKind(question="bar", question_kind="computed")), "bar")
    assert isinstance(changed, Computed)
    assert (changed.unit, changed.limits) == ("bar", Limits(low=2))


def test_one_of_becomes_any_of_with_its_answers() -> None:
    changed = first(edited(ChangeKind(question="state", question_kind="any_of")), "state")
    assert isinstance(changed, AnyOf)
    assert [o.label for o in changed.options] == ["Seal sound", "Worn"]


@pytest.mark.parametrize(
    ("above", "operator", "value"),
    [
        (Reading(id="x", label="X", unit="bar", limits=Limits(low=2, high=4)), "below", 2),
        (Reading(id="x", label="X", unit="bar", limits=Limits(high=4)), "above", 4),
        (YesNo(id="x", label="X"), "is", False),
        (OneOf(id="x", label="X", options=(Option(id="a", label="A"),)), "is", "a"),
        (AnyOf(id="x", label="X", options=(Option(id="a", label="A"),)), "includes any", ("a",)),
    ],
)
def test_the_telling_answer_of_a_question(above: Question, operator: str, value: object) -> None:
    found = telling_condition(above)
    assert isinstance(found, Comparison)
    assert (found.question, found.operator, found.value) == ("x", operator, value)


@pytest.mark.parametrize(
    "silent", [Tick(id="x"), Photo(id="x", label="P"), Reading(id="x", label="X", unit="m")]
)
def test_some_questions_open_nothing_by_themselves(silent: Question) -> None:
    assert telling_condition(silent) is None


def test_a_question_is_branched_under_the_one_above_it_that_can_open_it() -> None:
    plan = edited(BranchQuestion(question="say"))
    assert first(plan, "say").condition == Comparison(question="dry", operator="is", value=False)
    assert question_depths(plan.steps[0]) == {"bar": 0, "dry": 0, "say": 1}
    assert edited(BranchQuestion(question="bar")) == SHEET


def test_a_question_hangs_as_deep_as_the_deepest_that_opens_it() -> None:
    both = Conjunction(
        parts=(
            Comparison(question="bar", operator="below", value=2.0),
            Comparison(question="dry", operator="is", value=False),
        )
    )
    dry = replace(
        SHEET.steps[0].questions[1], condition=Comparison(question="bar", operator="below", value=2.0)
    )
    say = replace(SHEET.steps[0].questions[2], condition=both)
    other = Tick(id="t", condition=Comparison(question="elsewhere", operator="answered"))
    step = replace(SHEET.steps[0], questions=(SHEET.steps[0].questions[0], dry, say, other))
    assert question_depths(step) == {"bar": 0, "dry": 1, "say": 2, "t": 1}


@pytest.mark.parametrize(
    "edit",
    [
        RemoveQuestion(question="gone"),
        MoveQuestion(question="gone", direction="up"),
        AddQuestion(step="gone", question_kind="tick"),
        PlaceQuestion(question="bar", step="gone"),
        ChangeKind(question="gone", question_kind="tick"),
        BranchQuestion(question="gone"),
    ],
)
def test_an_edit_of_what_is_gone_says_so(edit: PlanEdit) -> None:
    with pytest.raises(NotFound, match=r"there is no (question|step) gone in this draft"):
        edited(edit)


# Words


def test_words_are_found_wherever_the_document_has_them() -> None:
    assert [(p.step, p.what) for p in find_text(SHEET, "seal")] == [
        ("", "title"),
        ("", "summary"),
        ("", "ready phrase"),
        ("one", "text"),
        ("one", "detail"),
        ("one", "safety note"),
        ("one", "question"),
        ("one", "question detail"),
        ("one", "ready answer"),
        ("two", "finding"),
        ("two", "answer"),
    ]
    assert [p.what for p in find_text(SHEET, "seal", match_case=True)] == [
        "summary",
        "detail",
        "question detail",
        "ready answer",
    ]
    assert find_text(SHEET, "") == ()


def test_replacing_leaves_nothing_behind_and_touches_no_identity() -> None:
    after = edited(ReplaceText(find="seal", by="gland"))
    assert find_text(after, "seal") == ()
    assert len(find_text(after, "gland")) == 11
    assert ids(after) == ids(SHEET)
    assert edited(ReplaceText(find="", by="x")) == SHEET


@pytest.mark.parametrize("find", [".", "(", "\\", "a|b", "[x]"])
def test_what_is_searched_for_is_words_and_not_a_pattern(find: str) -> None:
    plan = replace(SHEET, title=f"Survey {find} done")
    assert edited(ReplaceText(find=find, by="!", match_case=True), plan).title == "Survey ! done"


# Several steps at once


def names(plan: Plan) -> list[tuple[str, str]]:
    return [(s.phase, s.id) for s in plan.steps]


def test_several_steps_move_to_a_phase_in_the_order_they_stand() -> None:
    after = edited(PlaceSteps(steps=("run", "read"), phase="Arrive"), rake_plan())
    assert names(after) == [
        ("Arrive", "read"),
        ("Arrive", "valve"),
        ("Arrive", "run"),
        ("Make safe", "lock"),
        ("Put right", "fit"),
    ]


def test_a_branch_picked_with_its_step_moves_once() -> None:
    after = edited(PlaceSteps(steps=("read", "valve"), phase="Prove"), rake_plan())
    assert [s.under for s in after.steps if s.id == "valve"] == ["read"]
    assert names(after)[-2:] == [("Prove", "read"), ("Prove", "valve")]


def test_several_steps_are_removed_with_what_hangs_on_them() -> None:
    assert [s.id for s in edited(RemoveSteps(steps=("read", "run")), rake_plan()).steps] == ["lock", "fit"]


def test_copied_steps_hang_together_under_new_identities() -> None:
    after = edited(CopySteps(source="W", steps=("read",), after="run"), rake_plan())
    made = after.steps[-2:]
    assert [s.id for s in made] == ["s-1-1", "s-1-2"]
    assert made[1].under == "s-1-1"
    assert made[1].condition == Comparison(question="s-1-1q1", operator="below", value=90.0)
    assert {s.phase for s in made} == {"Prove"}
    everything = [q.id for s in after.steps for q in s.questions]
    assert len(everything) == len(set(everything))


def test_a_condition_on_what_stayed_behind_is_left_out() -> None:
    fit = next(s for s in rake_plan().steps if s.id == "fit")
    empty = Plan(title="t")
    (made,) = insert_steps(empty, [fit], after=None, new_id="n").steps
    assert made.condition is None
    (kept,) = [s for s in insert_steps(rake_plan(), [fit], after="fit", new_id="n").steps if s.id == "n-1"]
    assert kept.condition == fit.condition


def test_a_step_that_reuses_asks_nothing_of_its_own() -> None:
    after = edited(UseDocument(document="SS-1", what="standard", after="lock"), rake_plan())
    step = after.steps[1]
    assert (step.id, step.standard, step.form, step.questions, step.phase) == (
        "s-1",
        "SS-1",
        None,
        (),
        "Make safe",
    )
    form = edited(UseDocument(document="FM-1", what="form", text="Fill it in", phase="Prove"), rake_plan())
    assert (form.steps[-1].form, form.steps[-1].text) == ("FM-1", "Fill it in")
    assert edited(AddStep(phase="Prove"), rake_plan()).steps[-1].form is None


# Answers of every kind: which fit, and how they are written down


@pytest.mark.parametrize(
    ("question", "good", "words", "bad"),
    [
        (AnyOf(id="x", label="X", options=(Option(id="a", label="Rub"),)), ("a",), "Rub", ("z",)),
        (AnyOf(id="x", label="X", options=(Option(id="a", label="Rub"),)), (), "none", "a"),
        (
            Reading(id="x", label="X", unit="°C", units=("°F",)),
            Quantity(value=212.0, unit="°F"),
            "212 °F (100 °C)",
            Quantity(value=1.0, unit="bar"),
        ),
        (Reading(id="x", label="X", unit="bar", lowest=0), 3.5, "3.5 bar", -1.0),
        (Reading(id="x", label="X", unit="bar"), 3.5, "3.5 bar", float("nan")),
        (YesNo(id="x", label="X"), False, "no", 0.0),
    ],
)
def test_an_answer_fits_its_question_or_is_refused_in_a_sentence(
    question: Question, good: Answer, words: str, bad: Answer
) -> None:
    assert answer_problem(question, good) is None
    assert answer_text(question, good) == words
    problem = answer_problem(question, bad)
    assert problem is not None
    assert problem.startswith("“X” ")
