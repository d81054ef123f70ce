"""What is kept between edits of a draft is what would be worked out anew."""

from __future__ import annotations

import random
import threading
from collections.abc import Mapping
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from reedling.core.checking.finish_checks import check_finish_rules
from reedling.core.checking.kept_proofs import PROOFS, KeptProofs
from reedling.core.checking.plan_checks import check_plan
from reedling.core.guidance.finish_rules import FinishRule
from reedling.core.guidance.plans import Minutes, Plan, Step
from reedling.core.guidance.skills import SkillNeed
from reedling.core.logic.conditions import QuestionName
from reedling.core.rollup.branches import BranchEvidence
from reedling.core.rollup.plan_totals import forget_totals, total_plans
from tests.core.checking.test_checking import compare, small_plans
from tests.core.checking.test_finish_checks import RULES
from tests.examples import examples

FACTS: Mapping[str, QuestionName] = {"asset.model": QuestionName(label="the model")}


def told(plan: Plan) -> list[object]:
    """Every defect, but of its witness only whether it has one: any that replays will do."""
    found = (*check_plan(plan, FACTS), *check_finish_rules(plan, FACTS))
    return [(d.problem, d.fix, d.witness is None) for d in found]


def edited(plan: Plan, rng: random.Random) -> Plan:
    """The plan after one edit of any kind: words, minutes, skills, a chance, a condition, a phase, a finish rule."""
    at = rng.randrange(len(plan.steps))
    step = plan.steps[at]

    def put(changed: Step) -> Plan:
        return replace(plan, steps=(*plan.steps[:at], changed, *plan.steps[at + 1 :]))

    match rng.randrange(10):
        case 0:
            return replace(plan, title=f"Title {rng.randrange(9)}")
        case 1:
            return put(replace(step, text=f"Look {rng.randrange(9)}"))
        case 2:
            return put(replace(step, minutes=Minutes(likely=rng.randrange(1, 30))))
        case 3:
            return put(replace(step, skills=(SkillNeed(skill="hydraulics"),)))
        case 4:
            return put(replace(step, chance=rng.choice((None, 0.1, 0.9))))
        case 5:
            return put(replace(step, condition=None))
        case 6 if step.questions:
            label = f"Label {rng.randrange(9)}"
            return put(
                replace(step, questions=(replace(step.questions[0], label=label), *step.questions[1:]))
            )
        case 7:
            said = replace(plan.finish[0], says=f"See to it {rng.randrange(9)}")
            return replace(plan, finish=(said, *plan.finish[1:]))
        case 8:
            return replace(plan, finish=plan.finish[::-1])
        case _:
            return put(replace(step, phase="Prove" if rng.random() < 0.5 else "Diagnose"))


@settings(max_examples=examples(12))
@given(small_plans(), RULES, RULES, st.integers(0, 10_000))
def test_after_any_edits_the_checks_and_totals_are_those_worked_out_anew(
    plan: Plan, rule: FinishRule, other: FinishRule, seed: int
) -> None:
    rng = random.Random(seed)
    plan = replace(plan, finish=(rule, other))
    for _ in range(6):
        plan = edited(plan, rng)
        evidence = {
            s.id: BranchEvidence(n_wanted=rng.randrange(20), n_jobs=20) for s in plan.steps if s.condition
        }
        kept = (told(plan), total_plans([plan], evidence))
        PROOFS.forget()
        forget_totals()
        assert kept == (told(plan), total_plans([plan], evidence))


def test_what_ran_out_of_time_is_tried_again() -> None:
    questions = KeptProofs()
    asked: list[str] = []

    def prove(found: str) -> str:
        asked.append(found)
        return found

    assert questions.get("a", lambda: prove("unknown"), lasts=lambda f: f != "unknown") == "unknown"
    assert questions.get("a", lambda: prove("never"), lasts=lambda f: f != "unknown") == "never"
    assert questions.get("a", lambda: prove("always"), lasts=lambda f: f != "unknown") == "never"
    assert asked == ["unknown", "never"]


def test_many_threads_check_at_once_and_all_find_the_same() -> None:
    """A solver context belongs to one thread; what is kept between them holds none."""
    rng = random.Random(4)
    rule = FinishRule(id="r", says="Note it", needs=compare("job.notes", "above", 0.0))
    base = Plan(title="P", steps=(Step(id="a", phase="Diagnose", text="Look"),), finish=(rule,))
    plans = [edited(base, rng) for _ in range(6)]
    alone = [check_plan(plan) for plan in plans]
    PROOFS.forget()
    found: list[list[object]] = []

    def check() -> None:
        found.append([check_plan(plan) for plan in plans])

    threads = [threading.Thread(target=check) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert found == [alone] * 6
