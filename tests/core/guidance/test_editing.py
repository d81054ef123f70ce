"""Structural edits keep a plan in order, whatever is done to it."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.guidance.editing import (
    AddLines,
    AddStep,
    BranchStep,
    MoveStep,
    PlaceStep,
    PlanEdit,
    RemoveStep,
    UnbranchStep,
    arranged,
    edit_plan,
    suggested_condition,
)
from reedling.core.guidance.phases import PHASES, phase_rank
from reedling.core.guidance.plans import Plan, Step, depth_of, step_by_id
from reedling.core.guidance.questions import OneOf, Option, Tick, YesNo
from reedling.core.logic.conditions import Comparison
from reedling.errors import NotFound
from tests.plans import gauge, rake_plan


def ids(plan: Plan) -> list[str]:
    return [s.id for s in plan.steps]


def edit(plan: Plan, change: PlanEdit) -> Plan:
    return edit_plan(plan, change, new_id="new", new_question_id="q-new")


def test_a_new_step_stands_below_the_one_it_was_added_to() -> None:
    plan = edit(rake_plan(), AddStep(text="Look around", after="lock"))
    assert ids(plan) == ["lock", "new", "read", "valve", "fit", "run"]
    assert step_by_id(plan, "new") == Step(
        id="new", phase="Make safe", text="Look around", questions=(Tick(id="q-new"),)
    )


def test_a_step_added_below_a_step_with_branches_stands_behind_them() -> None:
    assert ids(edit(rake_plan(), AddStep(after="read"))) == ["lock", "read", "valve", "new", "fit", "run"]


def test_a_step_added_below_a_branch_is_its_sibling() -> None:
    added = step_by_id(edit(rake_plan(), AddStep(after="valve")), "new")
    assert added is not None
    assert added.under == "read"


def test_a_step_added_to_an_empty_phase_makes_that_phase() -> None:
    plan = edit(rake_plan(), AddStep(text="Sign in", phase="Arrive"))
    assert ids(plan)[0] == "new"


def test_moving_up_over_the_top_of_a_phase_enters_the_phase_before() -> None:
    plan = edit(rake_plan(), MoveStep(step="fit", direction="up"))
    moved = step_by_id(plan, "fit")
    assert moved is not None
    assert moved.phase == "Diagnose"
    assert ids(plan) == ["lock", "read", "valve", "fit", "run"]


def test_a_step_moves_with_its_branches() -> None:
    plan = edit(rake_plan(), MoveStep(step="read", direction="down"))
    assert ids(plan) == ["lock", "read", "valve", "fit", "run"]
    assert {s.id: s.phase for s in plan.steps}["valve"] == "Put right"


def test_the_first_step_of_all_cannot_move_up_and_nothing_is_lost() -> None:
    plan = edit(rake_plan(), MoveStep(step="lock", direction="up"))
    plan = edit(plan, MoveStep(step="lock", direction="up"))
    assert ids(plan) == ids(rake_plan())


def test_a_branch_hangs_on_the_step_above_with_the_likeliest_condition() -> None:
    plan = edit(rake_plan(), AddStep(text="Top up the oil", after="read"))
    branched = step_by_id(edit(plan, BranchStep(step="new")), "new")
    assert branched is not None
    assert branched.under == "read"
    assert branched.condition == Comparison(question="bar", operator="below", value=90)


def test_back_to_the_stem_keeps_the_condition() -> None:
    plan = edit(rake_plan(), UnbranchStep(step="valve"))
    freed = step_by_id(plan, "valve")
    assert freed is not None
    assert (freed.under, freed.condition) == (None, Comparison(question="bar", operator="below", value=90.0))


def test_removing_a_step_removes_what_hangs_on_it() -> None:
    assert ids(edit(rake_plan(), RemoveStep(step="read"))) == ["lock", "fit", "run"]


def test_placing_puts_a_step_before_another_or_last_in_a_phase() -> None:
    assert ids(edit(rake_plan(), PlaceStep(step="run", phase="Make safe", before="lock")))[0] == "run"
    assert ids(edit(rake_plan(), PlaceStep(step="lock", phase="Prove"))) == [
        "read",
        "valve",
        "fit",
        "run",
        "lock",
    ]


def test_pasted_lines_become_steps_one_below_the_other() -> None:
    text = "1. Open the hatch\n\n  2) Look for weed\n- Take a 24 V reading\n☐ 3 bolts back in\n• Close it\n"
    plan = edit(rake_plan(), AddLines(text=text, after="lock"))
    made = [s for s in plan.steps if s.id.startswith("new-")]
    assert [s.text for s in made] == [
        "Open the hatch",
        "Look for weed",
        "Take a 24 V reading",
        "3 bolts back in",
        "Close it",
    ]
    assert ids(plan)[:3] == ["lock", "new-1", "new-2"]
    assert len({p.id for s in made for p in s.questions}) == 5


def test_a_step_that_is_gone_is_named() -> None:
    with pytest.raises(
        NotFound, match=r"plan “Rake stalls”: there is no step nowhere in this draft\. Somebody may"
    ):
        edit(rake_plan(), RemoveStep(step="nowhere"))


@pytest.mark.parametrize(
    ("question", "expected"),
    [
        (gauge(low=None), Comparison(question="bar", operator="above", value=120)),
        (YesNo(id="y", label="Sound"), Comparison(question="y", operator="is", value=False)),
        (
            OneOf(id="o", label="O", options=(Option(id="a", label="A"), Option(id="b", label="B"))),
            Comparison(question="o", operator="is", value="a"),
        ),
        (Tick(id="t"), None),
    ],
)
def test_a_suggested_condition_fits_its_question(question: Tick, expected: Comparison | None) -> None:
    assert suggested_condition(Step(id="s", phase="Arrive", text="x", questions=(question,))) == expected


def test_steps_that_hang_on_each_other_in_a_ring_return_to_the_stem() -> None:
    a = Step(id="a", phase="Arrive", text="a", under="b")
    b = Step(id="b", phase="Arrive", text="b", under="a")
    assert [s.under for s in arranged((a, b))] == [None, None]


NAMES = st.sampled_from(["lock", "read", "valve", "fit", "run", "new"])
EDITS: st.SearchStrategy[PlanEdit] = st.one_of(
    st.builds(AddStep, after=NAMES),
    st.builds(AddLines, text=st.text(max_size=20), after=NAMES),
    st.builds(MoveStep, step=NAMES, direction=st.sampled_from(["up", "down"])),
    st.builds(PlaceStep, step=NAMES, phase=st.sampled_from(PHASES), before=st.none() | NAMES),
    st.builds(BranchStep, step=NAMES),
    st.builds(UnbranchStep, step=NAMES),
    st.builds(RemoveStep, step=NAMES),
)


@given(st.lists(EDITS, max_size=14))
def test_any_row_of_edits_leaves_a_plan_in_order(edits: list[PlanEdit]) -> None:
    plan = rake_plan()
    for n, change in enumerate(edits):
        before = set(ids(plan))
        try:
            plan = edit_plan(plan, change, new_id=f"n{n}", new_question_id=f"q{n}")
        except NotFound:
            continue
        if not isinstance(change, AddStep | AddLines | RemoveStep):
            assert set(ids(plan)) == before
    ranks = [phase_rank(s.phase) for s in plan.steps]
    assert ranks == sorted(ranks)
    assert len(set(ids(plan))) == len(plan.steps)
    for i, step in enumerate(plan.steps):
        if step.under is not None:
            parent = step_by_id(plan, step.under)
            assert parent is not None
            assert parent.phase == step.phase
            assert plan.steps.index(parent) < i
            assert depth_of(plan, plan.steps[i - 1]) >= depth_of(plan, step) - 1
    assert arranged(plan.steps) == plan.steps


def test_arranging_keeps_the_given_order_within_a_phase() -> None:
    plan = rake_plan()
    shuffled = tuple(reversed(plan.steps))
    assert ids(replace(plan, steps=arranged(shuffled))) == ["lock", "read", "valve", "fit", "run"]


def test_a_new_step_asks_that_it_is_done_and_a_new_section_asks_nothing() -> None:
    empty = Plan(title="P")
    for kind, n_asked in (("plan", 1), ("standard step", 1), ("form", 0)):
        made = edit_plan(empty, AddStep(text="Look"), new_id="s", new_question_id="q", kind=kind)  # type: ignore[arg-type]
        assert [len(s.questions) for s in made.steps] == [n_asked]
