"""How long things take on this machine. Run by `make bench`; it asserts nothing.

Beside each figure of ours stands what the obvious way takes in the same run, and the ratio.
"""

from __future__ import annotations

import random
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

from reedling.core.checking.kept_proofs import PROOFS
from reedling.core.checking.plan_checks import check_plan
from reedling.core.guidance.plans import Minutes, Plan, Step
from reedling.core.guidance.questions import Limits, OneOf, Option, Question, Reading, TextEntry, YesNo
from reedling.core.logic.conditions import Answer, Comparison, Condition
from reedling.core.rollup.plan_totals import forget_totals, total_plans
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Runsheet, Source
from reedling.core.runsheet.progress import consequences_of, take_up
from reedling.core.runsheet.standing import Entered, rules_of, settle
from tests import bench_edits, bench_evidence, bench_guides, bench_matching, bench_scale
from tests.oracles.slow_twins import opened_by_trying_again

SIZES = (50, 300, 1000)
LINE = "{:54} {:>9} {:>12} {:>7}"


def seconds(act: Callable[[], object], times: int = 5) -> float:
    """Median seconds of several runs."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        act()
        taken.append(time.perf_counter() - start)
    return statistics.median(taken)


def long_form(n: int, seed: int = 5) -> Plan:
    """A form of so many questions in sections of ten, half of them under a condition.

    Conditions ask about the five questions before; every fifth section hangs on the one before it.
    """
    rng = random.Random(seed)
    steps: list[Step] = []
    asked: list[Question] = []
    for i in range(0, n, 10):
        questions: list[Question] = []
        for j in range(i, min(i + 10, n)):
            near = questions[-5:]
            condition = _on(rng.choice(near), rng) if near and j % 2 else None
            questions.append(_question(j, condition))
        condition = _on(asked[-1], rng) if asked and (i // 10) % 5 == 4 else None
        steps.append(
            Step(
                id=f"s{i}",
                phase="Diagnose",
                text="Look",
                minutes=Minutes(likely=5),
                condition=condition,
                questions=tuple(questions),
            )
        )
        asked += questions
    return Plan(title="Long", steps=tuple(steps))


def _question(j: int, condition: Condition | None) -> Question:
    name, label = f"q{j}", f"Question {j}"
    match j % 4:
        case 0:
            return Reading(
                id=name, label=label, unit="bar", limits=Limits(low=90, high=120), condition=condition
            )
        case 1:
            return YesNo(id=name, label=label, condition=condition)
        case 2:
            options = tuple(Option(id=x, label=x) for x in "abc")
            return OneOf(id=name, label=label, options=options, condition=condition)
        case _:
            return TextEntry(id=name, label=label, condition=condition)


def _on(question: Question, rng: random.Random) -> Condition:
    match question:
        case Reading():
            return Comparison(
                question=question.id, operator="below" if rng.random() < 0.5 else "above", value=90.0
            )
        case YesNo():
            return Comparison(question=question.id, operator="is", value=rng.random() < 0.5)
        case OneOf():
            return Comparison(question=question.id, operator="is", value=rng.choice("abc"))
        case _:
            return Comparison(question=question.id, operator="answered")


def answers_to(plan: Plan, seed: int = 6) -> dict[str, Answer]:
    """Every question answered in some way."""
    rng = random.Random(seed)
    out: dict[str, Answer] = {}
    for step in plan.steps:
        for q in step.questions:
            match q:
                case Reading():
                    out[f"W:{q.id}"] = rng.choice((84.0, 100.0, 130.0))
                case YesNo():
                    out[f"W:{q.id}"] = rng.random() < 0.5
                case OneOf():
                    out[f"W:{q.id}"] = rng.choice("abc")
                case _:
                    out[f"W:{q.id}"] = "as found"
    return out


def evaluate_once(sheet: Runsheet, answers: dict[str, Answer], n: int) -> None:
    """One more answer, and all that follows from it: what the preview does at a keystroke."""
    changed: dict[str, Answer] = {**answers, "W:q0": 60.0 + n % 2}
    run = take_up(sheet, changed)
    _ = run.progress
    consequences_of(run)


def one_answer(sheet: Runsheet, answers: dict[str, Answer]) -> None:
    """One more answer, and what it alone brought about: what the phone does."""
    run = take_up(sheet, {**answers, "W:q0": 61.0})
    _ = run.progress
    consequences_of(run, only="W:q0")


def roll_up_anew(plan: Plan) -> None:
    """The totals of a plan that nobody has asked for yet."""
    forget_totals()
    total_plans([plan])


def check_in_one(plan: Plan) -> None:
    """The same check with one solver over the whole plan, not split into parts."""
    PROOFS.forget()
    check_plan(plan, split=lambda whole: (whole,))


def check_anew(plan: Plan) -> None:
    """The full check of a plan of which nothing was proved before."""
    PROOFS.forget()
    check_plan(plan)


def row(what: str, ours: float, other: float | None = None) -> None:
    """One line of the table, in milliseconds."""
    told = ("", "") if other is None else (f"{other * 1000:10.1f}", f"{other / ours:6.1f}x")
    print(LINE.format(what, f"{ours * 1000:8.1f}", *told))


def main() -> None:
    """Print a table."""
    print(LINE.format("milliseconds, median", "ours", "obvious way", "ratio"))
    for n in SIZES:
        plan = long_form(n)
        n_conditions = sum(q.condition is not None for s in plan.steps for q in s.questions) + sum(
            s.condition is not None for s in plan.steps
        )
        sheet = compile_runsheet([(Source(document="W", revision="A", title="Long"), plan)])
        answers = answers_to(plan)
        rules = rules_of(sheet, answers)
        row(f"one answer, {n} questions", seconds(partial(one_answer, sheet, answers)))
        row(
            f"every consequence, {n} questions, against trying each again",
            seconds(partial(evaluate_once, sheet, answers, n)),
            seconds(lambda rules=rules, answers=answers: opened_by_trying_again(rules, answers), 1),  # type: ignore[misc]
        )
        row(f"one pass over {n} questions", seconds(partial(settle, rules, Entered(answers))))
        row(
            f"full check, {n} questions, {n_conditions} conditions, against one solver",
            seconds(partial(check_anew, plan), 3),
            seconds(partial(check_in_one, plan), 1),
        )
        row(f"roll-up of {n} questions", seconds(partial(roll_up_anew, plan), 3))
    command = str(Path(sys.executable).parent / "reedling")
    folder = Path(tempfile.mkdtemp())
    load = [command, "demo", "--data", str(folder)]
    again = partial(subprocess.run, load, check=True, capture_output=True)
    row("load the demo and play its past orders", seconds(again, 1))
    row("start again with the data kept, up to serving", seconds(again, 3))
    shutil.rmtree(folder)
    bench_guides.main()
    bench_edits.main()
    bench_matching.main()
    bench_scale.main()
    bench_evidence.main()
    # Only here: it draws on what stands above.
    from tests.browser import pocket_speed

    pocket_speed.main()


if __name__ == "__main__":
    main()
