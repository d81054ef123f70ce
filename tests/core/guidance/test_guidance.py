"""Soundness of drafts, revision letters and states, differences in words, totals."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.guidance.catalogue import Catalogue, EquipmentClass, EquipmentTree, Part, Skill, Symptom
from reedling.core.guidance.differences import compare_incident_types, compare_plans
from reedling.core.guidance.editing import MoveStep, PlaceStep, edit_plan
from reedling.core.guidance.incident_type_soundness import incident_type_problems
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Minutes, Plan, Step
from reedling.core.guidance.questions import Limits, OneOf, Option, Reading, Tick
from reedling.core.guidance.revisions import letter_rank, move_revision, next_letter, require_second_person
from reedling.core.guidance.skills import PartNeed, SkillNeed
from reedling.core.guidance.soundness import plan_problems
from reedling.core.logic.conditions import Comparison
from reedling.core.rollup.plan_totals import total_plans
from reedling.errors import Conflict, InvalidInput, NotAllowed
from tests.plans import rake_plan

LISTS = Catalogue(
    equipment=(
        EquipmentClass(code="plant", name="Plant"),
        EquipmentClass(code="rake", name="Rake", parent="plant"),
    ),
    symptoms=(Symptom(code="stalls", label="Stalls"),),
    skills=(Skill(code="permit", name="Permit"), Skill(code="hydraulics", name="Hydraulics")),
    parts=(Part(code="RV-SEAT", name="Seat kit"),),
)


def changed(step: str, **fields: object) -> Plan:
    plan = rake_plan()
    return replace(plan, steps=tuple(replace(s, **fields) if s.id == step else s for s in plan.steps))  # type: ignore[arg-type]


def codes(plan: Plan) -> set[str]:
    return {p.code for p in plan_problems(plan, LISTS)}


def test_a_sound_plan_has_no_problems() -> None:
    assert plan_problems(rake_plan(), LISTS) == ()


@pytest.mark.parametrize(
    ("plan", "code"),
    [
        (replace(rake_plan(), title=" "), "plans.title"),
        (replace(rake_plan(), steps=()), "plans.empty"),
        (changed("run", phase="Leave"), "plans.no_prove"),
        (changed("lock", text=""), "steps.text"),
        (changed("lock", text="x" * 141), "steps.long_text"),
        (changed("lock", minutes=Minutes(likely=0)), "steps.minutes"),
        (changed("lock", questions=()), "steps.no_proof"),
        (changed("valve", condition=None), "steps.bare_branch"),
        (changed("lock", skills=(SkillNeed(skill="flying"),)), "steps.skill"),
        (changed("fit", parts=(PartNeed(part="gold"),)), "steps.part"),
        (changed("fit", parts=(PartNeed(part="RV-SEAT", quantity=0),)), "steps.part_quantity"),
        (changed("lock", questions=(Tick(id="locked", label=""),)), "questions.label"),
        (changed("read", questions=(Reading(id="bar", label="P", unit=""),)), "questions.unit"),
        (
            changed(
                "read", questions=(Reading(id="bar", label="P", unit="bar", limits=Limits(low=9, high=1)),)
            ),
            "questions.limits",
        ),
        (
            changed(
                "valve", questions=(OneOf(id="seat", label="S", options=(Option(id="scored", label="x"),)),)
            ),
            "questions.options",
        ),
        (
            changed("fit", condition=Comparison(question="nowhere", operator="answered")),
            "conditions.question",
        ),
        (changed("lock", condition=Comparison(question="bar", operator="answered")), "conditions.later"),
        (changed("read", condition=Comparison(question="bar", operator="answered")), "conditions.later"),
        (changed("fit", condition=Comparison(question="seat", operator="is")), "conditions.value"),
        (
            changed("fit", condition=Comparison(question="seat", operator="below", value=1.0)),
            "conditions.kind",
        ),
        (
            changed("fit", condition=Comparison(question="seat", operator="is", value="gone")),
            "conditions.option",
        ),
        (changed("run", id="read"), "plans.step_identity"),
        (changed("run", questions=(Tick(id="bar"),)), "plans.question_identity"),
        (
            replace(rake_plan(), applies_when=replace(rake_plan().applies_when, equipment="x")),
            "plans.equipment",
        ),
        (replace(rake_plan(), applies_when=replace(rake_plan().applies_when, models=("x",))), "plans.model"),
        (
            replace(rake_plan(), applies_when=replace(rake_plan().applies_when, symptoms=("x",))),
            "plans.symptom",
        ),
    ],
)
def test_each_defect_is_found_by_its_code(plan: Plan, code: str) -> None:
    assert code in codes(plan)


def test_a_problem_names_the_step_and_its_place() -> None:
    found = plan_problems(changed("fit", parts=(PartNeed(part="gold"),)), LISTS)
    assert [(p.path, p.message) for p in found] == [
        ("/steps/3/parts/0", "“Fit a seat”: there is no part gold.")
    ]


def test_a_condition_on_an_unproved_step_still_sees_earlier_questions() -> None:
    """A step without questions of its own may depend on what was asked before it, not after."""
    plan = changed("fit", questions=())
    assert "conditions.question" not in codes(plan)
    assert "conditions.later" in codes(
        changed("lock", questions=(), condition=Comparison(question="bar", operator="answered"))
    )


def test_an_incident_type_needs_a_title_and_a_plan_that_exists() -> None:
    found = incident_type_problems(IncidentType(title="", plans=("WP-9",)), frozenset({"WP-1"}))
    assert [p.message for p in found] == ["The incident type has no title.", "There is no work plan WP-9."]
    assert any(p.severity == "error" for p in found)
    assert incident_type_problems(IncidentType(title="x"), frozenset())[0].code == "incident_types.no_plan"


def test_letters_go_on_after_z() -> None:
    letters: list[str] = []
    letter = None
    for _ in range(54):
        letter = next_letter(letter)
        letters.append(letter)
    assert letters[:3] + letters[25:28] + letters[51:] == ["A", "B", "C", "Z", "AA", "AB", "AZ", "BA", "BB"]
    assert sorted(letters, key=letter_rank) == letters
    with pytest.raises(InvalidInput, match="a revision letter is A to Z, got 'a1'"):
        next_letter("a1")


def test_a_released_revision_goes_only_forward() -> None:
    assert move_revision("Released", "supersede", where="WP-1") == "Superseded"
    with pytest.raises(
        Conflict, match="WP-1: to release it, the revision must be In review or On trial, and it is Released"
    ):
        move_revision("Released", "release", where="WP-1")


def test_who_wrote_a_revision_does_not_release_it() -> None:
    require_second_person("oda", frozenset({"ines"}), where="WP-1")
    with pytest.raises(NotAllowed, match="released by a second person"):
        require_second_person("ines", frozenset({"ines"}), where="WP-1")


def test_a_moved_step_is_moved_not_removed_and_added() -> None:
    plan = rake_plan()
    newer = edit_plan(
        plan, PlaceStep(step="run", phase="Diagnose", before="read"), new_id="", new_question_id=""
    )
    assert [(d.change, d.place, d.before, d.after) for d in compare_plans(plan, newer)] == [
        ("moved", "run", "Prove, step 5", "Diagnose, step 2")
    ]


def test_swapping_neighbours_moves_one_step_not_two() -> None:
    two = Plan(title="t", steps=tuple(Step(id=i, phase="Arrive", text=i) for i in "abcd"))
    newer = edit_plan(two, MoveStep(step="a", direction="down"), new_id="", new_question_id="")
    assert [d.change for d in compare_plans(two, newer)] == ["moved"]


def test_changes_are_told_in_words() -> None:
    plan = rake_plan()
    reworded = changed("read", minutes=Minutes(likely=20, low=10), text="Read the gauge")
    kept = (s for s in reworded.steps if s.id != "run")
    newer = replace(reworded, steps=(*kept, Step(id="tidy", phase="Leave", text="Tidy up")))
    told = {(d.change, d.aspect, d.before, d.after) for d in compare_plans(plan, newer)}
    assert told == {
        ("changed", "text", "Read the pressure", "Read the gauge"),
        ("changed", "minutes", "10 min", "20 min (10–…)"),
        ("added", "", "", "Leave"),
        ("removed", "", "Prove", ""),
    }


def test_a_plan_does_not_differ_from_itself() -> None:
    assert compare_plans(rake_plan(), rake_plan()) == ()


def test_incident_types_compare_in_words() -> None:
    old, new = IncidentType(title="a", plans=("WP-1",)), IncidentType(title="b", plans=("WP-1", "WP-2"))
    assert [(d.aspect, d.after) for d in compare_incident_types(old, new)] == [
        ("title", "b"),
        ("work plans", "WP-1, WP-2"),
    ]
    lists = Catalogue(parts=(Part(code="OIL", name="Oil", unit="l"),))
    needs = replace(old, parts=(PartNeed(part="OIL", quantity=2), PartNeed(part="GONE", quantity=1)))
    assert [(d.aspect, d.before, d.after) for d in compare_incident_types(old, needs, lists)] == [
        ("parts", "", "2 l Oil, 1 × GONE")
    ]


def test_four_tasks_make_up_two_and_a_half_hours() -> None:
    """Common practice, no source: four tasks of 30, 45, 30 and 45 minutes are planned as 2 h 30."""
    tasks = (30, 45, 30, 45)
    plan = Plan(
        title="Service",
        steps=tuple(
            Step(id=str(i), phase="Put right", text="Task", minutes=Minutes(likely=m))
            for i, m in enumerate(tasks)
        ),
    )
    totals = total_plans([plan])
    assert totals.minutes_sure == totals.minutes_all == 150
    assert totals.minutes.mean == pytest.approx(150)
    assert totals.minutes.p50 == totals.minutes.p80 == pytest.approx(150, abs=0.01)


def test_branches_count_by_their_chance_and_the_chance_above() -> None:
    totals = total_plans([rake_plan()])
    assert (totals.minutes_sure, totals.minutes_all) == (32, 77)
    assert totals.minutes.mean == pytest.approx(32 + 0.4 * 15 + 0.4 * 0.5 * 30)
    assert (totals.n_steps, totals.n_branches, totals.n_guessed) == (5, 2, 1)
    assert [(s.skill, s.always) for s in totals.skills] == [("permit", True), ("hydraulics", False)]
    (part,) = totals.parts
    assert (part.part, part.most, part.always) == ("RV-SEAT", 1, False)
    # Nobody says how often the seat is scored: in half of the jobs that look at it, which are 40 %.
    assert part.expected == pytest.approx(0.2)
    assert part.chance == pytest.approx(0.2)


def test_a_step_under_a_conditional_step_shares_its_chance() -> None:
    deep = Step(id="deep", phase="Diagnose", text="x", minutes=Minutes(likely=10), under="valve")
    plan = rake_plan()
    at = plan.steps.index(next(s for s in plan.steps if s.id == "valve")) + 1
    totals = total_plans([replace(plan, steps=(*plan.steps[:at], deep, *plan.steps[at:]))])
    assert totals.minutes.mean == pytest.approx(32 + 0.4 * 15 + 0.4 * 10 + 0.4 * 0.5 * 30)


@given(st.lists(st.tuples(st.floats(0, 60), st.none() | st.floats(0, 1)), max_size=8))
def test_the_expected_minutes_lie_between_sure_and_all(rows: list[tuple[float, float | None]]) -> None:
    steps = tuple(
        Step(
            id=str(i),
            phase="Diagnose",
            text="x",
            minutes=Minutes(likely=m),
            chance=c,
            condition=None if c is None else Comparison(question="q", operator="answered"),
        )
        for i, (m, c) in enumerate(rows)
    )
    totals = total_plans([Plan(title="t", steps=steps)])
    assert totals.minutes_sure <= totals.minutes.mean + 1e-9 <= totals.minutes_all + 2e-9


def test_a_class_is_all_that_stands_above_it_and_a_loop_does_not_hang() -> None:
    tree = EquipmentTree.of(LISTS.equipment)
    assert tree.is_a("rake", "plant")
    assert not tree.is_a("plant", "rake")
    ring = EquipmentTree.of(
        (EquipmentClass(code="a", name="A", parent="b"), EquipmentClass(code="b", name="B", parent="a"))
    )
    assert list(ring.lineage("a")) == ["a", "b"]
