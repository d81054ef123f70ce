"""What to carry, against jobs carried on at random to their end by the real runtime."""

from __future__ import annotations

import random
from collections import Counter
from dataclasses import replace

from hypothesis import assume, given
from hypothesis import strategies as st

from reedling.core.guidance.catalogue import Catalogue, Part, Tool, VanStock, VanTool
from reedling.core.guidance.incident_types import OrderTerms
from reedling.core.guidance.plans import Plan, Step
from reedling.core.guidance.questions import AnyOf, DateEntry, OneOf, Question, Reading, YesNo
from reedling.core.guidance.skills import PartNeed, ToolNeed
from reedling.core.logic.conditions import Answer, Comparison
from reedling.core.rollup.carrying import parts_of_job, tools_of_job, what_to_carry
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.job_state import Job, Used
from reedling.core.runsheet.lines import Runsheet, Source
from reedling.core.runsheet.progress import take_up, wanted_parts
from tests.core.rollup.test_outlook import sound_plan

ORDER = ("WO-1", "WO-2")


def sheet_of(plan: Plan, document: str = "W") -> Runsheet:
    return compile_runsheet([(Source(document=document, revision="A", title=plan.title), plan)])


def random_answer(rng: random.Random, question: Question) -> Answer:
    match question:
        case YesNo():
            return rng.random() < 0.5
        case OneOf():
            return rng.choice("abc")
        case AnyOf():
            return tuple(o for o in "abc" if rng.random() < 0.5)
        case Reading():
            return float(rng.randint(0, 10))
        case DateEntry():
            return rng.choice(("2025-12-31", "2026-01-01", "2026-01-02", "2026-01-03"))
    raise AssertionError(question)


def walk(
    sheet: Runsheet, answers: dict[str, Answer], rng: random.Random, *, to_the_end: bool
) -> dict[str, Answer]:
    """Answer what is asked, one after the other: all of it, or some."""
    given_ = dict(answers)
    while True:
        run = take_up(sheet, given_)
        asked = [
            q
            for line in run.lines
            for q in line.questions
            if run.standing.wanted[q.id] is True and q.id not in given_
        ]
        if not asked or (not to_the_end and rng.random() < 0.3):
            return given_
        question = rng.choice(asked)
        given_[question.id] = random_answer(rng, question)


@given(st.integers(0, 400))
def test_what_a_job_takes_in_the_end_lies_between_certain_and_perhaps(seed: int) -> None:
    plan, rng = sound_plan(seed)
    assume(all(step.repeat is None for step in plan.steps))
    sheet = sheet_of(plan)
    begun = walk(sheet, {}, rng, to_the_end=False)
    wanted, perhaps = parts_of_job(take_up(sheet, begun), Job(answers=begun))
    for _ in range(6):
        run = take_up(sheet, walk(sheet, begun, rng, to_the_end=True))
        taken: Counter[str] = Counter()
        for line in run.lines:
            if run.standing.wanted[line.id] is True:
                for need in wanted_parts(run, line):
                    taken[need.part] += need.quantity  # type: ignore[assignment]
        for part in {*taken, *wanted, *perhaps}:
            low = wanted.get(part, 0)
            assert low <= taken[part] <= low + perhaps.get(part, 0)
        # Nothing is open in the end, so that nothing is carried perhaps.
        assert all(p.state != "open question" for p in run.progress.lines)
        assert parts_of_job(run, Job()) == ({p: float(n) for p, n in taken.items()}, {})


VALVE = Plan(
    title="Valve",
    steps=(
        Step(
            id="look",
            phase="Diagnose",
            text="Look",
            questions=(YesNo(id="worn", label="Worn?"),),
            parts=(PartNeed(part="RAG", quantity=2),),
        ),
        Step(
            id="swap",
            phase="Put right",
            text="Swap",
            condition=Comparison(question="worn", operator="is", value=True),
            parts=(PartNeed(part="KIT", quantity=1),),
        ),
    ),
)


def test_the_van_is_taken_off_and_what_is_short_comes_first() -> None:
    lists = Catalogue(
        parts=(Part(code="RAG", name="Rag"), Part(code="KIT", name="Kit")),
        van_stock=(
            VanStock(technician="Runa", part="RAG", quantity=1),
            VanStock(technician="Teo", part="KIT", quantity=9),
        ),
    )
    jobs = []
    for order, answers in zip(ORDER, ({}, {"W:worn": True}), strict=True):
        job = Job(answers=dict(answers))
        jobs.append((order, take_up(sheet_of(VALVE), job.answers), job, OrderTerms()))
    rag, kit = what_to_carry(jobs, lists, "Runa").parts[::-1]
    assert [rag.part, kit.part] == ["RAG", "KIT"]
    assert (kit.wanted, kit.perhaps, kit.short, kit.perhaps_short) == (1, 1, 1, 1)
    assert (rag.wanted, rag.perhaps, rag.in_van, rag.short) == (4, 0, 1, 3)
    assert kit.orders == ORDER


def test_what_was_used_at_a_step_is_not_carried_again() -> None:
    job = Job(parts=(Used(part="RAG", quantity=1, line="W:look"), Used(part="RAG", quantity=5, line=None)))
    wanted, _ = parts_of_job(take_up(sheet_of(VALVE), {}), job)
    assert wanted == {"RAG": 1}


def test_what_the_terms_of_an_order_want_is_carried_until_it_is_used_somewhere() -> None:
    terms = OrderTerms(parts=(PartNeed(part="SEAL", quantity=2), PartNeed(part="RAG", quantity=1)))
    run = take_up(sheet_of(VALVE), {})
    assert parts_of_job(run, Job(), terms)[0] == {"SEAL": 2, "RAG": 3}
    used = Job(
        parts=(
            Used(part="SEAL", quantity=2, line="W:look"),
            Used(part="RAG", quantity=2, line="W:look"),
        )
    )
    assert parts_of_job(run, used, terms)[0] == {"RAG": 1}, "that of the step is not that of the order"


def with_tools(plan: Plan, rng: random.Random) -> Plan:
    """The plan with tools on some steps, more of one at once on some."""
    return replace(
        plan,
        steps=tuple(
            replace(
                step,
                tools=tuple(
                    ToolNeed(tool=tool, quantity=rng.randint(1, 3))
                    for tool in ("SLING", "LAMP")
                    if rng.random() < 0.4
                ),
            )
            for step in plan.steps
        ),
    )


@given(st.integers(0, 400))
def test_a_tool_comes_back_so_the_most_that_one_step_wants_is_carried(seed: int) -> None:
    plan, rng = sound_plan(seed)
    assume(all(step.repeat is None for step in plan.steps))
    sheet = sheet_of(with_tools(plan, rng))
    begun = walk(sheet, {}, rng, to_the_end=False)
    wanted, perhaps = tools_of_job(take_up(sheet, begun))
    for _ in range(6):
        run = take_up(sheet, walk(sheet, begun, rng, to_the_end=True))
        used: dict[str, int] = {}
        for line in run.lines:
            if run.standing.wanted[line.id] is True:
                for need in line.tools:
                    used[need.tool] = max(used.get(need.tool, 0), need.quantity)
        for tool in {*used, *wanted, *perhaps}:
            low = wanted.get(tool, 0)
            assert low <= used.get(tool, 0) <= low + perhaps.get(tool, 0)
        assert tools_of_job(run) == (used, {})


def test_one_tool_does_for_several_orders() -> None:
    plan = replace(
        VALVE,
        steps=tuple(
            replace(step, tools=(ToolNeed(tool="SLING", quantity=n), ToolNeed(tool="LAMP")))
            for step, n in zip(VALVE.steps, (1, 3), strict=True)
        ),
    )
    lists = Catalogue(
        tools=(Tool(code="SLING", name="Sling"), Tool(code="LAMP", name="Lamp")),
        van_tools=(
            VanTool(technician="Runa", tool="SLING", quantity=2),
            VanTool(technician="Runa", tool="LAMP"),
            VanTool(technician="Teo", tool="SLING", quantity=5),
        ),
    )
    terms = OrderTerms(tools=(ToolNeed(tool="SLING", quantity=2),))
    jobs = [
        (order, take_up(sheet_of(plan), {}), Job(), own)
        for order, own in zip(ORDER, (OrderTerms(), terms), strict=True)
    ]
    sling, lamp = what_to_carry(jobs, lists, "Runa").tools
    assert (sling.wanted, sling.perhaps, sling.in_van, sling.short, sling.perhaps_short) == (2, 1, 2, 0, 1)
    assert (lamp.wanted, lamp.perhaps, lamp.short, lamp.perhaps_short) == (1, 0, 0, 0)
    assert sling.orders == lamp.orders == ORDER
