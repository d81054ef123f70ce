"""Kits: the smallest set of parts, against trying every set; and from an author's chances."""

from __future__ import annotations

import itertools
import math
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.rollup.kits import EXACT_UP_TO, KitPart, KitTool, kit_from_chances, kit_from_use, tool_kit

VALVE = [{"seat": 1.0}] * 6 + [{"seat": 1.0, "oil": 5.0}] * 2 + [{"chain": 3.0}] * 1 + [{}] * 3


def test_the_kit_is_the_fewest_parts_that_finish_enough_jobs() -> None:
    """12 jobs: 3 take nothing, 6 the seat alone, 2 seat and oil, 1 the chain."""
    kit = kit_from_use(VALVE, 0.75)
    assert [p.part for p in kit.parts] == ["seat"]
    assert kit.finished == pytest.approx(9 / 12)
    assert (kit.basis, kit.method, kit.n_jobs, kit.n_candidates) == ("past use", "exact", 12, 3)
    assert [p.part for p in kit_from_use(VALVE, 0.9).parts] == ["seat", "oil"]
    assert kit_from_use(VALVE, 0.25).parts == ()
    assert {p.part for p in kit_from_use(VALVE, 1.0).parts} == {"seat", "oil", "chain"}


def test_as_much_is_carried_as_that_share_of_its_jobs_took() -> None:
    jobs = [{"oil": q} for q in (2.0, 3.0, 4.0, 5.0, 20.0)]
    assert kit_from_use(jobs, 0.8).parts == (KitPart(part="oil", quantity=5.0, share=1.0),)
    assert kit_from_use(jobs, 1.0).parts[0].quantity == 20.0


def test_a_job_that_lacks_quantity_is_not_finished() -> None:
    """Two jobs in ten lack a second seal, two others a longer hose: one of each finishes six, not ten."""
    jobs = [{"seal": 1.0, "hose": 1.0}] * 6 + [{"seal": 2.0}] * 2 + [{"hose": 4.0}] * 2
    kit = kit_from_use(jobs, 0.8)
    assert kit.finished == pytest.approx(0.8)
    assert [(p.part, p.quantity) for p in kit.parts] == [("hose", 1.0), ("seal", 2.0)]
    assert kit_from_use(jobs, 0.6).finished == pytest.approx(0.6)
    assert kit_from_use(jobs, 0.9).finished == pytest.approx(1.0)


@pytest.mark.parametrize("seed", range(30))
def test_no_smaller_set_does_and_none_as_small_does_better(seed: int) -> None:
    """Against trying every subset of up to eight parts, and every lowering of what is carried."""
    rng = random.Random(seed)
    names = "abcdefgh"[: rng.randint(2, 8)]
    jobs = [
        {p: float(rng.randint(1, 3)) for p in names if rng.random() < 0.25} for _ in range(rng.randint(1, 25))
    ]
    goal = rng.choice((0.5, 0.8, 0.95, 1.0))
    kit = kit_from_use(jobs, goal)

    sets = [set(c) for n in range(len(names) + 1) for c in itertools.combinations(names, n)]
    done = {frozenset(s): sum(set(j) <= s for j in jobs) / len(jobs) for s in sets}
    best = [max(done[frozenset(s)] for s in sets if len(s) == n) for n in range(len(names) + 1)]
    assert len(kit.parts) == next(n for n, share in enumerate(best) if share >= goal - 1e-9)
    rungs = [n for n in range(len(best)) if n == 0 or best[n] > best[n - 1] + 1e-9]
    assert [len(r.parts) for r in kit.ladder] == rungs
    assert [r.finished for r in kit.ladder] == pytest.approx([best[n] for n in rungs])
    assert all(done[frozenset(r.parts)] == pytest.approx(r.finished) for r in kit.ladder)

    def finished(carried: dict[str, float]) -> float:
        return sum(all(n <= carried.get(p, 0) for p, n in j.items()) for j in jobs) / len(jobs)

    carried = {p.part: p.quantity for p in kit.parts}
    assert kit.finished == pytest.approx(finished(carried))
    assert kit.finished >= goal - 1e-9
    assert all(finished({**carried, p: n - 1}) < goal - 1e-9 for p, n in carried.items())


def test_above_twenty_parts_it_is_put_together_greedily_and_says_so() -> None:
    rng = random.Random(3)
    names = [f"p{n}" for n in range(EXACT_UP_TO + 5)]
    jobs = [dict.fromkeys(rng.sample(names, rng.randint(0, 2)), 1.0) for _ in range(120)]
    assert {p for j in jobs for p in j} == set(names)
    kit = kit_from_use(jobs, 0.7)
    assert kit.method == "greedy"
    assert kit.finished >= 0.7


def test_from_chances_the_likeliest_parts_go_in_until_enough_jobs_are_finished() -> None:
    """Independent chances: a job needs no part that is left out with the product of the others' misses."""
    said = [
        KitPart(part=p, quantity=1, share=s) for p, s in (("a", 0.5), ("b", 0.2), ("c", 0.1), ("d", 0.02))
    ]
    kit = kit_from_chances(said, 0.85)
    assert [p.part for p in kit.parts] == ["a", "b"]
    assert kit.finished == pytest.approx(0.9 * 0.98)
    assert [r.parts for r in kit.ladder] == [(), ("a",), ("a", "b"), ("a", "b", "c"), ("a", "b", "c", "d")]
    assert kit.basis == "author's figures"
    for n in range(len(said) + 1):
        for left in itertools.combinations(said, n):
            carried = len(said) - n
            share = math.prod(1 - p.share for p in left)
            assert share <= kit.finished + 1e-12 or carried > len(kit.parts)


def test_without_any_part_there_is_nothing_to_carry() -> None:
    assert kit_from_chances([], 0.8).basis == "nothing"
    assert kit_from_chances([], 0.8).finished == 1.0
    assert kit_from_use([], 0.8).finished == 1.0


@given(st.lists(st.floats(0, 1), max_size=7), st.floats(0.05, 1))
def test_the_fewest_tools_such_that_enough_jobs_want_no_other(shares: list[float], goal: float) -> None:
    """Against every set of tools: independent chances, as for parts."""
    needs = [KitTool(tool=f"t{n}", quantity=1, share=share) for n, share in enumerate(shares)]
    kit = tool_kit(needs, goal)
    assert {*kit.tools, *kit.left_out} == set(needs)
    assert kit.enough == pytest.approx(math.prod(1 - t.share for t in kit.left_out))
    enough = [
        math.prod(1 - t.share for t in left)
        for n in range(len(needs) + 1)
        if len(needs) - n < len(kit.tools)
        for left in itertools.combinations(needs, n)
    ]
    assert kit.enough >= goal - 1e-9
    assert all(share < goal for share in enough), "no smaller set does"
