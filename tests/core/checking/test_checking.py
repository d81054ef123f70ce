"""The checker: what it proves equals what enumeration shows, and every witness replays."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import replace
from datetime import date

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from reedling.core.checking.plan_checks import check_plan
from reedling.core.checking.plan_parts import parts_of
from reedling.core.checking.tours import tours
from reedling.core.checking.wording import check_wording
from reedling.core.guidance.plans import Minutes, Plan, Step
from reedling.core.guidance.questions import Limits, OneOf, Option, Question, Reading, Tick, YesNo
from reedling.core.logic.conditions import Answer, Comparison, Condition, Conjunction, Disjunction, Negation
from tests.examples import examples
from tests.lists import LISTS
from tests.plans import rake_plan, sheet_of
from tests.runs import follow


def compare(question: str, operator: str, value: object, upper: float | None = None) -> Comparison:
    return Comparison(question=question, operator=operator, value=value, upper=upper)  # type: ignore[arg-type]


def step(name: str, *questions: Question, phase: str = "Diagnose", **fields: object) -> Step:
    return Step(id=name, phase=phase, text=f"Do {name}", questions=questions, **fields)  # type: ignore[arg-type]


def with_steps(*steps: Step) -> Plan:
    return Plan(title="t", steps=steps)


P = Reading(id="p", label="Pressure", unit="bar", limits=Limits(low=90, high=120))
PUMP = YesNo(id="w", label="Whines")
SEAT = OneOf(id="s", label="Seat", options=(Option(id="a", label="Sound"), Option(id="b", label="Scored")))


def told(plan: Plan) -> list[tuple[str, str]]:
    return [(d.problem.code, d.problem.message) for d in check_plan(plan)]


def test_a_sound_plan_has_no_defects() -> None:
    plan = rake_plan()
    part_listed = [(d.problem.code, d.problem.path) for d in check_plan(plan)]
    assert part_listed == []


def test_a_question_nobody_can_reach_names_the_clauses_in_conflict() -> None:
    slack = step(
        "slack",
        condition=Conjunction(
            parts=(compare("p", "below", 90.0), compare("w", "is", True), compare("p", "above", 120.0))
        ),
    )
    found = check_plan(with_steps(step("read", P, PUMP), slack))
    assert [(d.problem.code, d.problem.path, d.problem.message) for d in found] == [
        (
            "reach.never",
            "/steps/1/condition",
            "“Do slack” can never be asked: it needs both that pressure is below 90 bar "
            "and that pressure is above 120 bar.",
        )
    ]
    assert found[0].fix is not None
    assert found[0].fix.label == "Remove the step"


def test_a_conflict_with_the_branch_it_hangs_on_is_found() -> None:
    low = step("low", PUMP, under="read", condition=compare("p", "below", 90.0))
    deep = step("deep", under="low", condition=compare("p", "at least", 100.0))
    assert told(with_steps(step("read", P), low, deep)) == [
        (
            "reach.never",
            "“Do deep” can never be asked: it needs both that pressure is below 90 bar "
            "and that pressure is at least 100 bar.",
        )
    ]


def test_a_conflict_through_a_hidden_question_is_found() -> None:
    """The seat is asked only when the pressure is low; nothing can hang on it when it is high."""
    seat = step("seat", SEAT, condition=compare("p", "below", 90.0))
    fit = step("fit", condition=Conjunction(parts=(compare("s", "is", "b"), compare("p", "above", 120.0))))
    assert [code for code, _ in told(with_steps(step("read", P), seat, fit))] == ["reach.never"]


def test_a_reading_the_instrument_cannot_show_is_never() -> None:
    gauge = replace(P, lowest=0.0, highest=250.0)
    plan = with_steps(step("read", gauge), step("burst", condition=compare("p", "above", 250.0)))
    assert told(plan) == [
        (
            "reach.never",
            "“Do burst” can never be asked: it needs that pressure is above 250 bar, and that never comes about.",
        )
    ]


def test_a_limit_beyond_the_instrument_can_never_trip() -> None:
    gauge = replace(P, limits=Limits(low=0, high=120, high_high=300), lowest=0.0, highest=250.0)
    found = [d for d in check_plan(with_steps(step("read", gauge))) if d.problem.code == "limits.dead"]
    assert [(d.problem.path, d.problem.message) for d in found] == [
        (
            "/steps/0/questions/0/limits/high_high",
            "“Do read”: the limit 300 bar of “Pressure” can never trip; the instrument shows 250 bar at the most.",
        ),
        (
            "/steps/0/questions/0/limits/low",
            "“Do read”: the limit 0 bar of “Pressure” can never trip; the instrument shows 0 bar at the least.",
        ),
    ]


def test_a_condition_that_always_holds_is_named_with_its_fix() -> None:
    either = Disjunction(parts=(compare("p", "below", 90.0), compare("p", "at least", 90.0)))
    found = check_plan(with_steps(step("read", P), step("next", condition=either)))
    assert [d.problem.code for d in found] == ["reach.always"]
    assert found[0].fix is not None
    assert found[0].fix.label == "Take the condition off"


def test_a_job_that_can_end_unproved_comes_with_a_witness_that_replays() -> None:
    prove = step("prove", Tick(id="ok"), phase="Prove", condition=compare("s", "is", "b"))
    plan = with_steps(step("read", P), step("seat", SEAT, condition=compare("p", "below", 90.0)), prove)
    found = [d for d in check_plan(plan) if d.problem.code == "ends.no_prove"]
    assert len(found) == 1
    assert found[0].witness is not None
    answers = {f"W:{q}": a for q, a in found[0].witness.items()}
    states = {p.line: p.state for p in follow(sheet_of(plan), answers).lines}
    assert states["W:prove"] == "hidden"


def test_two_prove_steps_that_between_them_always_come_are_enough() -> None:
    low = step("one", Tick(id="k1"), phase="Prove", condition=compare("p", "below", 90.0))
    high = step("two", Tick(id="k2"), phase="Prove", condition=compare("p", "at least", 90.0))
    assert told(with_steps(step("read", P), low, high)) == []


@pytest.mark.parametrize(
    ("text", "phase", "code"),
    [
        ("The valve should be checked", "Diagnose", "steps.no_verb"),
        ("Checking the valve", "Diagnose", "steps.no_verb"),
        ("Replace the fan", "Put right", "parts.unlisted"),
    ],
)
def test_wording_that_hides_what_to_do_is_worth_a_look(text: str, phase: str, code: str) -> None:
    plan = with_steps(replace(step("x", Tick(id="t"), phase=phase), text=text, minutes=Minutes(likely=3)))
    assert [d.problem.code for d in check_wording(plan, LISTS, date(2026, 6, 1))] == [code]


def test_parts_share_neither_question_nor_branch() -> None:
    plan = with_steps(
        step("a", P),
        step("b", PUMP),
        step("c", condition=compare("p", "below", 90.0)),
        step("d", under="b"),
    )
    assert [[s.id for s in part.steps] for part in parts_of(plan)] == [["a", "c"], ["b", "d"]]


# Completeness: the solver's verdict equals brute-force enumeration on plans small enough to walk.

QUESTIONS: tuple[Question, ...] = (PUMP, SEAT, replace(P, lowest=0.0, highest=10.0))
DOMAINS: dict[str, list[Answer]] = {
    "w": [True, False],
    "s": ["a", "b"],
    "p": [0.0, 1.0, 2.0, 3.0, 4.0, 5.0, 10.0],
}


def leaves() -> st.SearchStrategy[Condition]:
    return st.one_of(
        st.builds(compare, st.just("w"), st.just("is"), st.booleans()),
        st.builds(compare, st.just("s"), st.sampled_from(["is", "is not"]), st.sampled_from(["a", "b"])),
        st.builds(
            compare,
            st.just("p"),
            st.sampled_from(["below", "at most", "above", "at least"]),
            st.sampled_from([1.0, 3.0, 5.0]),
        ),
        st.builds(compare, st.just("p"), st.just("between"), st.just(2.0), st.sampled_from([1.0, 4.0])),
        st.builds(compare, st.just("w"), st.sampled_from(["answered", "not answered"]), st.none()),
    )


CONDITIONS = st.recursive(
    leaves(),
    lambda inner: st.one_of(
        st.builds(Conjunction, parts=st.lists(inner, min_size=1, max_size=3).map(tuple)),
        st.builds(Disjunction, parts=st.lists(inner, min_size=1, max_size=3).map(tuple)),
        st.builds(Negation, part=inner),
    ),
    max_leaves=4,
)


@st.composite
def small_plans(draw: st.DrawFn) -> Plan:
    order = draw(st.permutations(QUESTIONS))
    steps: list[Step] = []
    asked: set[str] = set()
    for i, question in enumerate(order):
        condition = draw(st.none() | CONDITIONS) if i else None
        if condition is not None and not questions_in(condition) <= asked:
            condition = None
        under = steps[-1].id if condition is not None and draw(st.booleans()) else None
        steps.append(step(f"s{i}", question, condition=condition, under=under))
        asked.add(question.id)
    for i in range(draw(st.integers(1, 3))):
        steps.append(step(f"t{i}", Tick(id=f"k{i}"), phase="Prove", condition=draw(CONDITIONS)))
    return with_steps(*steps)


def questions_in(condition: Condition) -> set[str]:
    from reedling.core.logic.conditions import comparisons

    return {c.question for c in comparisons(condition)}


def every_run(plan: Plan) -> Iterator[tuple[bool, dict[str, str]]]:
    """Every combination of answers, unanswered and left out included: whether it is whole, and its states.

    A run in which a step is left out is not whole: nobody plans for that.
    """
    sheet = sheet_of(plan)
    states: dict[str, str]
    home = {q.id: line.id for line in sheet.lines for q in line.questions}
    for combination in itertools.product(*([None, "left out", *DOMAINS[q.id]] for q in QUESTIONS)):
        given_ = {f"W:{q.id}": a for q, a in zip(QUESTIONS, combination, strict=True)}
        left_out = [home[q] for q, a in given_.items() if a == "left out"]
        answers = {q: a for q, a in given_.items() if a is not None and a != "left out"}
        progress = follow(sheet, answers, skipped=left_out)
        states = {p.line.removeprefix("W:"): p.state for p in progress.lines}
        open_ = [m for p in progress.lines for m in p.missing if not m.startswith("W:k")]
        yield not open_ and not left_out and "open question" not in states.values(), states


@pytest.mark.slow
@settings(max_examples=examples(60), deadline=None)
@given(small_plans())
def test_reachability_equals_brute_force_enumeration(plan: Plan) -> None:
    runs = list(every_run(plan))
    reached = {s for _, states in runs for s, state in states.items() if state in ("due", "done")}
    unreachable = {s.id for s in plan.steps} - reached
    found = check_plan(plan)
    named = {
        plan.steps[int(d.problem.path.split("/")[2])].id for d in found if d.problem.code == "reach.never"
    }
    hanging = {s.id for s in plan.steps if s.under in unreachable}
    assert named <= unreachable
    assert unreachable - named <= hanging
    whole = [states for is_whole, states in runs if is_whole]
    always = {
        plan.steps[int(d.problem.path.split("/")[2])].id for d in found if d.problem.code == "reach.always"
    }
    for one in plan.steps:
        if one.condition is None or one.id in unreachable:
            continue
        above = [s for s in whole if one.under is None or s[one.under] in ("due", "done")]
        assert (one.id in always) is all(s[one.id] in ("due", "done") for s in above)
    unproved = any(all(s[t.id] == "hidden" for t in plan.steps if t.phase == "Prove") for s in whole)
    assert any(d.problem.code == "ends.no_prove" for d in found) is unproved


@pytest.mark.slow
@settings(max_examples=examples(40), deadline=None)
@given(small_plans())
def test_the_tours_meet_every_step_that_can_be_met_in_a_whole_run(plan: Plan) -> None:
    sheet = sheet_of(plan)
    met: set[str] = set()
    for tour in tours(plan):
        progress = follow(
            sheet, {f"W:{q}": a for q, a in tour.items()}, done=[line.id for line in sheet.lines]
        )
        assert all(p.state in ("done", "hidden") for p in progress.lines), tour
        met |= {p.line.removeprefix("W:") for p in progress.lines if p.state == "done"}
    whole = [states for is_whole, states in every_run(plan) if is_whole]
    assert met == {s for states in whole for s, state in states.items() if state in ("due", "done")}


def test_a_tour_keeps_readings_within_their_limits_where_the_branch_allows() -> None:
    runs = tours(rake_plan())
    assert [run.get("bar") for run in runs if "seat" not in run] in ([105.0], [])
    low = next(run for run in runs if "seat" in run)
    assert isinstance(low["bar"], float)
    assert low["bar"] < 90
