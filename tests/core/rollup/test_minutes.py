"""Minutes of a plan over the ways through its branches, against published formulas and simulation."""

from __future__ import annotations

import random
import statistics
from collections.abc import Mapping
from dataclasses import replace

import pytest

from reedling.core.guidance.plans import Minutes, Plan, Repeat, Step
from reedling.core.guidance.questions import AnyOf, DateEntry, Option, Question, Reading, YesNo
from reedling.core.guidance.skills import PartNeed, SkillNeed
from reedling.core.guidance.soundness import plan_problems
from reedling.core.logic.conditions import Comparison, Conjunction, comparisons
from reedling.core.rollup.branches import BranchEvidence, chance_of
from reedling.core.rollup.minutes import mean_and_variance
from reedling.core.rollup.plan_totals import MOST_EXACT_WAYS, PlanTotals, total_plans
from tests.lists import LISTS


def step(name: str, likely: float = 10, **fields: object) -> Step:
    return Step(id=name, phase="Diagnose", text=name, minutes=Minutes(likely=likely), **fields)  # type: ignore[arg-type]


def reading_step() -> Step:
    """Where the pressure is read: ten minutes."""
    return step("read", 10, questions=(Reading(id="bar", label="Pressure", unit="bar"),))


def when(question: str, operator: str, value: object) -> Comparison:
    return Comparison(question=question, operator=operator, value=value)  # type: ignore[arg-type]


def total(plan: Plan, evidence: Mapping[str, BranchEvidence] | None = None) -> PlanTotals:
    """The totals of a plan, with a step of no minutes that asks what its conditions ask about."""
    there = {q.id for s in plan.steps for q in s.questions}
    asked: dict[str, Question] = {}
    for s in plan.steps:
        for condition in (s.condition, *(p.condition for p in s.parts)):
            for c in comparisons(condition):
                number = isinstance(c.value, float)
                asked[c.question] = (
                    Reading(id=c.question, label="Q", unit="bar")
                    if number
                    else YesNo(id=c.question, label="Q")
                )
    missing = tuple(q for key, q in asked.items() if key not in there)
    ask = Step(id="ask", phase="Arrive", text="Ask", minutes=Minutes(likely=0), questions=missing)
    return total_plans([replace(plan, steps=(ask, *plan.steps))], evidence or {})


@pytest.mark.parametrize(
    ("low", "likely", "high", "mean", "variance"),
    [
        # Malcolm, Roseboom, Clark and Fazar (1959): mean (a + 4m + b) / 6, variance ((b - a) / 6) squared;
        # the figures are worked from the formula.
        (2, 5, 14, 6.0, 4.0),
        (10, 10, 10, 10.0, 0.0),
        (1, 2, 9, 3.0, 16 / 9),
    ],
)
def test_a_three_point_estimate(low: float, likely: float, high: float, mean: float, variance: float) -> None:
    found = mean_and_variance(Minutes(low=low, likely=likely, high=high))
    assert found == pytest.approx((mean, variance))


def test_without_branches_p80_lies_084_deviations_above_the_mean() -> None:
    """The 80 % point of the normal distribution is 0.8416 (any table)."""
    plan = Plan(
        title="t",
        steps=tuple(
            Step(id=str(i), phase="Prove", text="x", minutes=Minutes(low=6, likely=12, high=24))
            for i in range(9)
        ),
    )
    found = total(plan).minutes
    assert found.mean == found.p50 == pytest.approx(9 * 13, abs=0.01)
    assert found.p80 == pytest.approx(9 * 13 + 0.8416 * 3 * 3, abs=0.01)
    assert (found.n_ways, found.method) == (1, "exact")


def test_conditions_on_one_question_exclude_each_other() -> None:
    plan = Plan(
        title="t",
        steps=(
            reading_step(),
            step("low", 30, condition=when("bar", "below", 90.0), chance=0.3),
            step("high", 50, condition=when("bar", "above", 120.0), chance=0.2),
        ),
    )
    found = total(plan).minutes
    assert found.mean == pytest.approx(10 + 0.3 * 30 + 0.2 * 50)
    assert (found.n_ways, found.method) == (3, "exact")


def test_a_condition_inside_another_comes_with_it() -> None:
    plan = Plan(
        title="t",
        steps=(
            reading_step(),
            step("low", condition=when("bar", "below", 90.0), chance=0.4),
            step("very low", 100, condition=when("bar", "below", 60.0), chance=0.1),
        ),
    )
    found = total(plan).minutes
    assert found.n_ways == 3
    assert found.mean == pytest.approx(10 + 4 + 10)
    assert found.p80 == pytest.approx(20, abs=0.01)


def test_a_branch_of_a_branch_on_the_same_question_is_a_chance_among_those_that_got_there() -> None:
    """Of all jobs 40 % are low, of these a quarter very low: one in ten, not one in twenty-five."""
    plan = Plan(
        title="t",
        steps=(
            reading_step(),
            step("low", condition=when("bar", "below", 90.0), chance=0.4),
            step("very low", 100, condition=when("bar", "below", 60.0), chance=0.25, under="low"),
        ),
    )
    assert total(plan).minutes.mean == pytest.approx(10 + 4 + 10)


def test_two_questions_of_which_one_is_only_asked_in_the_branch_of_the_other() -> None:
    plan = Plan(
        title="t",
        steps=(
            Step(
                id="a",
                phase="Diagnose",
                text="a",
                minutes=Minutes(likely=0),
                questions=(YesNo(id="w", label="W"),),
            ),
            step("b", 10, condition=when("w", "is", True), chance=0.5, questions=(YesNo(id="v", label="V"),)),
            step("c", 100, condition=when("v", "is", True), chance=0.2),
        ),
    )
    assert total(plan).minutes.mean == pytest.approx(5 + 20)


def test_the_same_condition_twice_is_one_event() -> None:
    plan = Plan(
        title="t",
        steps=tuple(step(n, 10, condition=when("w", "is", True), chance=0.5) for n in ("a", "b")),
    )
    found = total(plan).minutes
    assert found.n_ways == 2
    assert found.mean == pytest.approx(10)
    assert found.p80 == pytest.approx(20, abs=0.01)


@pytest.mark.parametrize("second", [None, 0.5])
def test_what_says_nothing_does_not_change_what_was_said(second: float | None) -> None:
    """A part, or a second step, under the condition of a step whose chance is known adds no half."""
    condition = when("w", "is", True)
    part = PartNeed(part="SEAL", quantity=1, condition=condition)
    steps = [
        Step(
            id="q",
            phase="Diagnose",
            text="q",
            minutes=Minutes(likely=0),
            questions=(YesNo(id="w", label="W"),),
        ),
        step("a", 10, condition=condition, chance=0.1, parts=(part,)),
        step("b", 20, condition=condition, chance=None),
    ]
    totals = total(Plan(title="t", steps=tuple(steps)))
    assert totals.minutes.mean == pytest.approx(3.0, abs=1e-4)
    assert totals.parts[0].chance == pytest.approx(0.1, abs=1e-5)


def test_parts_of_branches_that_exclude_each_other_are_not_added_up() -> None:
    seal = (PartNeed(part="SEAL", quantity=2),)
    plan = Plan(
        title="t",
        steps=(
            reading_step(),
            step("low", condition=when("bar", "below", 90.0), parts=seal),
            step("high", condition=when("bar", "above", 120.0), parts=seal),
            step("always", parts=(PartNeed(part="SEAL", quantity=1),)),
        ),
    )
    (part,) = total(plan).parts
    assert part.most == 3


def test_three_pumps_are_not_all_or_none() -> None:
    """Of each of three, one in five; so 0.2³ of the jobs want all three, and 0.8³ none."""
    repeat = Repeat(per="pump", over="named", names=("A", "B", "C"))
    bad = step("mend", 100, condition=when("w", "is", True), chance=0.2, under="look")
    look = Step(
        id="look",
        phase="Diagnose",
        text="look",
        minutes=Minutes(likely=0),
        questions=(YesNo(id="w", label="W"),),
        repeat=repeat,
    )
    found = total(Plan(title="t", steps=(look, bad))).minutes
    assert found.mean == pytest.approx(60)
    assert found.p50 == pytest.approx(0, abs=0.1)
    assert found.n_ways == 8
    field = total(Plan(title="t", steps=(look, bad)), {"mend": BranchEvidence(n_wanted=487, n_jobs=998)})
    # (487 + 1) / (998 + 2) of the jobs wanted any: 1 − 0.8³ = 0.488.
    assert field.minutes.mean == pytest.approx(60)


@pytest.mark.parametrize("chance", [7.5, -1.0, float("nan"), float("inf")])
def test_what_is_no_chance_counts_as_none_and_is_told(chance: float) -> None:
    plan = Plan(title="t", steps=(step("a", condition=when("w", "is", True), chance=chance),))
    assert total(plan).minutes.mean == pytest.approx(5)
    assert "steps.chance" in [p.code for p in plan_problems(plan, LISTS)]


def test_before_the_earliest_day_can_come_about() -> None:
    day = Step(
        id="d",
        phase="Diagnose",
        text="d",
        minutes=Minutes(likely=0),
        questions=(DateEntry(id="on", label="On"),),
    )
    plan = Plan(
        title="t", steps=(day, step("old", 40, condition=when("on", "before", "2020-01-01"), chance=0.25))
    )
    assert total(plan).minutes.mean == pytest.approx(10)


def test_options_are_ticked_independently() -> None:
    marks = AnyOf(id="m", label="M", options=tuple(Option(id=o, label=o) for o in "abc"))
    ask = Step(id="q", phase="Diagnose", text="q", minutes=Minutes(likely=0), questions=(marks,))
    steps = [step(o, 10, condition=when("m", "includes any", (o,)), chance=0.5) for o in "ab"]
    found = total(Plan(title="t", steps=(ask, *steps))).minutes
    assert found.n_ways == 4
    assert found.mean == pytest.approx(10)


def test_yes_and_no_leave_no_third_way() -> None:
    ask = Step(
        id="q", phase="Diagnose", text="q", minutes=Minutes(likely=0), questions=(YesNo(id="w", label="W"),)
    )
    steps = [step(str(v), 10, condition=when("w", "is", v), chance=0.5) for v in (True, False)]
    found = total(Plan(title="t", steps=(ask, *steps))).minutes
    assert found.n_ways == 2
    assert found.p50 == pytest.approx(10, abs=0.01)


def test_the_mixture_agrees_with_simulation() -> None:
    """A hundred thousand jobs drawn step by step, each sum drawn from its normal."""
    plan = Plan(
        title="t",
        steps=(
            Step(id="a", phase="Arrive", text="x", minutes=Minutes(low=5, likely=10, high=25)),
            Step(
                id="b",
                phase="Diagnose",
                text="x",
                minutes=Minutes(low=20, likely=30, high=70),
                condition=when("p", "below", 1.0),
                chance=0.35,
            ),
            Step(
                id="c",
                phase="Diagnose",
                text="x",
                under="b",
                minutes=Minutes(low=30, likely=40, high=50),
                condition=when("q", "is", True),
                chance=0.5,
            ),
        ),
    )
    rng = random.Random(3)
    drawn = []
    for _ in range(100_000):
        steps = [plan.steps[0]]
        if rng.random() < 0.35:
            steps.append(plan.steps[1])
            if rng.random() < 0.5:
                steps.append(plan.steps[2])
        pairs = [mean_and_variance(s.minutes) for s in steps]
        drawn.append(rng.gauss(sum(m for m, _ in pairs), sum(v for _, v in pairs) ** 0.5))
    found = total(plan).minutes
    cuts = statistics.quantiles(drawn, n=10)
    # 100,000 draws place the median within 0.1 min and the 80 % point, in a thin tail, within 0.6 min.
    assert found.p50 == pytest.approx(cuts[4], abs=0.1)
    assert found.p80 == pytest.approx(cuts[7], abs=0.6)


def test_too_many_ways_are_drawn_with_a_fixed_seed_and_said_to_be() -> None:
    plan = Plan(
        title="t",
        steps=tuple(step(f"s{i}", 10, condition=when(f"q{i}", "is", True), chance=0.5) for i in range(13)),
    )
    assert MOST_EXACT_WAYS < 2**13
    found = total(plan).minutes
    assert found.method == "drawn"
    assert found == total(plan).minutes
    assert found.mean == pytest.approx(65, abs=0.5)


def test_the_field_is_believed_from_five_jobs_on() -> None:
    conditional = step("s", condition=when("w", "is", True), chance=0.9)
    assert chance_of(conditional, {}).source == "author"
    four = {"s": BranchEvidence(n_wanted=1, n_jobs=4)}
    assert (chance_of(conditional, four).p, chance_of(conditional, four).source) == (0.9, "author")
    ten = {"s": BranchEvidence(n_wanted=2, n_jobs=10)}
    # Beta(1 + 2, 1 + 8) has mean 3 / 12.
    assert (chance_of(conditional, ten).p, chance_of(conditional, ten).source) == (0.25, "field")
    unsaid = step("s", condition=when("w", "is", True))
    assert chance_of(unsaid, {}).source == "nobody"


def test_a_branch_of_a_branch_is_counted_among_the_jobs_that_got_there() -> None:
    deep = step("deep", condition=when("w", "is", True), under="top")
    evidence = {
        "top": BranchEvidence(n_wanted=8, n_jobs=40),
        "deep": BranchEvidence(n_wanted=6, n_jobs=40),
    }
    assert chance_of(deep, evidence).p == pytest.approx(7 / 10)


def test_a_skill_stands_twice_where_some_jobs_need_more_of_it() -> None:
    plan = Plan(
        title="t",
        steps=(
            step("a", skills=(SkillNeed(skill="hydraulics", level="Assisted"),)),
            step(
                "b",
                skills=(SkillNeed(skill="hydraulics", level="Solo"),),
                condition=when("w", "is", True),
                chance=0.25,
            ),
        ),
    )
    assert [(s.level, s.always, s.share) for s in total(plan).skills] == [
        ("Assisted", True, 1.0),
        ("Solo", False, pytest.approx(0.25)),
    ]


def test_a_part_under_a_condition_counts_by_both() -> None:
    plan = Plan(
        title="t",
        steps=(
            step(
                "a",
                condition=when("w", "is", True),
                chance=0.4,
                parts=(PartNeed(part="SEAL", quantity=2, condition=when("v", "is", True)),),
            ),
        ),
    )
    (part,) = total(plan).parts
    assert part.most == 2
    assert part.expected == pytest.approx(0.4)
    assert part.chance == pytest.approx(0.2)


def test_a_named_repeat_counts_once_for_each() -> None:
    repeat = Repeat(per="pump", over="named", names=("A", "B", "C"))
    plan = Plan(title="t", steps=(step("a", 10, repeat=repeat), step("b", 5, under="a")))
    totals = total(plan)
    assert totals.minutes_sure == 45
    assert totals.minutes.mean == pytest.approx(45)


def test_a_condition_on_two_questions_stands_by_itself() -> None:
    both = Conjunction(parts=(when("w", "is", True), when("v", "is", True)))
    plan = Plan(title="t", steps=(step("a", 10, condition=both, chance=0.1),))
    assert total(plan).minutes.mean == pytest.approx(1.0)
