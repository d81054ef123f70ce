"""The core against its slow twins, on random input."""

from __future__ import annotations

from datetime import timedelta

from hypothesis import given
from hypothesis import strategies as st

from reedling.core.evidence.outcomes import OrderOutcome
from reedling.core.guidance.differences import compare_plans
from reedling.core.guidance.plans import Plan, Step
from tests.oracles.slow_twins import fewest_moved, fixed_first_time
from tests.plans import START
from tests.recounts import first_time_fix

NOW = START + timedelta(days=90)


@st.composite
def outcomes(draw: st.DrawFn) -> OrderOutcome:
    logged = START + timedelta(days=draw(st.integers(0, 85)))
    took = draw(st.none() | st.integers(0, 40))
    return OrderOutcome(
        order=draw(st.uuids()).hex,
        asset=draw(st.sampled_from(["R1", "R2"])),
        symptom=draw(st.sampled_from(["stalls", "will-not-park", "leaks"])),
        logged_at=logged,
        finished_at=None if took is None else logged + timedelta(days=took),
        working_visits=draw(st.integers(0, 3)),
        cancelled=draw(st.booleans()),
        routine=draw(st.booleans()),
    )


def related(one: str, other: str) -> bool:
    return one == other or {one, other} == {"stalls", "will-not-park"}


@given(st.lists(outcomes(), max_size=14))
def test_fixed_first_time_is_the_definition_read_aloud(orders: list[OrderOutcome]) -> None:
    found = first_time_fix(orders, orders, now=NOW, related=related)
    told = {o.order: fixed_first_time(o, orders, NOW, related) for o in orders}
    assert set(found.fixed) == {k for k, v in told.items() if v is True}
    assert set(found.not_fixed) == {k for k, v in told.items() if v is False}
    assert found.share.n_total == sum(v is not None for v in told.values())


@given(st.lists(outcomes(), max_size=10), st.randoms(use_true_random=False))
def test_the_order_of_the_orders_does_not_matter(orders: list[OrderOutcome], rng: object) -> None:
    shuffled = list(orders)
    rng.shuffle(shuffled)  # type: ignore[attr-defined]
    one = first_time_fix(orders, orders, now=NOW, related=related)
    other = first_time_fix(shuffled, shuffled, now=NOW, related=related)
    assert (set(one.fixed), set(one.not_fixed), one.share) == (
        set(other.fixed),
        set(other.not_fixed),
        other.share,
    )


def plan_of(ids: str) -> Plan:
    return Plan(title="t", steps=tuple(Step(id=i, phase="Diagnose", text=i) for i in ids))


@given(st.permutations("abcdef"), st.sets(st.sampled_from("abcdef"), max_size=3))
def test_no_more_steps_are_called_moved_than_must_be(order: list[str], removed: set[str]) -> None:
    older = plan_of("abcdef")
    newer = plan_of("".join(i for i in order if i not in removed))
    told = compare_plans(older, newer)
    assert sum(d.change == "moved" for d in told) == fewest_moved(older, newer)
    assert {d.place for d in told if d.change == "removed"} == removed
