"""Minutes of a plan over the ways through its branches, against published formulas and simulation."""

from __future__ import annotations

import random
import statistics

import pytest

from reedling.core.guidance.plans import Minutes, Plan, Repeat, Step
from reedling.core.guidance.skills import PartNeed, SkillNeed
from reedling.core.logic.conditions import AllOf, Comparison
from reedling.core.rollup.branches import BranchEvidence, chance_of, decisions
from reedling.core.rollup.minutes import MOST_EXACT_WAYS, mean_and_variance, ways_through
from reedling.core.rollup.plan_totals import total_plans


def step(name: str, likely: float = 10, **fields: object) -> Step:
    return Step(id=name, phase="Diagnose", text=name, minutes=Minutes(likely=likely), **fields)  # type: ignore[arg-type]


def when(question: str, operator: str, value: object) -> Comparison:
    return Comparison(question=question, operator=operator, value=value)  # type: ignore[arg-type]


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
    found = total_plans([plan]).minutes
    assert found.mean == found.p50 == pytest.approx(9 * 13, abs=0.01)
    assert found.p80 == pytest.approx(9 * 13 + 0.8416 * 3 * 3, abs=0.01)
    assert (found.n_ways, found.method) == (1, "exact")


def test_conditions_on_one_question_exclude_each_other() -> None:
    plan = Plan(
        title="t",
        steps=(
            step("low", 30, condition=when("bar", "below", 90.0), chance=0.3),
            step("high", 50, condition=when("bar", "above", 120.0), chance=0.2),
        ),
    )
    (decision,) = decisions(plan, {})
    chances = sorted(round(p, 6) for p, _ in decision.ways)
    assert chances == [0.2, 0.3, 0.5]
    assert total_plans([plan]).minutes.mean == pytest.approx(0.3 * 30 + 0.2 * 50)
    assert not any(len(made) == 2 for _, made in decision.ways)


def test_a_condition_inside_another_comes_with_it() -> None:
    plan = Plan(
        title="t",
        steps=(
            step("low", condition=when("bar", "below", 90.0), chance=0.4),
            step("very low", condition=when("bar", "below", 60.0), chance=0.1),
        ),
    )
    (decision,) = decisions(plan, {})
    assert {len(made): round(p, 6) for p, made in decision.ways} == {0: 0.6, 1: 0.3, 2: 0.1}


def test_the_same_condition_twice_is_one_event() -> None:
    plan = Plan(
        title="t",
        steps=tuple(step(n, 10, condition=when("w", "is", True), chance=0.5) for n in ("a", "b")),
    )
    found = total_plans([plan]).minutes
    assert found.n_ways == 2
    assert found.mean == pytest.approx(10)
    assert found.p80 == pytest.approx(20, abs=0.01)


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
    found = total_plans([plan]).minutes
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
    found = total_plans([plan]).minutes
    assert found.method == "drawn"
    assert found == total_plans([plan]).minutes
    assert found.mean == pytest.approx(65, abs=0.5)
    assert ways_through(decisions(plan, {})).method == "drawn"


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
    assert [(s.level, s.always, s.share) for s in total_plans([plan]).skills] == [
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
    (part,) = total_plans([plan]).parts
    assert part.most == 2
    assert part.expected == pytest.approx(0.4)
    assert part.chance == pytest.approx(0.2)


def test_a_named_repeat_counts_once_for_each() -> None:
    repeat = Repeat(per="pump", over="named", names=("A", "B", "C"))
    plan = Plan(title="t", steps=(step("a", 10, repeat=repeat), step("b", 5, under="a")))
    totals = total_plans([plan])
    assert totals.minutes_sure == 45
    assert totals.minutes.mean == pytest.approx(45)


def test_a_condition_on_two_questions_stands_by_itself() -> None:
    both = AllOf(parts=(when("w", "is", True), when("v", "is", True)))
    plan = Plan(title="t", steps=(step("a", 10, condition=both, chance=0.1),))
    assert total_plans([plan]).minutes.mean == pytest.approx(1.0)
