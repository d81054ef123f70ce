"""Answers at the edge: days and times, scans, blanks, names in formulas, digits that tell numbers apart."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.checking.plan_checks import check_plan
from reedling.core.guidance.plans import Plan, Repeat, Step
from reedling.core.guidance.questions import (
    Computed,
    DateEntry,
    Limits,
    Question,
    Reading,
    Scan,
    TextEntry,
    Tick,
    answer_problem,
    formula_name,
    judge_reading,
)
from reedling.core.guidance.soundness import plan_problems
from reedling.core.logic.conditions import Answer, Comparison, Condition, Conjunction, evaluate
from reedling.core.logic.formulas import DEEPEST, Named, check_formula, compute, usable_name
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Source
from reedling.core.runsheet.progress import take_up, write_backs
from reedling.errors import InvalidInput
from tests.lists import LISTS
from tests.plans import sheet_of
from tests.runs import follow


def ask(question: str, operator: str, value: object = None) -> Comparison:
    return Comparison(question=question, operator=operator, value=value)  # type: ignore[arg-type]


def plan_with(*questions: Question, then: Condition | None = None) -> Plan:
    steps = [Step(id="s", phase="Diagnose", text="Look", questions=questions)]
    if then is not None:
        steps.append(
            Step(id="t", phase="Put right", text="Mend it", condition=then, questions=(Tick(id="k"),))
        )
    return Plan(title="t", steps=tuple(steps))


BETWEEN_TWO_DAYS = Conjunction(parts=(ask("d", "after", "2026-01-01"), ask("d", "before", "2026-01-02")))


@pytest.mark.parametrize("with_time", [False, True])
def test_nothing_lies_after_one_day_and_before_the_next(with_time: bool) -> None:
    """The checker says so, and the run holds it of no moment of either day."""
    plan = plan_with(DateEntry(id="d", label="Day", with_time=with_time), then=BETWEEN_TWO_DAYS)
    assert [d.problem.code for d in check_plan(plan)] == ["reach.never"]
    for moment in ("2026-01-01", "2026-01-01T23:59", "2026-01-02T00:00", "2026-01-02"):
        assert evaluate(BETWEEN_TWO_DAYS, {"d": moment}) is False


@given(st.datetimes(), st.datetimes(), st.booleans(), st.booleans())
def test_a_day_against_a_time_is_the_whole_day(
    one: object, other: object, timed: bool, against: bool
) -> None:
    """The twin compares Python's own dates and times, to the coarser of the two."""

    def text(moment: object, with_time: bool) -> str:
        found = moment.isoformat()  # type: ignore[attr-defined]
        return str(found[:16] if with_time else found[:10])

    coarse = not (timed and against)
    a, b = (
        (m.date() if coarse else m.replace(second=0, microsecond=0))  # type: ignore[attr-defined]
        for m in (one, other)
    )
    answers: dict[str, Answer] = {"d": text(one, timed)}
    for operator, truth in (("before", a < b), ("after", a > b), ("is", a == b)):
        assert evaluate(ask("d", operator, text(other, against)), answers) is truth


@pytest.mark.parametrize(
    "day", ["2026-1-5", "20260105", "2026-W01-1", "2026-02-30", "5.1.2026", "٢٠٢٦-01-05"]
)
def test_malformed_days_are_refused_as_answer_and_in_a_condition(day: str) -> None:
    question = DateEntry(id="d", label="Day")
    assert answer_problem(question, day) is not None
    problems = plan_problems(plan_with(question, then=ask("d", "before", day)), LISTS)
    assert "conditions.value" in [p.code for p in problems]


def test_a_scan_is_met_without_the_blanks_at_its_ends() -> None:
    scan = Scan(id="c", label="Code", equals=" AB-12 ")
    assert answer_problem(scan, "AB-12  ") is None
    assert answer_problem(scan, "AB-13") is not None
    assert answer_problem(Scan(id="c", label="Code"), "77 ", {"asset.serial": " 77"}) is None


def test_the_checker_reads_scans() -> None:
    """A scan that must read one code is never another one."""
    scan = Scan(id="c", label="Code", equals="AB-12 ")
    assert [d.problem.code for d in check_plan(plan_with(scan, then=ask("c", "is", "AB-13")))] == [
        "reach.never"
    ]
    told = check_plan(plan_with(scan, then=ask("c", "is", "AB-12")))
    assert [d.problem.code for d in told] == ["reach.always"]


def test_what_is_written_back_is_cleaned() -> None:
    plan = plan_with(TextEntry(id="n", label="Name", write_back="asset.serial"))
    sheet = compile_runsheet([(Source(document="W", revision="A", title="t"), plan)])
    (back,) = write_backs(take_up(sheet, {"W:n": "  R-7 "}))
    assert back.after == "R-7"


def test_not_answered_can_be_asked_for() -> None:
    note = TextEntry(id="n", label="Note", required="never")
    sheet = sheet_of(plan_with(note, then=ask("n", "not answered")))
    assert follow(sheet, {}).lines[1].state == "open question"
    assert follow(sheet, {"W:n": "x"}).lines[1].state == "hidden"
    assert follow(sheet, {}, done=["W:s"]).lines[1].state == "due"


def pumps_by_field(facts: dict[str, Answer], answers: dict[str, Answer]) -> list[str]:
    step = Step(
        id="lock",
        phase="Make safe",
        text="Lock it",
        repeat=Repeat(per="pump", over="asset field", field="asset.pumps"),
        questions=(Tick(id="k"),),
    )
    source = Source(document="W", revision="A", title="t")
    sheet = compile_runsheet([(source, Plan(title="t", steps=(step,)))], facts=facts)
    return [line.text for line in take_up(sheet, answers).lines]


@pytest.mark.parametrize("blank", [{}, {"asset.pumps": ""}, {"asset.pumps": " , "}])
def test_a_section_by_a_blank_field_asks_on_site_and_does_not_disappear(blank: dict[str, Answer]) -> None:
    assert pumps_by_field(blank, {}) == ["List each pump"]
    named: dict[str, Answer] = {"W:lock@": ("North",)}
    assert pumps_by_field(blank, named) == ["List each pump", "Lock it: North"]
    assert pumps_by_field({"asset.pumps": 0.0}, {}) == []
    assert pumps_by_field({"asset.pumps": 1.0}, {}) == ["Lock it: pump 1"]


def test_the_checker_says_that_a_field_may_be_blank() -> None:
    step = Step(
        id="s",
        phase="Make safe",
        text="Lock it",
        questions=(Tick(id="k"),),
        repeat=Repeat(per="pump", over="asset field", field="asset.serial"),
    )
    codes = [p.code for p in plan_problems(Plan(title="t", steps=(step,)), LISTS)]
    assert "repeats.blank" in codes


@given(st.text(min_size=1, max_size=12))
def test_every_name_can_be_used_in_a_formula(text: str) -> None:
    name = usable_name(text)
    assert compute(f"{name} + 1", {name: Named()}, {name: 2.0}, "") == 3.0
    assert usable_name(name) == name


@pytest.mark.parametrize(
    ("identity", "name"), [("in", "in_"), ("µ", "μ"), ("T²", "T2"), ("lambda", "lambda_")]
)
def test_names_that_python_reads_otherwise_get_one_that_works(identity: str, name: str) -> None:
    assert formula_name(Reading(id=identity, label="X", unit="A")) == name


def test_two_questions_of_one_name_cannot_be_told_apart_in_a_formula() -> None:
    twice = (Reading(id="x-1", label="X", unit="A"), Reading(id="x_1", label="Y", unit="A"))
    value = Computed(id="sum", label="Sum", formula="x_1 * 2", unit="A")
    problems = plan_problems(plan_with(*twice, value), LISTS)
    assert "formulas.twice" in [p.code for p in problems]


@pytest.mark.parametrize("formula", ["-" * 400 + "a", "+".join("a" * 200), "a" * 501])
def test_very_long_and_very_deep_formulas_are_refused_or_worked_out(formula: str) -> None:
    names = {"a": Named()}
    with pytest.raises(InvalidInput) as refused:
        check_formula(formula, names, "")
    assert refused.value.code in ("formulas.long", "formulas.syntax")
    assert compute(formula, names, {"a": 1.0}, "") is None


def test_a_sum_of_a_hundred_is_not_too_deep() -> None:
    formula = " + ".join("a" for _ in range(DEEPEST - 10))
    assert compute(formula, {"a": Named()}, {"a": 1.0}, "") == DEEPEST - 10


@given(
    st.floats(-1e9, 1e9, allow_nan=False),
    st.floats(-1e9, 1e9, allow_nan=False),
    st.integers(0, 3),
    st.booleans(),
)
def test_a_value_beyond_its_limit_never_reads_as_the_limit(
    value: float, bound: float, decimals: int, upper: bool
) -> None:
    """“2 % is above 2 %” tells nobody anything."""
    limits = Limits(high=bound) if upper else Limits(low=bound)
    gauge = Computed(id="u", label="U", unit="%", decimals=decimals, limits=limits)
    verdict = judge_reading(gauge, value)
    assert (verdict.severity is not None) == (value > bound if upper else value < bound)
    if verdict.severity is not None:
        said, _, limit = verdict.sentence.removesuffix(".").partition(" is above " if upper else " is below ")
        numbers = [float(x.removesuffix(" %").replace("−", "-")) for x in (said, limit)]
        assert numbers[0] > numbers[1] if upper else numbers[0] < numbers[1]


def test_two_percent_is_told_from_two_percent() -> None:
    gauge = Computed(id="u", label="U", unit="%", decimals=0, limits=Limits(high=2.0))
    assert judge_reading(gauge, 2.004).sentence == "2.004 % is above 2 %."
    pressure = Reading(id="p", label="P", unit="bar", limits=Limits(low=10.0))
    assert judge_reading(pressure, 9.9999996).sentence == "9.9999996 bar is below 10 bar."
