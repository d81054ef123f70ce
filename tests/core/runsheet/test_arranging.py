"""The order of a runsheet's steps, and standard steps that several plans ask for."""

from __future__ import annotations

import random
from dataclasses import replace

import networkx as nx
import pytest

from reedling.core.guidance.phases import PHASES, Phase, phase_rank
from reedling.core.guidance.plans import Minutes, Plan, Repeat, Step
from reedling.core.guidance.questions import Tick, YesNo
from reedling.core.guidance.reuse import Shared, SharedPlans
from reedling.core.logic.conditions import Comparison
from reedling.core.runsheet.arranging import arrange_lines
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Runsheet, RunsheetLine, Source
from reedling.core.runsheet.progress import take_up


def step(identity: str, phase: Phase = "Diagnose", **more: object) -> Step:
    made = Step(
        id=identity,
        phase=phase,
        text=f"Do {identity}",
        minutes=Minutes(likely=5),
        questions=(Tick(id=f"{identity}-t"),),
    )
    return replace(made, **more)  # type: ignore[arg-type]


def compiled(
    *plans: tuple[str, Plan],
    shared: SharedPlans | None = None,
    after: dict[str, tuple[str, ...]] | None = None,
) -> Runsheet:
    sources = [(Source(document=d, revision="A", title=p.title), p) for d, p in plans]
    return compile_runsheet(sources, shared=shared, after=after)


LOCK = Plan(
    title="Isolate and lock off",
    steps=(step("lock", "Make safe", questions=(YesNo(id="dead", label="Dead"),)),),
)
SHELF = SharedPlans(standards={"SS": Shared(document="SS", revision="B", plan=LOCK)})


def uses_lock(phase: Phase = "Make safe", **more: object) -> Step:
    return step("iso", phase, standard="SS", text="", questions=(), **more)


def test_safety_and_close_out_fall_into_place_without_numbers() -> None:
    rake = Plan(title="Rake", steps=(step("read"), step("prove", "Prove")))
    safe = Plan(title="Safe", steps=(step("lock", "Make safe"),))
    tidy = Plan(title="Tidy", steps=(step("sweep", "Leave"), step("greet", "Arrive")))
    sheet = compiled(("T", tidy), ("R", rake), ("S", safe))
    assert [line.id for line in sheet.lines] == ["T:greet", "S:lock", "R:read", "R:prove", "T:sweep"]


def test_the_same_standard_step_is_done_once_in_the_earliest_phase_that_wants_it() -> None:
    late = Plan(title="Late", steps=(uses_lock("Diagnose"), step("look")))
    early = Plan(title="Early", steps=(uses_lock(), step("turn")))
    sheet = compiled(("L", late), ("E", early), shared=SHELF)
    assert [line.id for line in sheet.lines] == ["E:iso", "L:look", "E:turn"]
    assert sheet.lines[0].asked_by == ("Late", "Early")


def test_a_standard_step_on_the_order_by_itself_is_the_same_step() -> None:
    plan = Plan(title="P", steps=(uses_lock(), step("turn")))
    sheet = compiled(("P", plan), ("SS", LOCK), shared=SHELF)
    assert [line.id for line in sheet.lines] == ["P:iso", "P:turn"]
    assert sheet.lines[0].asked_by == ("P", "Isolate and lock off")


def test_twice_in_one_plan_is_twice_on_purpose() -> None:
    plan = Plan(title="P", steps=(uses_lock(), replace(uses_lock("Leave"), id="again")))
    assert len(compiled(("P", plan), shared=SHELF).lines) == 2


def test_repeated_over_other_things_it_is_another_step() -> None:
    each = Plan(title="Each", steps=(uses_lock(repeat=Repeat(per="pump", names=("1", "2"))),))
    once = Plan(title="Once", steps=(uses_lock(),))
    assert len(compiled(("E", each), ("O", once), shared=SHELF).lines) == 2


ASKS = step("ask", "Arrive", questions=(YesNo(id="wet", label="Wet"),))
WET = Comparison(question="wet", operator="is", value=True)


def test_it_is_wanted_when_any_who_asks_for_it_wants_it() -> None:
    one, two = (Plan(title=t, steps=(ASKS, uses_lock(condition=WET))) for t in "AB")
    sheet = compiled(("A", one), ("B", two), shared=SHELF)
    locks = [line for line in sheet.lines if line.standard]
    assert len(locks) == 1
    for a, b, wanted in ((False, False, False), (True, False, True), (False, True, True)):
        run = take_up(sheet, {"A:wet": a, "B:wet": b})
        assert run.standing.wanted[locks[0].id] is wanted


def test_one_who_always_wants_it_makes_it_sure() -> None:
    sure, unsure = (
        Plan(title="A", steps=(uses_lock(),)),
        Plan(title="B", steps=(ASKS, uses_lock(condition=WET))),
    )
    for given in ((("B", unsure), ("A", sure)), (("A", sure), ("B", unsure))):
        lock = next(line for line in compiled(*given, shared=SHELF).lines if line.standard)
        assert (lock.condition, lock.under) == (None, None)


def test_what_asked_about_its_answers_asks_the_one_that_stays() -> None:
    stays = Plan(title="A", steps=(uses_lock(),))
    falls = Plan(
        title="B",
        steps=(
            uses_lock(),
            step(
                "call",
                "Make safe",
                under="iso",
                condition=Comparison(question="iso/dead", operator="is", value=False),
            ),
        ),
    )
    sheet = compiled(("A", stays), ("B", falls), shared=SHELF)
    call = next(line for line in sheet.lines if line.step == "call")
    assert call.under == "A:iso"
    assert take_up(sheet, {"A:iso/dead": True}).progress.lines[1].state == "hidden"
    assert take_up(sheet, {"A:iso/dead": False}).progress.lines[1].state != "hidden"


def test_after_holds_within_each_phase_and_elsewhere_the_order_of_the_plans_stays() -> None:
    first = Plan(title="F", steps=(step("a"), step("b", "Prove")))
    second = Plan(title="S", steps=(step("c"), step("d", "Leave")))
    sheet = compiled(("F", first), ("S", second), after={"F": ("S",)})
    assert [line.id for line in sheet.lines] == ["S:c", "F:a", "F:b", "S:d"]


def test_after_reaches_over_a_document_that_is_not_there() -> None:
    one, other = Plan(title="1", steps=(step("a"),)), Plan(title="2", steps=(step("b"),))
    sheet = compiled(("A", one), ("C", other), after={"A": ("B",), "B": ("C",)})
    assert [line.id for line in sheet.lines] == ["C:b", "A:a"]


def test_a_standard_step_that_is_named_goes_by_its_own_declaration() -> None:
    plan = Plan(title="P", steps=(step("first", "Make safe"), uses_lock()))
    other = Plan(title="O", steps=(step("warn", "Make safe"),))
    sheet = compiled(("P", plan), ("O", other), shared=SHELF, after={"SS": ("O",), "O": ("P",)})
    assert [line.id for line in sheet.lines] == ["P:first", "O:warn", "P:iso"]


def test_a_ring_that_got_here_all_the_same_loses_no_step() -> None:
    one, other = Plan(title="1", steps=(step("a"),)), Plan(title="2", steps=(step("b"),))
    sheet = compiled(("A", one), ("B", other), after={"A": ("B",), "B": ("A",)})
    assert [line.id for line in sheet.lines] == ["A:a", "B:b"]


def test_branches_stay_behind_their_step() -> None:
    plan = Plan(title="P", steps=(ASKS, step("a"), step("b", under="a"), step("c", under="b")))
    other = Plan(title="O", steps=(step("x"),))
    sheet = compiled(("P", plan), ("O", other), after={"P": ("O",)})
    assert [line.step for line in sheet.lines] == ["ask", "x", "a", "b", "c"]


@pytest.mark.parametrize("seed", range(40))
def test_the_order_is_the_first_topological_one_that_a_graph_library_finds(seed: int) -> None:
    """Against networkx: lexicographical topological sort by place, phase by phase."""
    rng = random.Random(seed)
    names = [f"D{n}" for n in range(6)]
    ranked = rng.sample(names, len(names))
    pairs = [(a, b) for i, a in enumerate(ranked) for b in ranked[:i] if rng.random() < 0.3]
    after: dict[str, tuple[str, ...]] = {}
    for later, earlier in pairs:
        after[later] = (*after.get(later, ()), earlier)
    plans = [
        (
            d,
            Plan(
                title=d, steps=tuple(step(f"s{n}", rng.choice(PHASES[:3])) for n in range(rng.randint(1, 4)))
            ),
        )
        for d in names
    ]
    plans = [
        (d, replace(p, steps=tuple(sorted(p.steps, key=lambda s: phase_rank(s.phase))))) for d, p in plans
    ]
    given = [line for d, plan in plans for line in compiled((d, plan)).lines]
    expected: list[str] = []
    for phase in PHASES:
        here: list[RunsheetLine] = [line for line in given if line.phase == phase]
        graph: nx.DiGraph[str] = nx.DiGraph()
        graph.add_nodes_from(line.id for line in here)
        for later, earlier in pairs:
            graph.add_edges_from(
                (b.id, a.id) for a in here for b in here if (a.document, b.document) == (later, earlier)
            )
        # What comes after what is carried over documents that have no step in the phase.
        closed = nx.transitive_closure(nx.DiGraph((e, x) for x, e in pairs))
        for line in here:
            for other in here:
                if closed.has_edge(other.document, line.document):
                    graph.add_edge(other.id, line.id)
        place = {line.id: n for n, line in enumerate(here)}
        expected += nx.lexicographical_topological_sort(graph, key=place.__getitem__)
    assert [line.id for line in arrange_lines(given, after)] == expected


def test_before_and_after_a_repair_stay_two_when_another_plan_uses_it_too() -> None:
    """Insulation is measured before and after rewinding; another plan that measures it once adds none."""
    measured = Plan(
        title="Rewind",
        steps=(uses_lock("Diagnose"), step("rewind", "Put right"), replace(uses_lock("Prove"), id="again")),
    )
    survey = Plan(title="Survey", steps=(uses_lock("Diagnose"),))
    for order in ((("R", measured), ("S", survey)), (("S", survey), ("R", measured))):
        sheet = compiled(*order, shared=SHELF)
        found = [(line.phase, len(line.asked_by)) for line in sheet.lines if line.standard]
        assert found == [("Diagnose", 2), ("Prove", 0)]


def test_a_proof_is_not_dropped_for_a_check_before_the_repair() -> None:
    one = Plan(title="A", steps=(uses_lock("Diagnose"), step("mend", "Put right")))
    two = Plan(title="B", steps=(uses_lock("Prove"),))
    sheet = compiled(("A", one), ("B", two), shared=SHELF)
    assert [line.phase for line in sheet.lines if line.standard] == ["Diagnose", "Prove"]


def test_uses_go_together_one_for_one_and_none_is_lost_or_doubled() -> None:
    """300 random sets of plans against the rule read aloud."""
    rng = random.Random(22)
    for _ in range(300):
        plans: list[tuple[str, Plan]] = []
        for p in range(rng.randint(1, 4)):
            phases = sorted((rng.choice(PHASES) for _ in range(rng.randint(0, 3))), key=phase_rank)
            uses = [replace(uses_lock(phase), id=f"u{i}") for i, phase in enumerate(phases)]
            own = step("own", rng.choice(PHASES))
            plans.append((f"P{p}", Plan(title=f"P{p}", steps=(*uses, own))))
        sheet = compiled(*plans, shared=SHELF)
        lines = [line for line in sheet.lines if line.standard]
        for is_proof in (True, False):
            wanted = [
                [s.phase for s in plan.steps if s.standard and (s.phase == "Prove") is is_proof]
                for _, plan in plans
            ]
            here = [line for line in lines if (line.phase == "Prove") is is_proof]
            # As many as the plan that uses it most; so no use of one plan stands for two of another.
            assert len(here) == max(map(len, wanted))
            asked = [line.asked_by or (plans[int(line.id[1])][1].title,) for line in here]
            for (_, plan), phases in zip(plans, wanted, strict=True):
                mine = [line for line, by in zip(here, asked, strict=True) if plan.title in by]
                assert len(mine) == len(phases)
                # Each is met no later than where the plan wanted it.
                for line, phase in zip(mine, phases, strict=True):
                    assert phase_rank(line.phase) <= phase_rank(phase)
