"""The checker on forms: questions under conditions, computed values, repeats, facts, references."""

from __future__ import annotations

import itertools
from dataclasses import replace
from datetime import date

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from reedling.core.checking.defects import Defect, SetField
from reedling.core.checking.draft import draft_defects
from reedling.core.checking.plan_checks import check_plan
from reedling.core.checking.tours import tours
from reedling.core.checking.witnesses import run_answers, run_plan
from reedling.core.guidance.catalogue import Catalogue, Holding, Meter, Part, Tool, VanTool
from reedling.core.guidance.plans import Minutes, Plan, Repeat, Step
from reedling.core.guidance.question_editing import RemoveQuestion
from reedling.core.guidance.questions import (
    AnyOf,
    Computed,
    DateEntry,
    Limits,
    MeterReading,
    OneOf,
    Option,
    Photo,
    Question,
    Raise,
    Reading,
    Required,
    TextEntry,
    Tick,
    YesNo,
)
from reedling.core.guidance.reuse import Shared, SharedPlans
from reedling.core.guidance.skills import PartNeed, SkillNeed, ToolNeed
from reedling.core.guidance.soundness import plan_problems
from reedling.core.logic.conditions import Answer, Comparison, Condition, Conjunction, Disjunction, Negation
from reedling.core.runsheet.standing import Entered, rules_of, settle
from tests.examples import examples
from tests.lists import LISTS
from tests.plans import sheet_of

TODAY = date(2026, 6, 1)


def compare(question: str, operator: str, value: object = None, upper: float | None = None) -> Comparison:
    return Comparison(question=question, operator=operator, value=value, upper=upper)  # type: ignore[arg-type]


def section(name: str, *questions: Question, **fields: object) -> Step:
    return Step(
        id=name,
        phase="Diagnose",
        text=f"Section {name}",
        minutes=Minutes(likely=3),
        questions=questions,
        **fields,  # type: ignore[arg-type]
    )


def form(*sections: Step) -> Plan:
    return Plan(title="Form", steps=sections)


def found(plan: Plan) -> list[tuple[str, str, str]]:
    return [(d.problem.code, d.problem.path, d.problem.message) for d in check_plan(plan)]


def codes(plan: Plan) -> list[str]:
    return [code for code, _, _ in found(plan)]


BAR = Reading(id="bar", label="Pressure", unit="bar", lowest=0.0, highest=250.0)
WET = YesNo(id="wet", label="Wet")


def test_a_question_that_can_never_be_asked_is_named_with_its_section_and_its_mend() -> None:
    why = TextEntry(
        id="why",
        label="Why",
        condition=Conjunction(parts=(compare("bar", "below", 90.0), compare("bar", "above", 120.0))),
    )
    plan = form(section("one", BAR, why))
    assert found(plan) == [
        (
            "reach.never",
            "/steps/0/questions/1/condition",
            "“Why” of “Section one” can never be asked: it needs both that pressure is below 90 bar "
            "and that pressure is above 120 bar.",
        )
    ]
    (defect,) = check_plan(plan)
    assert defect.fix is not None
    assert defect.fix.change == RemoveQuestion(question="why")


def test_the_condition_of_the_section_counts_for_its_questions() -> None:
    deep = replace(WET, condition=compare("bar", "above", 100.0))
    plan = form(section("one", BAR), section("two", deep, condition=compare("bar", "below", 90.0)))
    assert codes(plan) == ["reach.never"]


def test_a_question_asked_whatever_is_answered_needs_no_condition() -> None:
    either = Disjunction(parts=(compare("wet", "is", True), compare("wet", "is", False)))
    plan = form(section("one", WET, TextEntry(id="t", label="Say", condition=either)))
    ((code, path, message),) = found(plan)
    assert (code, path) == ("reach.always", "/steps/0/questions/1/condition")
    assert message.startswith("“Say” of “Section one” is asked whenever its step is")


def test_a_question_nobody_must_answer_may_stay_open_so_the_condition_is_not_always_true() -> None:
    either = Disjunction(parts=(compare("wet", "is", True), compare("wet", "is", False)))
    optional = replace(WET, required="never")
    assert codes(form(section("one", optional, TextEntry(id="t", label="Say", condition=either)))) == []


def test_any_of_is_a_truth_for_each_answer() -> None:
    heard = AnyOf(id="h", label="Heard", options=(Option(id="a", label="Rub"), Option(id="b", label="Whine")))
    both = Conjunction(parts=(compare("h", "includes", "a"), compare("h", "includes", "b")))
    neither = Conjunction(parts=(compare("h", "is", ()), compare("h", "includes", "a")))
    assert codes(form(section("one", heard, Tick(id="t", condition=both)))) == []
    assert codes(form(section("one", heard, Tick(id="t", condition=neither)))) == ["reach.never"]


def test_days_lie_before_and_after_each_other() -> None:
    day = DateEntry(id="d", label="Due")
    between = Conjunction(parts=(compare("d", "after", "2026-03-01"), compare("d", "before", "2026-09-01")))
    never = Conjunction(parts=(compare("d", "before", "2026-03-01"), compare("d", "after", "2026-09-01")))
    assert codes(form(section("one", day, Tick(id="t", condition=between)))) == []
    assert codes(form(section("one", day, Tick(id="t", condition=never)))) == ["reach.never"]


def test_a_sum_of_readings_is_followed_exactly() -> None:
    """Two gauges of 0 to 10 bar never differ by more than 10 bar, and never by 1,100 kPa."""
    plan = form(
        section(
            "one",
            Reading(id="a", name="a", label="A", unit="bar", lowest=0, highest=10),
            Reading(id="b", name="b", label="B", unit="bar", lowest=0, highest=10),
            Computed(id="gap", label="Gap", formula="abs(a - b)", unit="kPa"),
            Tick(id="t", condition=compare("gap", "above", 1100.0)),
        )
    )
    assert codes(plan) == ["reach.never"]
    possible = replace(plan.steps[0].questions[3], condition=compare("gap", "above", 900.0))
    assert codes(form(replace(plan.steps[0], questions=(*plan.steps[0].questions[:3], possible)))) == []


def test_a_product_of_readings_is_not_guessed_at() -> None:
    plan = form(
        section(
            "one",
            Reading(id="u", name="u", label="U", unit="V", lowest=0, highest=10),
            Reading(id="i", name="i", label="I", unit="A", lowest=0, highest=1),
            Computed(id="p", label="P", formula="u * i", unit="W"),
            Tick(id="t", condition=compare("p", "above", 11.0)),
        )
    )
    assert codes(plan) == []


def replace_condition(plan: Plan, condition: Condition) -> Plan:
    """The plan with another condition on its last section."""
    return replace(plan, steps=(*plan.steps[:-1], replace(plan.steps[-1], condition=condition)))


def test_a_repeat_seen_from_outside_may_differ_from_pump_to_pump() -> None:
    """One pump can run low while another runs high: asking that of any and any is no contradiction."""
    repeat = Repeat(per="pump", over="named", names=("North", "South"))
    amps = Reading(id="amps", label="Current", unit="A", lowest=0, highest=100)
    both = Conjunction(parts=(compare("amps", "below", 10.0), compare("amps", "above", 50.0)))
    inside = form(section("pump", amps, Tick(id="t", condition=both), repeat=repeat))
    outside = form(section("pump", amps, repeat=repeat), section("all", Tick(id="t"), condition=both))
    assert codes(inside) == ["reach.never"]
    assert codes(outside) == ["reach.never"]
    low, high = compare("amps", "below", 10.0), compare("amps", "above", 50.0)
    each = Conjunction(parts=(replace(low, repeats="any"), replace(high, repeats="any")))
    assert codes(replace_condition(outside, each)) == []


def test_what_is_known_beforehand_has_one_value() -> None:
    both = Conjunction(
        parts=(
            compare("asset.model", "is", "WR2"),
            compare("asset.model", "is", "WR3"),
            compare("wet", "is", True),
        )
    )
    assert codes(form(section("one", WET, Tick(id="t", condition=both)))) == ["reach.never"]
    one = Conjunction(parts=(compare("asset.model", "is", "WR2"), compare("wet", "is", True)))
    assert codes(form(section("one", WET, Tick(id="t", condition=one)))) == []


def test_a_finding_that_can_never_be_raised_and_a_part_never_taken_are_named() -> None:
    raising = replace(BAR, raises=(Raise(when=compare("bar", "above", 300.0), says="Burst"),))
    never = Conjunction(parts=(compare("bar", "below", 90.0), compare("bar", "above", 120.0)))
    plan = form(
        section("one", raising), section("two", WET, parts=(PartNeed(part="RV-SEAT", condition=never),))
    )
    assert [(c, p) for c, p, _ in found(plan)] == [
        ("reach.never", "/steps/0/questions/0/raises/0/when"),
        ("reach.never", "/steps/1/parts/0/condition"),
    ]


def test_a_step_that_can_be_done_unseen_comes_with_answers_that_show_it() -> None:
    plan = form(
        section("one", WET), section("two", Photo(id="p", label="Seal", condition=compare("wet", "is", True)))
    )
    (defect,) = check_plan(plan)
    assert (defect.problem.code, defect.problem.path) == ("questions.hidden", "/steps/1/questions")
    assert defect.witness == {"wet": False}
    progress, _ = run_plan(plan, run_answers(plan, defect.witness or {}))
    assert progress.lines[1].asked == ()


def test_a_question_that_no_answer_fits_keeps_a_job_from_finishing() -> None:
    broken = Reading(id="r", label="Gap", unit="mm", lowest=5.0, highest=2.0)
    assert [(c, p) for c, p, _ in found(form(section("one", broken)))] == [
        ("ends.no_way", "/steps/0/questions/0")
    ]


def test_a_witness_answers_every_repeat_and_what_is_found_on_site() -> None:
    plan = form(
        section("door", WET, Photo(id="p", label="Seal"), repeat=Repeat(per="door", over="on site")),
        section("end", Tick(id="t")),
    )
    (tour,) = tours(plan)
    progress, lines = run_plan(plan, run_answers(plan, tour))
    assert [line.id for line in lines] == ["P:door@", "P:door@first", "P:door@second", "P:end"]
    assert all(p.missing == () for p in progress.lines)


# What reading shows, each with its place.

LIST = replace(LISTS, meters=(Meter(code="hours", name="Hours"),))


def problems(plan: Plan, kind: str = "form") -> list[tuple[str, str]]:
    return [(p.code, p.path) for p in plan_problems(plan, LIST, kind=kind)]  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("question", "code", "place"),
    [
        (Computed(id="c", label="C", formula="", unit="A"), "formulas.syntax", "/formula"),
        (Computed(id="c", label="C", formula="__import__('os')", unit="A"), "formulas.refused", "/formula"),
        (Computed(id="c", label="C", formula="nobody + 1", unit="A"), "formulas.name", "/formula"),
        (Computed(id="c", label="C", formula="bar", unit="A"), "formulas.dimension", "/formula"),
        (Reading(id="r", label="R", unit="bar", units=("°C",)), "units.dimension", "/units"),
        (Reading(id="r", label="R", unit="furlong"), "units.unknown", "/unit"),
        (Reading(id="r", label="R", unit="bar", limits=Limits(low=9, high=1)), "questions.limits", "/limits"),
        (MeterReading(id="m", label="M", meter="starts"), "questions.meter", "/meter"),
        (OneOf(id="o", label="O", options=(Option(id="a", label="A"),)), "questions.options", "/options"),
        (
            OneOf(id="o", label="O", options=(Option(id="a", label="A"), Option(id="b", label=" "))),
            "questions.option_label",
            "/options/1/label",
        ),
        (YesNo(id="y", label="Y", prefill="asset.mood"), "questions.prefill", "/prefill"),
        (YesNo(id="y", label="Y", write_back="asset.model"), "questions.write_back", "/write_back"),
        (YesNo(id="y", label="Y", required="when"), "questions.required", "/required_when"),
        (
            YesNo(id="y", label="Y", condition=compare("asset.mood", "answered")),
            "conditions.fact",
            "/condition",
        ),
        (
            YesNo(id="y", label="Y", condition=compare("asset.model", "is one of", ("WR2", "WR9"))),
            "conditions.option",
            "/condition",
        ),
        (
            YesNo(id="y", label="Y", condition=compare("order.priority", "is", "Next year")),
            "conditions.option",
            "/condition",
        ),
        (YesNo(id="y", label="Y", condition=compare("y", "answered")), "conditions.later", "/condition"),
        (
            YesNo(id="y", label="Y", condition=compare("gone", "answered")),
            "conditions.question",
            "/condition",
        ),
        (
            YesNo(id="y", label="Y", condition=compare("bar", "before", "2026-01-01")),
            "conditions.kind",
            "/condition",
        ),
    ],
)
def test_what_is_wrong_with_a_question_is_named_beside_it(question: Question, code: str, place: str) -> None:
    assert (code, f"/steps/0/questions/1{place}") in problems(form(section("one", BAR, question)))


def test_a_ring_of_values_is_named_in_its_order() -> None:
    plan = form(
        section(
            "one",
            Computed(id="a", name="a", label="Head", formula="b + 1", unit=""),
            Computed(id="b", name="b", label="Flow", formula="c + 1", unit=""),
            Computed(id="c", name="c", label="Power", formula="a + 1", unit=""),
        )
    )
    (cycle,) = [p for p in plan_problems(plan, LIST, kind="form") if p.code == "formulas.cycle"]
    ring = cycle.message.removeprefix("A ring of needs: ").removesuffix(".").split(", which needs ")
    needs = {"“Head”": "“Flow”", "“Flow”": "“Power”", "“Power”": "“Head”"}
    assert len(ring) == 4
    assert all(needs[one] == other for one, other in itertools.pairwise(ring)), cycle.message


@pytest.mark.parametrize(
    ("repeat", "code"),
    [
        (Repeat(per="", over="on site"), "repeats.per"),
        (Repeat(per="pump", over="named"), "repeats.names"),
        (Repeat(per="pump", over="asset field", field="asset.mood"), "repeats.field"),
    ],
)
def test_a_repeat_says_once_per_what_and_which_there_are(repeat: Repeat, code: str) -> None:
    assert (code, "/steps/0/repeat") in problems(form(section("one", BAR, repeat=repeat)))


def test_a_repeat_inside_a_repeat_is_refused() -> None:
    repeat = Repeat(per="pump", over="on site")
    plan = form(section("one", BAR, repeat=repeat), section("two", WET, under="one", repeat=repeat))
    assert ("repeats.nested", "/steps/1/repeat") in problems(plan)


def test_a_standard_step_is_one_step_and_refers_to_nothing() -> None:
    assert ("plans.one_step", "/steps") in problems(
        form(section("a", BAR), section("b", WET)), "standard step"
    )
    assert ("steps.nested", "/steps/0") in problems(form(section("a", BAR, form="FM-1")))


# Skills, parts and units against the lists.


def drafted(step: Step, catalogue: Catalogue) -> list[Defect]:
    return list(draft_defects(form(step), catalogue, kind="form", today=TODAY))


def held(technician: str, skill: str = "permit", expires_on: date | None = None) -> Holding:
    return Holding(technician=technician, district="North", skill=skill, level="Solo", expires_on=expires_on)


@pytest.mark.parametrize(
    ("roster", "code", "says"),
    [
        ((held("Ann"), held("Bo")), None, ""),
        ((held("Ann"),), "skills.one", "Only Ann holds Permit at Solo"),
        ((held("Ann", "hydraulics"),), "skills.nobody", "Nobody on the roster holds Permit at Solo"),
        (
            (held("Ann", expires_on=date(2026, 5, 31)), held("Bo", expires_on=date(2026, 3, 31))),
            "skills.expired",
            "the last expired on 31 May 2026",
        ),
        (
            (held("Ann", expires_on=TODAY), held("Bo", expires_on=TODAY)),
            "crew.runs_out",
            "nobody can carry it out: then the last certificate runs out, permit of Bo.",
        ),
    ],
)
def test_a_skill_is_looked_for_on_the_roster(
    roster: tuple[Holding, ...], code: str | None, says: str
) -> None:
    step = section("one", BAR, skills=(SkillNeed(skill="permit", level="Solo"),))
    told = [d.problem for d in drafted(step, replace(LISTS, roster=roster))]
    assert [p.code for p in told] == ([code] if code else [])
    assert all(says in p.message for p in told)


def test_a_part_stocked_nowhere_is_named() -> None:
    parts = (Part(code="RV-SEAT", name="Seat kit"), Part(code="OIL", name="Oil", stocked=("Van",)))
    step = section("one", BAR, parts=(PartNeed(part="RV-SEAT"), PartNeed(part="OIL")))
    told = [d.problem.message for d in drafted(step, replace(LISTS, parts=parts))]
    assert told == ["Seat kit, RV-SEAT, for “Section one” is stocked nowhere."]


def test_a_tool_that_no_van_has_in_the_number_wanted_and_that_is_kept_nowhere_is_named() -> None:
    tools = (
        Tool(code="SLING", name="Sling"),
        Tool(code="HOIST", name="Hoist", stocked=("Depot",)),
        Tool(code="LAMP", name="Lamp"),
    )
    vans = (
        VanTool(technician="Runa", tool="SLING"),
        VanTool(technician="Teo", tool="SLING"),
        VanTool(technician="Teo", tool="HOIST"),
    )
    wanted = (
        ToolNeed(tool="SLING", quantity=2),
        ToolNeed(tool="HOIST", quantity=2),
        ToolNeed(tool="LAMP"),
    )
    step = section("one", BAR, tools=wanted)
    told = [d.problem.message for d in drafted(step, replace(LISTS, tools=tools, van_tools=vans))]
    assert told == [
        "2 × Sling, SLING, for “Section one”: no van has more than 1, and it is kept nowhere.",
        "Lamp, LAMP, for “Section one”: no van has it, and it is kept nowhere.",
    ]
    bare = tuple(replace(tool, stocked=()) for tool in tools)
    assert drafted(step, replace(LISTS, tools=bare)) == [], (
        "where nothing is said of any place, nothing is told"
    )


@pytest.mark.parametrize(
    ("label", "unit", "wrong"),
    [
        ("Bearing temperature", "bar", True),
        ("Bearing temperature", "°F", False),
        ("Oil pressure", "psi", False),
        ("Insulation, phase 1", "GΩ", False),
        ("Motor current", "V", True),
        ("Gap", "A", False),
    ],
)
def test_a_reading_named_for_one_thing_and_measured_as_another_is_worth_a_look(
    label: str, unit: str, wrong: bool
) -> None:
    step = section("one", Reading(id="r", label=label, unit=unit))
    assert [d.problem.code for d in drafted(step, LISTS)] == (["questions.wrong_unit"] if wrong else [])


def test_a_photo_of_nothing_named_is_worth_a_look() -> None:
    assert "questions.photo_of_what" in [
        d.problem.code for d in drafted(section("one", Photo(id="p", label="Photo")), LISTS)
    ]


# References: what is wrong inside is named at the step that refers to it.


def test_a_defect_inside_a_form_is_named_at_the_step_that_fills_it_in() -> None:
    deep = replace(WET, condition=compare("bar", "above", 300.0))
    inside = form(section("one", BAR, deep))
    shared = SharedPlans(forms={"FM-1": Shared(document="FM-1", revision="B", plan=inside)})
    plan = form(section("a", Tick(id="t")), section("b", form="FM-1"))
    told = draft_defects(plan, LISTS, kind="plan", shared=shared, today=TODAY)
    (defect,) = [d for d in told if d.problem.code == "reach.never"]
    assert defect.problem.path == "/steps/1/form"
    assert defect.problem.message.startswith("In FM-1: “Wet” of “Section one” can never be asked")
    assert defect.fix is None


def test_a_step_that_refers_to_nothing_is_an_error() -> None:
    plan = form(section("a", standard="SS-9"))
    told = draft_defects(plan, LISTS, kind="plan", today=TODAY)
    assert ("reuse.unknown", "/steps/0/standard") in [(d.problem.code, d.problem.path) for d in told]


def test_the_mend_of_a_step_behind_a_form_is_at_its_own_place() -> None:
    shared = SharedPlans(
        forms={"FM-1": Shared(document="FM-1", revision="A", plan=form(section("one", BAR)))}
    )
    always = Disjunction(parts=(compare("wet", "is", True), compare("wet", "is", False)))
    plan = form(section("a", form="FM-1"), section("b", WET), section("c", Tick(id="t"), condition=always))
    told = draft_defects(plan, LISTS, kind="plan", shared=shared, today=TODAY)
    (defect,) = [d for d in told if d.problem.code == "reach.always"]
    assert defect.problem.path == "/steps/2/condition"
    assert defect.fix is not None
    assert defect.fix.change == SetField(path="/steps/2/condition", value=None)


# Completeness on questions: the solver's verdict equals enumeration on forms small enough to walk.

DOMAINS: dict[str, list[Answer]] = {
    "wet": [True, False],
    "seat": ["a", "b"],
    "heard": [(), ("x",), ("y",), ("x", "y")],
    "p": [0.0, 2.0, 5.0, 10.0],
}
ASKED: dict[str, Question] = {
    "wet": WET,
    "seat": OneOf(id="seat", label="Seat", options=(Option(id="a", label="A"), Option(id="b", label="B"))),
    "heard": AnyOf(id="heard", label="Heard", options=(Option(id="x", label="X"), Option(id="y", label="Y"))),
    "p": Reading(id="p", label="P", unit="bar", lowest=0.0, highest=10.0),
}


def clause(question: str) -> st.SearchStrategy[Condition]:
    match question:
        case "wet":
            return st.builds(compare, st.just("wet"), st.just("is"), st.booleans())
        case "seat":
            return st.builds(
                compare, st.just("seat"), st.sampled_from(["is", "is not"]), st.sampled_from("ab")
            )
        case "heard":
            return st.builds(compare, st.just("heard"), st.just("includes"), st.sampled_from("xy"))
        case _:
            return st.builds(
                compare, st.just("p"), st.sampled_from(["below", "at least"]), st.sampled_from([2.0, 5.0])
            )


@st.composite
def small_forms(draw: st.DrawFn) -> Plan:
    order = draw(st.permutations(list(ASKED)))
    questions: list[Question] = []
    for i, name in enumerate(order):
        parts = [draw(clause(q)) for q in draw(st.lists(st.sampled_from(order[:i]), max_size=3))] if i else []
        shape = draw(st.sampled_from([Conjunction, Disjunction]))
        condition: Condition | None = shape(parts=tuple(parts)) if parts else None
        if condition is not None and draw(st.integers(0, 3)) == 0:
            condition = Negation(part=condition)
        required: Required = draw(st.sampled_from(("always", "never")))
        questions.append(replace(ASKED[name], condition=condition, required=required))
    cut = draw(st.integers(1, 3))
    return form(section("one", *questions[:cut]), section("two", *questions[cut:]))


@settings(max_examples=examples(60), deadline=None)
@given(small_forms())
def test_which_questions_can_be_asked_equals_brute_force_enumeration(plan: Plan) -> None:
    sheet = sheet_of(plan)
    reached: set[str] = set()
    sometimes_hidden: set[str] = set()
    required = {q.id for s in plan.steps for q in s.questions if q.required == "always"}
    for combination in itertools.product(*([None, *domain] for domain in DOMAINS.values())):
        answers: dict[str, Answer] = {
            f"W:{q}": a for q, a in zip(DOMAINS, combination, strict=True) if a is not None
        }
        standing = settle(rules_of(sheet, answers), Entered(answers))
        asked = {q for q in DOMAINS if standing.wanted[f"W:{q}"] is True}
        reached |= asked
        if all(f"W:{q}" in answers for q in asked & required):
            sometimes_hidden |= DOMAINS.keys() - asked
    told = check_plan(plan)
    by_path = {
        f"/steps/{i}/questions/{j}/condition": q.id
        for i, s in enumerate(plan.steps)
        for j, q in enumerate(s.questions)
    }
    never = {by_path[d.problem.path] for d in told if d.problem.code == "reach.never"}
    always = {by_path[d.problem.path] for d in told if d.problem.code == "reach.always"}
    conditional = {q.id for s in plan.steps for q in s.questions if q.condition is not None}
    assert never == DOMAINS.keys() - reached
    assert always == (conditional & reached) - sometimes_hidden
