"""How far the order was kept: against edit distances, every subset, and whole jobs that go astray at random."""

from __future__ import annotations

import random
from itertools import combinations, permutations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from rapidfuzz.distance import Indel

from reedling.core.evidence.departures import departures
from reedling.core.evidence.order_kept import goes_before, kept_in_turn, order_kept, turns_of
from reedling.core.guidance.phases import PHASES
from reedling.core.guidance.plans import Minutes, Plan, Repeat, Step
from reedling.core.guidance.questions import Tick
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.events import Answered, Arrived, HeadedOut, StepDone, StepSkipped
from reedling.core.runsheet.job import record
from reedling.core.runsheet.job_runs import job_run
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import Source
from tests.plans import at


@given(st.permutations(range(9)), st.integers(0, 9))
def test_of_a_plain_sequence_the_moves_are_the_insertions_and_deletions(order: list[int], n: int) -> None:
    """In a purely sequential model an alignment costs the insert-delete distance: rapidfuzz (Hyyrö 2004)."""
    done = order[:n]
    kept = kept_in_turn(done, lambda a, b: a < b)
    assert (9 - len(kept)) + (n - len(kept)) == Indel.distance(done, list(range(9)))


@given(
    st.lists(st.tuples(st.integers(0, 2), st.integers(0, 2), st.integers(0, 2)), unique=True, max_size=8),
    st.randoms(use_true_random=False),
)
def test_in_any_partial_order_no_larger_part_was_done_in_turn(
    things: list[tuple[int, int, int]], rng: random.Random
) -> None:
    """Against every subset. The order is that of points: below in no coordinate, and above in one."""

    def before(a: tuple[int, int, int], b: tuple[int, int, int]) -> bool:
        return a != b and all(x <= y for x, y in zip(a, b, strict=True))

    done = list(things)
    rng.shuffle(done)
    kept = kept_in_turn(done, before)

    def in_turn(part: tuple[tuple[int, int, int], ...]) -> bool:
        return not any(before(b, a) for a, b in combinations(part, 2))

    assert [one for one in done if one in kept] == kept
    assert in_turn(tuple(kept))
    assert not any(in_turn(part) for part in combinations(done, len(kept) + 1))


def step(name: str, phase: str, repeat: Repeat | None = None, under: str | None = None) -> Step:
    return Step(
        id=name,
        phase=phase,  # type: ignore[arg-type]
        text=f"Do {name}",
        minutes=Minutes(likely=5),
        questions=(Tick(id=f"{name}-ticked"),),
        repeat=repeat,
        under=under,
    )


PUMPS = Repeat(per="pump", over="named", names=("one", "two"))
FIRST = Plan(
    title="First",
    steps=(
        step("a", "Diagnose"),
        step("b", "Diagnose", PUMPS),
        step("c", "Diagnose", under="b"),
        step("d", "Diagnose"),
        step("e", "Prove"),
    ),
)
SECOND = Plan(title="Second", steps=(step("p", "Diagnose"), step("q", "Diagnose"), step("r", "Put right")))
SHEET = compile_runsheet(
    [
        (Source(document="W1", revision="A", title="First"), FIRST),
        (Source(document="W2", revision="A", title="Second"), SECOND),
    ]
)
RUN = job_run(SHEET, Job())
LINES = [line.id for line in RUN.lines]
PUMPS_DONE = ("W1:b@one", "W1:c@one", "W1:b@two", "W1:c@two")


def must_come_first(first: str, second: str) -> bool:
    """The partial order of this sheet, written out by hand."""
    phase = {line.id: PHASES.index(line.phase) for line in RUN.lines}
    if phase[first] != phase[second]:
        return phase[first] < phase[second]
    pairs = {("W1:a", x) for x in (*PUMPS_DONE, "W1:d")} | {(x, "W1:d") for x in PUMPS_DONE}
    pairs |= {("W1:b@one", "W1:c@one"), ("W1:b@two", "W1:c@two"), ("W2:p", "W2:q")}
    return (first, second) in pairs


def test_steps_go_by_phase_and_plan_and_repeats_as_they_come() -> None:
    turns = turns_of(RUN.lines)
    for first, second in permutations(LINES, 2):
        assert goes_before(turns[first], turns[second]) == must_come_first(first, second), (first, second)


@pytest.mark.parametrize("seed", range(40))
def test_a_job_is_as_good_as_its_best_explanation(seed: int) -> None:
    """Moves by the least that any part done in turn leaves over, found by trying every part."""
    rng = random.Random(seed)
    job = record(SHEET, record(SHEET, Job(), HeadedOut(at=at(0))), Arrived(at=at(5)))
    order = list(LINES)
    if rng.random() < 0.8:
        for _ in range(rng.randint(0, 4)):
            i, j = rng.randrange(len(order)), rng.randrange(len(order))
            order[i], order[j] = order[j], order[i]
    done: list[str] = []
    for n, line in enumerate(order):
        if rng.random() < 0.15:
            job = record(SHEET, job, StepSkipped(at=at(10 + n), line=line, reason="No light"))
            continue
        plan, _, name = line.partition(":")
        stem, _, each = name.partition("@")
        question = f"{plan}:{stem}-ticked" + (f"@{each}" if each else "")
        job = record(SHEET, job, Answered(at=at(10 + n), question=question, value=True))
        job = record(SHEET, job, StepDone(at=at(10 + n), line=line))
        done.append(line)

    def in_turn(part: tuple[str, ...]) -> bool:
        return not any(must_come_first(b, a) for a, b in combinations(part, 2))

    most = next(n for n in range(len(done), -1, -1) if any(in_turn(p) for p in combinations(done, n)))
    found = order_kept(job_run(SHEET, job), job)
    assert found.fitness == pytest.approx(1 - (len(LINES) + len(done) - 2 * most) / (len(LINES) + len(done)))
    assert len(found.out_of_turn) == len(done) - most
    for one in found.out_of_turn:
        first, second = (one.line, one.other) if one.is_early else (one.other, one.line)
        assert done.index(first) < done.index(second), "done in this order"
        assert must_come_first(second, first), "and asked for in the other"
    told = [d.sentence for d in departures(SHEET, job) if d.kind == "out of order"]
    assert len(told) == len(found.out_of_turn)


def test_a_job_of_nothing_says_nothing() -> None:
    empty = compile_runsheet([])
    assert order_kept(job_run(empty, Job()), Job()).fitness is None


def test_one_step_done_last_is_told_once_and_the_others_are_not_blamed() -> None:
    """Common practice: who leaves the first check for the end went astray once, not with every step after it."""
    plan = Plan(title="Plain", steps=tuple(step(name, "Diagnose") for name in "abcd"))
    sheet = compile_runsheet([(Source(document="W", revision="A", title="Plain"), plan)])
    job = record(sheet, record(sheet, Job(), HeadedOut(at=at(0))), Arrived(at=at(5)))
    for n, name in enumerate("bcda"):
        job = record(sheet, job, Answered(at=at(10 + n), question=f"W:{name}-ticked", value=True))
        job = record(sheet, job, StepDone(at=at(10 + n), line=f"W:{name}"))
    found = order_kept(job_run(sheet, job), job)
    assert [(one.line, one.other, one.is_early) for one in found.out_of_turn] == [("W:a", "W:d", False)]
    assert found.fitness == pytest.approx(1 - 2 / 8)
