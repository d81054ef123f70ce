"""The roll-up against the run itself: random plans carried out by the real runtime."""

from __future__ import annotations

import random
from collections.abc import Mapping
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from reedling.core.guidance.plans import Minutes, Plan, Repeat, Step
from reedling.core.guidance.questions import (
    AnyOf,
    DateEntry,
    OneOf,
    Option,
    Question,
    Reading,
    YesNo,
)
from reedling.core.guidance.skills import PartNeed, ToolNeed
from reedling.core.logic.conditions import (
    Answer,
    Comparison,
    Condition,
    Conjunction,
    Disjunction,
    Negation,
    questions_of,
)
from reedling.core.rollup.answer_chances import answer_chances
from reedling.core.rollup.branches import BranchEvidence
from reedling.core.rollup.outlook import (
    Outlook,
    Unfolding,
    Variable,
    all_falls,
    n_ways,
    outlook,
    shared_name,
)
from reedling.core.rollup.plan_totals import targets_of, total_plans
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Source
from reedling.core.runsheet.progress import take_up, wanted_parts
from tests.examples import IS_DEEP, examples

OPTIONS = tuple(Option(id=o, label=o) for o in "abc")


def question(kind: int, name: str, condition: Condition | None) -> Question:
    match kind:
        case 0:
            return YesNo(id=name, label=name, condition=condition)
        case 1:
            return OneOf(id=name, label=name, options=OPTIONS, condition=condition)
        case 2:
            return AnyOf(id=name, label=name, options=OPTIONS, condition=condition)
        case 3:
            return Reading(id=name, label=name, unit="bar", lowest=0, highest=10, condition=condition)
        case _:
            return DateEntry(id=name, label=name, condition=condition)


def comparison(rng: random.Random, q: Question) -> Comparison:
    """Something that may be asked of a question of this kind."""
    operator: str
    value: object
    upper = None
    match q.kind:
        case "yes_no":
            operator, value = "is", rng.random() < 0.5
        case "one_of":
            operator = rng.choice(("is", "is not", "is one of"))
            value = ("a", "b") if operator == "is one of" else rng.choice("abc")
        case "any_of":
            operator = rng.choice(("includes any", "includes all", "is exactly"))
            value = tuple(rng.sample("abc", rng.randint(1, 2)))
        case "reading":
            operator = rng.choice(("below", "at most", "above", "at least", "between"))
            value, upper = float(rng.choice((2, 5))), 8.0
        case _:
            operator, value = rng.choice(("before", "after")), rng.choice(("2026-01-01", "2026-01-02"))
    return Comparison(
        question=q.id,
        operator=operator,  # type: ignore[arg-type]
        value=value,
        upper=upper,
        repeats=rng.choice(("same", "any", "every")),
    )


def condition(rng: random.Random, asked: list[Question]) -> Condition:
    """Of one question as a rule, sometimes of two, sometimes turned round."""
    first: Condition = comparison(rng, rng.choice(asked))
    if rng.random() < 0.15:
        first = Negation(part=first)
    if rng.random() < 0.3:
        second = comparison(rng, rng.choice(asked))
        return (
            Conjunction(parts=(first, second)) if rng.random() < 0.5 else Disjunction(parts=(first, second))
        )
    return first


def random_plan(rng: random.Random, *, chances: bool = True) -> Plan:
    """Nested branches, shared questions, repeats, parts under conditions, questions under conditions."""
    asked: list[Question] = []
    steps: list[Step] = []
    for n in range(rng.randint(3, 7)):
        own = list(asked)
        under = rng.choice([None, None, *(s.id for s in steps)])
        repeat = None
        if under is None and rng.random() < 0.2:
            repeat = Repeat(per="pump", over="named", names=("A", "B", "C")[: rng.randint(1, 3)])
        when = condition(rng, own) if own and (under is not None or rng.random() < 0.5) else None
        inner = condition(rng, own) if own and rng.random() < 0.2 else None
        questions: tuple[Question, ...] = ()
        if rng.random() < 0.7:
            questions = (question(rng.randrange(5), f"q{n}", inner),)
        parts: tuple[PartNeed, ...] = ()
        if rng.random() < 0.4:
            of = condition(rng, own) if own and rng.random() < 0.6 else None
            parts = (PartNeed(part=rng.choice(("SEAL", "OIL")), quantity=rng.randint(1, 2), condition=of),)
        likely = float(rng.randint(1, 40))
        steps.append(
            Step(
                id=f"s{n}",
                phase="Diagnose",
                text=f"Step {n}",
                minutes=Minutes(likely=likely, low=likely * 0.7, high=likely * 1.6),
                questions=questions,
                parts=parts,
                under=under,
                condition=when,
                chance=round(rng.random(), 2)
                if chances and when is not None and rng.random() < 0.7
                else None,
                repeat=repeat,
            )
        )
        asked += questions
    # The steps of a branch follow the step that it hangs on.
    ordered: list[Step] = []

    def place(parent: str | None) -> None:
        for s in steps:
            if s.under == parent:
                ordered.append(s)
                place(s.id)

    place(None)
    return Plan(title="t", steps=tuple(ordered))


def looks_back(plan: Plan) -> bool:
    """Whether conditions ask only about what comes before them, as a sound plan's do."""
    seen: set[str] = set()
    for s in plan.steps:
        wanted = {q for c in (s.condition, *(p.condition for p in s.parts)) for q in questions_of(c)}
        wanted |= {q for question in s.questions for q in questions_of(question.condition)}
        if not wanted <= seen:
            return False
        seen |= {q.id for q in s.questions}
    return True


def sound_plan(seed: int, *, chances: bool = True) -> tuple[Plan, random.Random]:
    rng = random.Random(seed)
    while not looks_back(plan := random_plan(rng, chances=chances)):
        continue
    return plan, rng


def variables_of(found: Outlook) -> tuple[Variable, ...]:
    looked = Unfolding(found, {}, 1)
    for line in found.lines:
        looked.wanted(line.id)
        for need in line.parts:
            looked.truth(need.condition)
    return tuple(looked.met)


def answers_for(found: Outlook, falls: Mapping[Variable, int]) -> dict[str, Answer]:
    """The answers of one run, by the ways things fall in it; what no condition asks about gets any."""
    out: dict[str, Answer] = {}
    for identity, (_, q) in found.questions.items():
        name = shared_name(identity)
        if name in found.options:
            chosen = [
                o for o in found.options[name] if falls.get(Variable(f"{identity} {o}", f"{name} {o}")) == 0
            ]
            out[identity] = tuple(random.Random(identity).sample(chosen, len(chosen)))
        elif (fall := falls.get(Variable(identity, name))) is not None:
            way = found.ways[name][fall]
            assert way is not None
            out[identity] = way
        else:
            plain: dict[str, Answer] = {"yes_no": True, "one_of": "a", "any_of": (), "reading": 1.0}
            out[identity] = plain.get(q.kind, "2026-01-01")
    return out


def run_of(plan: Plan, answers: Mapping[str, Answer]) -> tuple[set[str], dict[str, float]]:
    """The lines that a real run wants, and the parts it takes."""
    sheet = compile_runsheet([(Source(document="0", revision="", title="t"), plan)])
    run = take_up(sheet, answers)
    wanted = {line.id for line in run.lines if run.standing.wanted[line.id] is True}
    parts: dict[str, float] = {}
    for line in run.lines:
        for need in wanted_parts(run, line) if line.id in wanted else ():
            parts[need.part] = parts.get(need.part, 0) + need.quantity
    return wanted, parts


@pytest.mark.slow
@settings(max_examples=examples(300))
@given(st.integers(0, 1_000_000))
def test_a_plan_unfolds_as_it_does_on_site(seed: int) -> None:
    """Twenty random ways through 300 random plans, each carried out by the real runtime."""
    plan, rng = sound_plan(seed)
    found = outlook([plan])
    variables = variables_of(found)
    falls = {
        v: np.array([rng.randrange(n_ways(found, v.shared)) for _ in range(20)], dtype=np.intp)
        for v in variables
    }
    runs = Unfolding(found, falls, 20)
    for i in range(20):
        wanted, _ = run_of(plan, answers_for(found, {v: int(f[i]) for v, f in falls.items()}))
        assert {line.id for line in found.lines if runs.wanted(line.id)[i]} == wanted


N_TRUTHS = 300


@pytest.mark.slow
def test_chances_that_hold_together_are_met_and_the_mean_is_that_of_the_truth() -> None:
    """A true chance is drawn for every answer; what is given of each branch follows from it.

    The search may end in a valley of its own: that is allowed of one plan in a hundred, and then the mean
    is no more than one part in twenty off.
    """
    pairs = [pair for seed in range(N_TRUTHS) if (pair := mean_and_truth(seed)) is not None]
    assert len(pairs) > 0.9 * N_TRUTHS
    off = [abs(found - truth) / (truth + 30) for found, truth in pairs]
    assert max(off) < 0.05
    assert sum(x > 0.005 for x in off) <= len(pairs) // 100


def mean_and_truth(seed: int) -> tuple[float, float] | None:
    """The mean minutes of a random plan as found and as they truly are; nothing where it is too large."""
    plan, rng = sound_plan(seed, chances=False)
    found = outlook([plan])
    variables = variables_of(found)
    count = int(np.prod([n_ways(found, v.shared) for v in variables], dtype=float))
    if count > 20_000:
        return None
    truth = {}
    for shared in sorted({v.shared for v in variables}):
        drawn = np.array([rng.random() + 0.05 for _ in range(n_ways(found, shared))])
        truth[shared] = drawn / drawn.sum()
    falls = all_falls(found, variables)
    p = np.ones(count)
    for v in variables:
        p = p * truth[v.shared][falls[v]]
    runs = Unfolding(found, falls, count)
    said: dict[str, float] = {}
    for line in found.lines:
        if line.condition is not None and line.step not in said:
            could = float(runs.above(line.id) @ p)
            said[line.step] = float(runs.wanted(line.id) @ p) / could if could else 0.0
    told = replace(plan, steps=tuple(replace(s, chance=said.get(s.id)) for s in plan.steps))
    expected = sum(_mean(line.minutes) * float(runs.wanted(line.id) @ p) for line in found.lines)
    return total_plans([told]).minutes.mean, expected


def _mean(m: Minutes) -> float:
    assert m.low is not None
    assert m.high is not None
    return (m.low + 4 * m.likely + m.high) / 6


def _deviation(m: Minutes) -> float:
    assert m.low is not None
    assert m.high is not None
    return (m.high - m.low) / 6


N_JOBS = 1_500


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(24 if IS_DEEP else 12))
def test_minutes_and_parts_are_those_of_many_real_runs(seed: int) -> None:
    """Jobs drawn by the chances found, carried out by the real runtime, each step's minutes drawn anew."""
    plan, _ = sound_plan(seed * 7919 + 5)
    found = outlook([plan])
    chances = answer_chances(found, targets_of([plan], found, [{}]))
    variables = variables_of(found)
    draws = np.random.default_rng(seed)
    falls = {}
    for v in variables:
        n = n_ways(found, v.shared)
        falls[v] = draws.choice(n, size=N_JOBS, p=chances.get(v.shared, np.full(n, 1 / n)))
    minutes, taken = [], []
    by_id = {line.id: line.minutes for line in found.lines}
    for i in range(N_JOBS):
        wanted, parts = run_of(plan, answers_for(found, {v: int(f[i]) for v, f in falls.items()}))
        worked = sum(
            float(draws.normal(_mean(by_id[line]), _deviation(by_id[line]))) for line in sorted(wanted)
        )
        minutes.append(worked)
        taken.append(parts)
    totals = total_plans([plan])
    spread = totals.minutes
    error = float(np.std(minutes)) / N_JOBS**0.5
    assert spread.mean == pytest.approx(float(np.mean(minutes)), abs=5 * error + 0.05)
    for share, quantile in ((0.5, spread.p50), (0.8, spread.p80)):
        # A share of the jobs lies at or below its quantile, within five standard errors of the share.
        near = 5 * (share * (1 - share) / N_JOBS) ** 0.5
        below = float(np.mean(np.array(minutes) <= quantile + 0.02))
        above = float(np.mean(np.array(minutes) <= quantile - 0.02))
        assert above - near <= share <= below + near
    for part in totals.parts:
        used = np.array([jobs.get(part.part, 0.0) for jobs in taken])
        assert used.max() <= part.most
        assert part.expected == pytest.approx(used.mean(), abs=5 * used.std() / N_JOBS**0.5 + 0.01)
        assert part.chance == pytest.approx((used > 0).mean(), abs=5 * 0.5 / N_JOBS**0.5)


def test_conditional_evidence_is_used_as_conditional() -> None:
    """Of 100 jobs 50 were wet, and of these 40 leaked: of all jobs 40 %, not 20 %."""
    ask = Step(
        id="a", phase="Diagnose", text="a", minutes=Minutes(likely=0), questions=(YesNo(id="w", label="W"),)
    )
    wet = Comparison(question="w", operator="is", value=True)
    leaks = Comparison(question="l", operator="is", value=True)
    plan = Plan(
        title="t",
        steps=(
            ask,
            Step(
                id="wet",
                phase="Diagnose",
                text="b",
                minutes=Minutes(likely=0),
                condition=wet,
                questions=(YesNo(id="l", label="L"),),
            ),
            Step(
                id="leaks",
                phase="Put right",
                text="c",
                minutes=Minutes(likely=100),
                condition=leaks,
                under="wet",
            ),
        ),
    )
    evidence = {
        "wet": BranchEvidence(n_wanted=50, n_jobs=100),
        "leaks": BranchEvidence(n_wanted=40, n_jobs=100),
    }
    mean = total_plans([plan], evidence).minutes.mean
    assert mean == pytest.approx(100 * (51 / 102) * (41 / 52))


@given(st.integers(0, 1_000_000))
def test_a_tool_is_wanted_as_often_as_a_part_of_its_steps_and_as_many_as_one_step_wants(seed: int) -> None:
    """Against parts that stand for tools on the same steps, and every way through by the real runtime."""
    plan, rng = sound_plan(seed)
    needs = {
        step.id: tuple(
            ToolNeed(tool=t, quantity=rng.randint(1, 3)) for t in ("SLING", "LAMP") if rng.random() < 0.4
        )
        for step in plan.steps
    }
    plan = replace(
        plan,
        steps=tuple(
            replace(
                step,
                tools=needs[step.id],
                parts=(*step.parts, *(PartNeed(part=need.tool) for need in needs[step.id])),
            )
            for step in plan.steps
        ),
    )
    totals = total_plans([plan])
    marks = {t.part: (t.always, t.chance) for t in totals.parts}
    assert {t.tool: (t.always, t.chance) for t in totals.tools} == {
        tool: marks[tool] for tool in {n.tool for own in needs.values() for n in own}
    }
    found = outlook([plan])
    variables = variables_of(found)
    count = int(np.prod([n_ways(found, v.shared) for v in variables], dtype=float))
    if count > 60:
        return
    falls = all_falls(found, variables)
    most: dict[str, int] = dict.fromkeys(marks.keys() & {"SLING", "LAMP"}, 0)
    reached: set[str] = set()
    for i in range(count):
        wanted, _ = run_of(plan, answers_for(found, {v: int(f[i]) for v, f in falls.items()}))
        for line in found.lines:
            if line.id in wanted:
                reached.add(line.step)
                for need in needs[line.step]:
                    most[need.tool] = max(most[need.tool], need.quantity)
    for total in totals.tools:
        assert most[total.tool] <= total.most, "no run wants more at once"
        if all(step in reached for step, own in needs.items() if any(n.tool == total.tool for n in own)):
            assert most[total.tool] == total.most, "and some run wants as many"
