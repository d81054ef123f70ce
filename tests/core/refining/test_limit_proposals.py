"""Limits that would tell a cause better: found where one is off, and never where it is chance."""

from __future__ import annotations

import json
import random
from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.stats import binomtest

from reedling.core.guidance.differences import compare_plans
from reedling.core.guidance.finish_rules import FinishRule
from reedling.core.guidance.plans import FormUse, Plan, step_by_id
from reedling.core.guidance.questions import Limits, Raise, Reading, Tick
from reedling.core.guidance.skills import PartNeed
from reedling.core.logic.conditions import Comparison, Condition, Conjunction, Disjunction, Negation
from reedling.core.refining.changes import LimitSide, MoveLimit, changed
from reedling.core.refining.limit_proposals import (
    FEWEST_EITHER_WAY,
    LEAST_TOLD,
    best_limit,
    is_beyond,
    proposals_of_limits,
    told_cause,
)
from reedling.core.refining.proposals import PlanEvidence, Proposal, ReadingJob
from reedling.core.statistics.discoveries import FALSE_DISCOVERY_RATE
from reedling.exchange.content import dump_value
from tests.core.refining.test_proposals import PLAN


def field(seed: int, *, worn_below: float, n: int = 160) -> list[ReadingJob]:
    """Pressures of jobs: a worn seal reads below ``worn_below`` but for a few, all else above it."""
    rng = random.Random(seed)
    jobs = []
    for i in range(n):
        worn = rng.random() < 0.4
        far = abs(rng.gauss(6, 4))
        value = round(worn_below - far if worn else worn_below + far, 1)
        if rng.random() < 0.08:
            worn = not worn
        jobs.append(ReadingJob(order=f"WO-{i}", value=value, cause="seal" if worn else rng.choice("xyz")))
    return jobs


def judged(jobs: Sequence[ReadingJob], plan: Plan = PLAN) -> list[tuple[float, Proposal | None]]:
    evidence = PlanEvidence(
        document="WP", revision="A", plan=plan, steps={}, readings={"bar": jobs, "oil": jobs, "volts": jobs}
    )
    return list(proposals_of_limits(evidence, {"seal": "Worn seal"}))


def test_a_limit_that_lies_too_low_is_moved_to_where_the_cause_begins() -> None:
    ((p, found),) = judged(field(1, worn_below=97))
    assert p < 0.05
    assert found is not None
    assert found.kind == "tighten a limit"
    assert isinstance(found.change, MoveLimit)
    assert (found.change.step, found.change.question, found.change.side) == ("read", "bar", "low")
    assert found.change.value == pytest.approx(97, abs=1.5)
    assert "would tell “Worn seal” from other causes better than below 90 bar does." in found.sentence
    assert found.n_jobs == 160
    between = {j.order for j in field(1, worn_below=97) if 90 <= j.value < found.change.value}
    assert set(found.orders) == between


def test_a_limit_that_lies_too_high_is_relaxed() -> None:
    ((_, found),) = judged(field(2, worn_below=82))
    assert found is not None
    assert found.kind == "relax a limit"


def test_what_hangs_on_the_limit_goes_along_and_nothing_else() -> None:
    change = MoveLimit(step="read", question="bar", side="low", value=96.0)
    new = changed(PLAN, change)
    assert isinstance(new, Plan)
    read, valve = step_by_id(new, "read"), step_by_id(new, "valve")
    assert read is not None
    assert valve is not None
    assert isinstance(read.questions[0], Reading)
    assert read.questions[0].limits == Limits(low=96.0)
    assert valve.condition == Comparison(question="bar", operator="below", value=96.0)
    assert {d.title for d in compare_plans(PLAN, new)} == {
        "“Pressure” of “Read the pressure”",
        "Reseat the valve",
    }
    assert changed(new, change) is None
    assert changed(PLAN, replace(change, question="gone")) is None
    assert changed(PLAN, replace(change, side="high")) is None


BELOW = st.builds(
    Comparison,
    question=st.sampled_from(["bar", "oil"]),
    operator=st.sampled_from(["below", "at least", "above", "at most", "is"]),
    value=st.sampled_from([90.0, 91.0]),
)
CONDITIONS = st.recursive(
    BELOW,
    lambda inner: (
        st.builds(Conjunction, parts=st.tuples(inner, inner))
        | st.builds(Disjunction, parts=st.tuples(inner, inner))
        | st.builds(Negation, part=inner)
    ),
    max_leaves=4,
)


@given(st.tuples(*[CONDITIONS] * 8))
def test_it_goes_along_wherever_a_plan_can_ask_about_it(asked: tuple[Condition, ...]) -> None:
    """Held against the plan as plain data, gone through without knowing what it means."""
    step, raised, shown, wanted, part, form, needs, when = asked
    valve = replace(
        PLAN.steps[3],
        condition=step,
        questions=(
            Tick(
                id="done",
                condition=shown,
                required="when",
                required_when=wanted,
                raises=(Raise(when=raised),),
            ),
        ),
        parts=(PartNeed(part="seal", condition=part),),
    )
    plan = replace(
        PLAN,
        steps=(*PLAN.steps[:3], valve, *PLAN.steps[4:]),
        forms=(FormUse(form="FM", condition=form),),
        finish=(FinishRule(id="f", says="s", needs=needs, when=when),),
    )

    def moved(data: Any) -> Any:
        if isinstance(data, list):
            return [moved(one) for one in data]
        if not isinstance(data, dict):
            return data
        is_asked = data.get("question") == "bar" and data.get("operator") in ("below", "at least")
        if is_asked and data["value"] == 90.0:
            return {**data, "value": 96.0}
        if data.get("id") == "bar":
            return {**data, "limits": {**data["limits"], "low": 96.0}}
        return {key: moved(value) for key, value in data.items()}

    new = changed(plan, MoveLimit(step="read", question="bar", side="low", value=96.0))
    assert isinstance(new, Plan)
    assert json.loads(json.dumps(dump_value(new))) == moved(json.loads(json.dumps(dump_value(plan))))


def test_a_limit_that_nothing_hangs_on_or_that_makes_safe_is_left_alone() -> None:
    steps = tuple(replace(s, condition=None) for s in PLAN.steps)
    assert judged(field(1, worn_below=97), replace(PLAN, steps=steps)) == []
    safe = tuple(replace(s, phase="Make safe") if s.id == "read" else s for s in PLAN.steps)
    assert judged(field(1, worn_below=97), replace(PLAN, steps=safe)) == []


def test_limits_stay_in_their_order_and_on_the_instrument() -> None:
    for bounds in (
        {"limits": Limits(low_low=60, low=90, high=95)},
        {"limits": Limits(low=90), "highest": 95.0},
    ):
        steps = tuple(
            replace(s, questions=(replace(s.questions[0], **bounds),)) if s.id == "read" else s
            for s in PLAN.steps
        )
        assert judged(field(1, worn_below=97), replace(PLAN, steps=steps)) == []


def test_where_the_limit_is_right_one_is_proposed_no_more_often_than_promised() -> None:
    n_worlds = 200
    n_found = sum(
        any(found and p <= FALSE_DISCOVERY_RATE for p, found in judged(field(seed, worn_below=90)))
        for seed in range(n_worlds)
    )
    # At most one in ten, and chance: the 99.9 % point of a binomial of 200 at 0.1 is 35.
    assert n_found <= 35


def test_a_limit_that_is_off_is_found_nearly_always() -> None:
    n_worlds = 100
    n_found = sum(
        any(found and p <= FALSE_DISCOVERY_RATE for p, found in judged(field(seed, worn_below=97)))
        for seed in range(n_worlds)
    )
    assert n_found >= 90


@pytest.mark.parametrize("seed", range(6))
def test_the_p_value_is_that_of_mcnemars_exact_test_on_the_jobs_between(seed: int) -> None:
    """In its exact form it is the binomial test of the jobs on which the two limits differ, as SciPy has it."""
    jobs = field(seed, worn_below=94)
    ((p, found),) = judged(jobs)
    best = best_limit(jobs[::2], "seal", "low", near=90.0)
    put_right = put_wrong = 0
    for job in jobs[1::2]:
        old, new = (is_beyond(job.value, x, "low") == (job.cause == "seal") for x in (90.0, best))
        put_right += new and not old
        put_wrong += old and not new
    assert put_right > put_wrong
    expected = binomtest(put_right, put_right + put_wrong, 0.5, alternative="greater")
    assert p == pytest.approx(float(expected.pvalue))
    assert found is not None
    assert isinstance(found.change, MoveLimit)
    assert found.change.value == best


JOBS = st.lists(
    st.builds(
        ReadingJob,
        order=st.just("WO"),
        value=st.integers(0, 12).map(lambda n: n / 4),
        cause=st.sampled_from("abc"),
    ),
    min_size=2,
    max_size=60,
)


@given(JOBS, st.sampled_from(["low", "high"]), st.sampled_from("abc"), st.integers(-1, 13))
def test_the_best_limit_is_that_of_trying_every_one(
    jobs: list[ReadingJob], side: LimitSide, cause: str, quarter: int
) -> None:
    near = quarter / 4

    def wrong(limit: float) -> int:
        return sum(is_beyond(j.value, limit, side) != (j.cause == cause) for j in jobs)

    found = best_limit(jobs, cause, side, near=near)
    values = sorted({j.value for j in jobs})
    # Between two readings that lie next to each other, and on each, no limit does better.
    tried = [near, *values[1:], *((a + b) / 2 for a, b in pairwise(values))]
    if side == "high":
        tried = [near, *values[:-1], *((a + b) / 2 for a, b in pairwise(values))]
    assert wrong(found) == min(map(wrong, tried))


@given(JOBS, st.sampled_from(["low", "high"]))
def test_the_cause_it_tells_is_the_one_whose_jobs_it_parts_best(
    jobs: list[ReadingJob], side: LimitSide
) -> None:
    values = sorted({j.value for j in jobs})
    best, told = LEAST_TOLD, None
    for cause in sorted({j.cause for j in jobs}):
        own, others = ([j.value for j in jobs if (j.cause == cause) is yes] for yes in (True, False))
        if min(len(own), len(others)) < FEWEST_EITHER_WAY:
            continue
        for a, b in pairwise(values):
            index = sum(is_beyond(v, (a + b) / 2, side) for v in own) / len(own) - sum(
                is_beyond(v, (a + b) / 2, side) for v in others
            ) / len(others)
            if index > best:
                best, told = index, cause
    assert told_cause(jobs, side) == told
