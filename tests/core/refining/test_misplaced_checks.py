"""A check that another made needless: found where it is so, never where it is not, and worth what jobs walked again say."""

from __future__ import annotations

import random
from collections.abc import Mapping
from dataclasses import replace
from statistics import mean

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.guidance.editing import arranged
from reedling.core.guidance.finish_rules import FinishRule
from reedling.core.guidance.plans import Minutes, Plan, Step, step_by_id
from reedling.core.guidance.questions import (
    Computed,
    Limits,
    MeterReading,
    OneOf,
    Option,
    Question,
    Reading,
    YesNo,
)
from reedling.core.logic.conditions import Answer, Comparison, Disjunction, Negation, Operator, evaluate
from reedling.core.refining.changes import SpareCheck, changed
from reedling.core.refining.misplaced_checks import misplaced_checks, opposite
from reedling.core.refining.proposals import PlanEvidence, Proposal, StepJob
from reedling.core.refining.step_proposals import proposals_of_plan
from reedling.core.runsheet.lines import Runsheet
from tests.plans import sheet_of
from tests.runs import follow

N_JOBS = 160
READING = Reading(id="q", label="Pressure", unit="bar", limits=Limits(low=90))
CHOICE = OneOf(
    id="q", label="Seat", options=tuple(Option(id=o, label=o) for o in ("sound", "dirt", "scored"))
)
ANSWERS: tuple[tuple[Question, Comparison, tuple[Answer, ...], tuple[Answer, ...]], ...] = (
    (READING, Comparison(question="q", operator="below", value=90.0), (70.0, 89.9), (90.0, 120.0)),
    (CHOICE, Comparison(question="q", operator="is one of", value=("dirt", "scored")), ("dirt",), ("sound",)),
    (CHOICE, Comparison(question="q", operator="is", value="scored"), ("scored",), ("sound", "dirt")),
    (YesNo(id="q", label="Loose"), Comparison(question="q", operator="is", value=True), (True,), (False,)),
)
"""A question with what a branch asks of it, answers that tell and answers that do not."""


def plan_of(kinds: list[int], under: Mapping[int, int] | None = None) -> Plan:
    """A check for each kind, in this order, each with a remedy that hangs on its answer; ``under`` are checks by the
    remedies that stand under them, their own or another."""
    checks, remedies = [], []
    for i, kind in enumerate(kinds):
        question, asks, _, _ = ANSWERS[kind]
        checks.append(
            Step(
                id=f"c{i}",
                phase="Diagnose",
                text=f"Check {i}",
                minutes=Minutes(likely=10),
                questions=(replace(question, id=f"q{i}"),),
            )
        )
        remedies.append(
            Step(
                id=f"r{i}",
                phase="Put right",
                text=f"Remedy {i}",
                minutes=Minutes(likely=20),
                condition=replace(asks, question=f"q{i}"),
                under=f"c{under[i]}" if under and i in under else None,
            )
        )
    return Plan(title="t", steps=arranged((*checks, *remedies)))


def causes(rng: random.Random, plan: Plan, *, alone: bool) -> list[frozenset[int]]:
    """What is wrong in each job, by the check that tells it: one thing at most, or each by itself."""
    n = len([s for s in plan.steps if s.id.startswith("c")])
    if alone:
        return [frozenset({rng.randrange(n + 1)} - {n}) for _ in range(N_JOBS)]
    return [frozenset(i for i in range(n) if rng.random() < 0.4) for _ in range(N_JOBS)]


def carried_out(
    rng: random.Random, plan: Plan, kinds: list[int], wrong: list[frozenset[int]]
) -> tuple[PlanEvidence, list[dict[str, Answer]]]:
    """The jobs carried out by the real rules: what each wanted, and its minutes; with the answers that each would give."""
    sheet = sheet_of(plan)
    steps: dict[str, list[StepJob]] = {s.id: [] for s in plan.steps}
    answers = []
    for n, own in enumerate(wrong):
        given_: dict[str, Answer] = {}
        for i, kind in enumerate(kinds):
            _, _, tells, tells_not = ANSWERS[kind]
            given_[f"q{i}"] = rng.choice(tells if i in own else tells_not)
        answers.append(given_)
        wanted = wanted_steps(sheet, given_)
        for line in sheet.lines:
            steps[line.step].append(
                StepJob(
                    order=f"o{n}",
                    model="M",
                    wanted=line.step in wanted,
                    minutes=rng.uniform(5, 15) if line.step in wanted else None,
                    out_of_limit=None,
                )
            )
    return PlanEvidence(document="W", revision="A", plan=plan, steps=steps), answers


def wanted_steps(
    sheet: Runsheet, answers: Mapping[str, Answer], skipped: tuple[str, ...] = ()
) -> frozenset[str]:
    """The steps that a job with these answers is asked for, by the rules that the phone follows."""
    lines = {line.step: line.id for line in sheet.lines}
    names = {q.id.rpartition(":")[2]: q.id for line in sheet.lines for q in line.questions}
    progress = follow(
        sheet,
        {names[q]: a for q, a in answers.items()},
        skipped=[lines[s] for s in skipped],
        reasons={lines[s]: "cannot be reached" for s in skipped},
    )
    steps = {line.id: line.step for line in sheet.lines}
    return frozenset(steps[p.line] for p in progress.lines if p.state in ("due", "done"))


def spared_in(evidence: PlanEvidence) -> list[Proposal]:
    return [p for _, p in misplaced_checks(evidence) if p is not None]


@given(
    kinds=st.lists(st.integers(0, len(ANSWERS) - 1), min_size=2, max_size=4),
    alone=st.booleans(),
    under=st.dictionaries(st.integers(0, 3), st.integers(0, 3), max_size=2),
    seed=st.integers(0, 10_000),
)
def test_what_is_promised_is_what_the_same_jobs_take_by_the_draft(
    kinds: list[int], alone: bool, under: dict[int, int], seed: int
) -> None:
    rng = random.Random(seed)
    n = len(kinds)
    plan = plan_of(kinds, {remedy: check for remedy, check in under.items() if remedy < n and check < n})
    evidence, answers = carried_out(rng, plan, kinds, causes(rng, plan, alone=alone))
    sheet = sheet_of(plan)
    for found in spared_in(evidence):
        assert isinstance(found.change, SpareCheck)
        draft = changed(plan, found.change)
        assert isinstance(draft, Plan)
        assert [s.id for s in draft.steps].index(found.change.after) < [s.id for s in draft.steps].index(
            found.step
        )
        anew = sheet_of(draft)
        taken = {j.order: j.minutes for j in evidence.steps[found.step]}
        saved, n_missed = [], 0
        for n, own in enumerate(answers):
            before, after = wanted_steps(sheet, own), wanted_steps(anew, own)
            told = f"r{found.change.after[1:]}" in before
            assert after <= before
            assert (found.step in before - after) == (told and found.step in before)
            assert told or after == before
            n_missed += len(before - after) > 1
            saved.append(taken[f"o{n}"] or 0.0 if found.step in before - after else 0.0)
            left_out = {q: a for q, a in own.items() if q != f"q{found.change.after[1:]}"}
            assert found.step in wanted_steps(anew, left_out, (found.change.after,)), (
                "what tells was left out"
            )
        assert (f"in {n_missed} of these" if n_missed else "in none of these") in found.sentence
        low, _, high = (float(x) for x in _figures(found.effect))
        assert low <= mean(saved) + 0.5
        assert mean(saved) <= high + 0.5
        assert f"{mean(saved):.1f}".removesuffix(".0") in found.effect or mean(saved) >= 10


def _figures(effect: str) -> tuple[str, str, str]:
    """The low end, the value and the high end of the minutes that an effect tells."""
    value, _, rest = effect.partition("save ")[2].partition(" (")
    low, _, high = rest.partition(")")[0].partition("–")
    return low, value, high


def n_put_in_order(n_worlds: int, *, alone: bool) -> int:
    """In how many worlds a check is said to be needless: where one thing is wrong at most, or each by itself."""
    n_found = 0
    for seed in range(n_worlds):
        rng = random.Random(seed)
        plan = plan_of([0, 1])
        evidence, _ = carried_out(rng, plan, [0, 1], causes(rng, plan, alone=alone))
        n_found += any(isinstance(p.change, SpareCheck) for p in proposals_of_plan(evidence, {}, {}))
    return n_found


@pytest.mark.slow
def test_checks_that_tell_of_different_causes_are_put_in_order_and_others_are_not() -> None:
    assert n_put_in_order(60, alone=True) == 60
    assert n_put_in_order(60, alone=False) == 0, "checks that tell apart from each other are each needed"


def test_the_check_that_tells_more_comes_first() -> None:
    rng = random.Random(1)
    plan = plan_of([0, 3])
    often = [frozenset({1}) if rng.random() < 0.6 else frozenset({0}) for _ in range(N_JOBS)]
    evidence, _ = carried_out(rng, plan, [0, 3], often)
    (found,) = spared_in(evidence)
    assert (found.kind, found.step) == ("move a check", "c0")
    assert "and in none" not in found.sentence
    assert "; in none of these" in found.sentence
    draft = changed(plan, found.change)
    assert isinstance(draft, Plan)
    assert [s.id for s in draft.steps] == ["c1", "c0", "r0", "r1"]
    spared = step_by_id(draft, "c0")
    assert spared is not None
    assert spared.condition == Disjunction(
        parts=(
            Comparison(question="q1", operator="is", value=False),
            Comparison(question="q1", operator="not answered"),
        )
    )
    assert changed(draft, found.change) is None, "what is in it already is not drafted again"
    rarely = [frozenset({0}) if rng.random() < 0.6 else frozenset({1}) for _ in range(N_JOBS)]
    (other,) = spared_in(carried_out(rng, plan, [0, 3], rarely)[0])
    assert (other.kind, other.step) == ("spare a check", "c1")


OWN = Comparison(question="q0", operator="below", value=50.0)


@pytest.mark.parametrize(
    "more",
    [
        {"finish": (FinishRule(id="r", says="Read it", needs=OWN),)},
        {"finish": (FinishRule(id="r", says="Read it", needs=Negation(part=OWN), under="c0"),)},
        {"add": Step(id="n", phase="Leave", text="Say why", condition=replace(OWN, operator="not answered"))},
        {
            "add": Step(
                id="n",
                phase="Leave",
                text="Work it out",
                questions=(Computed(id="twice", label="Twice", formula="q0 * 2"),),
            )
        },
        {
            "add": Step(
                id="n",
                phase="Leave",
                text="Read the counter",
                questions=(MeterReading(id="h", label="Hours", meter="h", unit="h", required_when=OWN),),
            )
        },
    ],
)
def test_a_check_on_which_more_rests_is_not_spared(more: dict[str, object]) -> None:
    rng = random.Random(1)
    plan = plan_of([0, 3])
    evidence, _ = carried_out(rng, plan, [0, 3], [frozenset({i % 2}) for i in range(N_JOBS)])
    assert [p.step for p in spared_in(evidence)]
    if isinstance(added := more.get("add"), Step):
        held = replace(plan, steps=(*plan.steps, added))
    else:
        held = replace(plan, **more)  # type: ignore[arg-type]
    assert "c0" not in {p.step for p in spared_in(replace(evidence, plan=held))}


VALUES: dict[int, tuple[bool | float | str, ...]] = {0: (89.9, 90.0), 2: ("scored", "dirt"), 3: (True, False)}


@given(
    st.sampled_from((0, 1, 2, 3)),
    st.sampled_from(("is", "is not", "below", "at least", "above", "at most")),
    st.integers(0, 9),
)
def test_the_opposite_is_so_exactly_where_the_comparison_is_not(
    kind: int, operator: Operator, place: int
) -> None:
    question, asks, tells, tells_not = ANSWERS[kind]
    others = (asks, replace(asks, operator="between", value=80.0, upper=95.0)) if kind == 0 else (asks,)
    ordered = (
        (Comparison(question="q", operator=operator, value=VALUES[kind][place % 2]),) if kind != 1 else ()
    )
    for comparison in (*others, *ordered):
        for answer in (*tells, *tells_not):
            if isinstance(answer, str | bool) and comparison.operator in (
                "below",
                "at least",
                "above",
                "at most",
            ):
                continue
            told = evaluate(comparison, {"q": answer})
            assert evaluate(opposite(comparison, question), {"q": answer}) is (not told)
