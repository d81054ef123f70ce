"""Finish rules: what is told as open equals a slow twin, and what is proved of them equals enumeration."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from reedling.core.checking.finish_checks import check_finish_rules
from reedling.core.guidance.facts import fact_names
from reedling.core.guidance.finish_rules import FinishRule
from reedling.core.guidance.plans import FormUse, Plan, Step
from reedling.core.guidance.questions import Photo, Tick
from reedling.core.guidance.reuse import Shared, SharedPlans, fill_in
from reedling.core.guidance.soundness import plan_problems
from reedling.core.logic.conditions import Answer, Condition, Conjunction, evaluate, questions_of
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.events import Answered, Arrived, Coded, HeadedOut, LeftSite, NoteWritten, StepDone
from reedling.core.runsheet.finishing import open_rules
from reedling.core.runsheet.job import record
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import Source
from reedling.core.runsheet.progress import Run, take_up
from reedling.errors import Conflict
from tests.core.checking.test_checking import (
    CONDITIONS,
    DOMAINS,
    QUESTIONS,
    SEAT,
    P,
    compare,
    small_plans,
    step,
    with_steps,
)
from tests.core.checking.test_quantifiers import small_forms, yes_no_conditions
from tests.examples import examples
from tests.lists import LISTS
from tests.plans import at, sheet_of
from tests.runs import follow

RULES = st.builds(
    FinishRule,
    id=st.just("r"),
    says=st.just("See to it"),
    needs=CONDITIONS,
    when=st.none() | CONDITIONS,
)


def with_rule(plan: Plan, *rules: FinishRule) -> Plan:
    return replace(plan, finish=rules)


def open_by_a_branch(plan: Plan, answers: dict[str, Answer], left_out: list[str]) -> bool:
    """The slow twin: the rule as a branch of the plan with one question, wanted once the rule is met."""
    (rule,) = plan.finish
    met = Tick(id="met", label="Met", condition=rule.needs)
    branch = Step(id="rule", phase="Leave", text="Rule", condition=rule.when, questions=(met,))
    sheet = sheet_of(replace(plan, steps=(*plan.steps, branch), finish=()))
    (line,) = (p for p in follow(sheet, answers, skipped=left_out).lines if p.line == "W:rule")
    return line.state == "due" and "W:met" not in line.asked


def every_run(plan: Plan) -> Iterator[tuple[Run, bool]]:
    """Every combination of answers, unanswered and left out included, and whether the run is whole."""
    sheet = sheet_of(plan)
    home = {q.id: line.id for line in sheet.lines for q in line.questions}
    for combination in itertools.product(*([None, "left out", *DOMAINS[q.id]] for q in QUESTIONS)):
        given_ = {f"W:{q.id}": a for q, a in zip(QUESTIONS, combination, strict=True)}
        left_out = [home[q] for q, a in given_.items() if a == "left out"]
        answers = {q: a for q, a in given_.items() if a is not None and a != "left out"}
        progress = follow(sheet, answers, skipped=left_out)
        open_ = [m for p in progress.lines for m in p.missing if not m.startswith("W:k")]
        undecided = any(p.state == "open question" for p in progress.lines)
        yield take_up(sheet, answers, skipped=left_out), not open_ and not left_out and not undecided


@pytest.mark.slow
@settings(max_examples=examples(12), deadline=None)
@given(small_plans(), RULES)
def test_what_is_open_is_what_a_branch_of_the_plan_would_still_wait_for(plan: Plan, rule: FinishRule) -> None:
    ruled = with_rule(plan, rule)
    for run, _ in every_run(ruled):
        left_out = list(run.skipped)
        assert bool(open_rules(run, Job())) is open_by_a_branch(ruled, dict(run.answers), left_out)


@settings(max_examples=examples(12), deadline=None)
@given(yes_no_conditions(), yes_no_conditions())
def test_rules_over_repeats_are_open_as_a_branch_would_wait(needs: Condition, when: Condition) -> None:
    plan = with_rule(small_forms(when), FinishRule(id="r", says="See to it", needs=needs, when=when))
    keys = [f"W:{q}@{name}" for q in ("t", "v") for name in "AB"] + ["W:plain"]
    for values in itertools.product((True, False, None), repeat=5):
        answers = {q: a for q, a in zip(keys, values, strict=True) if a is not None}
        run = take_up(sheet_of(plan), answers)
        assert bool(open_rules(run, Job())) is open_by_a_branch(plan, dict(run.answers), [])


@pytest.mark.slow
@settings(max_examples=examples(12), deadline=None)
@given(small_plans(), RULES)
def test_what_is_proved_of_a_rule_equals_enumeration(plan: Plan, rule: FinishRule) -> None:
    ruled = with_rule(plan, rule)
    found = {d.problem.code: d for d in check_finish_rules(ruled, fact_names(LISTS))}
    own = [f"W:{q}" for q in dict.fromkeys(questions_of(rule.needs))]

    def holds(run: Run, condition: Condition | None) -> bool:
        answers = {q.removeprefix("W:"): a for q, a in run.standing.known.items()}
        settled = lambda q: run.is_settled(f"W:{q}")  # noqa: E731
        return evaluate(condition, answers, settled) is True  # type: ignore[arg-type]

    asked, met, stranded, says_something = False, False, False, False
    for run, is_whole in every_run(ruled):
        if not holds(run, rule.when):
            continue
        asked = True
        met = met or holds(run, rule.needs)
        if is_whole and not holds(run, rule.needs):
            says_something = True
            stranded = stranded or all(run.standing.wanted.get(q) is not True for q in own)
    assert ("finish.never" in found) is not asked
    assert ("finish.unmet" in found) is (asked and not met)
    if met:
        assert ("finish.stranded" in found) is stranded
    if "finish.always" in found:
        assert not says_something
    if "finish.stranded" in found:
        witness = found["finish.stranded"].witness or {}
        run = take_up(sheet_of(ruled), {f"W:{q}": a for q, a in witness.items()})
        assert open_rules(run, Job())


def test_a_rule_that_nobody_can_meet_names_the_clauses() -> None:
    rule = FinishRule(
        id="r", says="Check both", needs=compare("p", "above", 100.0), when=compare("p", "below", 90.0)
    )
    (found,) = check_finish_rules(with_rule(with_steps(step("read", P)), rule), {})
    assert (found.problem.code, found.problem.severity, found.problem.path) == (
        "finish.unmet",
        "error",
        "/finish/0",
    )
    assert found.problem.message.endswith(
        "it needs both that pressure is below 90 bar and that pressure is above 100 bar."
    )


def test_a_rule_that_strands_a_job_comes_with_the_answers_that_do() -> None:
    seat = step("seat", SEAT, condition=compare("p", "below", 90.0))
    rule = FinishRule(id="r", says="Judge the seat", needs=compare("s", "answered", None), weight="should")
    (found,) = check_finish_rules(with_rule(with_steps(step("read", P), seat), rule), {})
    assert (found.problem.code, found.problem.severity) == ("finish.stranded", "warning")
    assert found.witness is not None
    assert float(str(found.witness["p"])) >= 90


@pytest.mark.parametrize(
    ("needs", "code"),
    [
        (compare("job.notes", "below", 0.0), "finish.unmet"),
        (compare("job.photos", "between", 1.2, 1.8), "finish.unmet"),
        (compare("job.notes", "at least", 0.0), "finish.always"),
    ],
)
def test_what_is_counted_of_a_job_is_a_whole_number(needs: Condition, code: str) -> None:
    plan = with_rule(with_steps(step("read", P)), FinishRule(id="r", says="Say so", needs=needs))
    assert [d.problem.code for d in check_finish_rules(plan, fact_names(LISTS))] == [code]


def test_only_finish_rules_may_ask_about_the_job_itself() -> None:
    asks = compare("job.notes", "above", 0.0)
    plan = with_steps(step("read", P), step("more", Tick(id="k"), condition=asks))
    assert "conditions.fact" in {p.code for p in plan_problems(plan, LISTS)}
    ruled = with_rule(with_steps(step("read", P)), FinishRule(id="r", says="Write it down", needs=asks))
    assert "conditions.fact" not in {p.code for p in plan_problems(ruled, LISTS)}
    bare = with_rule(ruled, FinishRule(id="r", says=" "))
    assert {"finish.says", "finish.needs"} <= {p.code for p in plan_problems(bare, LISTS)}


def test_a_job_is_finished_once_its_rules_are_met_and_those_that_should_be_hold_up_nothing() -> None:
    low = compare("p", "below", 90.0)
    plan = with_rule(
        with_steps(step("read", P)),
        FinishRule(id="n", says="Say what you found", needs=compare("job.notes", "at least", 1.0), when=low),
        FinishRule(
            id="s", says="Take a photo", needs=compare("job.photos", "at least", 1.0), weight="should"
        ),
    )
    sheet = sheet_of(plan)
    job = Job()
    for event in (
        HeadedOut(at=at(0)),
        Arrived(at=at(5)),
        Answered(at=at(6), question="W:p", value=80.0),
        StepDone(at=at(7), line="W:read"),
        Coded(at=at(8), cause="debris", remedy="cleared"),
    ):
        job = record(sheet, job, event)
    leave = LeftSite(at=at(10), outcome="finished")
    with pytest.raises(Conflict) as refusal:
        record(sheet, job, leave)
    assert refusal.value.code == "jobs.finish_rules"
    assert "Say what you found." in str(refusal.value)
    assert record(sheet, job, LeftSite(at=at(10), outcome="return needed", reason="more time")).visits
    noted = record(sheet, job, NoteWritten(at=at(9), text="Valve scored.", line=None))
    assert record(sheet, noted, leave).finished_at == at(10)
    run = take_up(sheet, noted.answers, done=noted.done)
    assert [(rule.says, rule.weight) for rule in open_rules(run, noted)] == [("Take a photo", "should")]


def test_the_rules_of_a_form_are_asked_for_where_the_form_is() -> None:
    form = Plan(
        title="Pictures",
        steps=(Step(id="s", phase="Prove", text="After", questions=(Photo(id="after", label="After"),)),),
        finish=(FinishRule(id="r", says="A photo after the work", needs=compare("after", "answered", None)),),
    )
    plan = replace(
        with_steps(step("read", P)), forms=(FormUse(form="F", condition=compare("p", "below", 90.0)),)
    )
    shared = SharedPlans(forms={"F": Shared(document="F", revision="A", plan=form)})
    assert [(r.id, r.under) for r in fill_in(plan, shared).plan.finish] == [("form-F/r", "form-F")]
    source = Source(document="W", revision="A", title="t")
    sheet = compile_runsheet([(source, plan)], shared=shared)
    for pressure, wanted in ((80.0, ["A photo after the work"]), (100.0, [])):
        run = take_up(sheet, {"W:p": pressure})
        assert [rule.says for rule in open_rules(run, Job())] == wanted


def test_a_rule_on_a_repeating_step_is_asked_for_once_for_each_repeat() -> None:
    plan = small_forms(compare("plain", "is", True))
    rule = FinishRule(id="r", says="Cool it", needs=compare("t", "is", False), under="pump")
    run = take_up(sheet_of(with_rule(plan, rule)), {"W:t@A": True, "W:t@B": False})
    assert [(r.says, r.line) for r in open_rules(run, Job())] == [("Cool it", "W:pump@A")]


def test_every_condition_of_a_rule_is_read() -> None:
    both = Conjunction(parts=(compare("p", "below", 90.0), compare("gone", "is", True)))
    plan = with_rule(with_steps(step("read", P)), FinishRule(id="r", says="So", needs=both, when=both))
    paths = {p.path for p in plan_problems(plan, LISTS) if p.code == "conditions.question"}
    assert paths == {"/finish/0/needs", "/finish/0/when"}
