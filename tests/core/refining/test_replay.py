"""Replay against worlds whose truth is known, the real runtime, and the published rule for its range."""

from __future__ import annotations

import random
from statistics import fmean

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy import stats

from reedling.core.guidance.plans import Plan, Step
from reedling.core.guidance.skills import PartNeed
from reedling.core.refining.past_work import Donors, PastWork
from reedling.core.refining.replay import replay_jobs, walk
from reedling.core.refining.replayed import combined
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Runsheet, Source
from reedling.core.runsheet.progress import take_up
from reedling.core.statistics.resampling import N_DRAWS, Ranged
from tests.core.refining.worlds import (
    BEFORE,
    DRAFTS,
    Guidance,
    World,
    all_known,
    recorded,
    true_difference,
    true_minutes,
)
from tests.core.rollup.test_carrying import walk as answer_all
from tests.core.rollup.test_outlook import sound_plan
from tests.examples import examples

N_WORLDS = 25


@pytest.mark.parametrize("draft", DRAFTS, ids=lambda d: d.name)
def test_the_range_holds_the_true_difference(draft: Guidance) -> None:
    """95 % ranges: 20 of 25 or fewer would come by chance once in a thousand times. ``make truth`` tries 100 worlds."""
    assert n_held(draft, N_WORLDS) >= 21


def n_held(draft: Guidance, n_worlds: int, n_jobs: int = 40) -> int:
    """In how many worlds the range of the replay holds the difference of many simulated jobs."""
    held = 0
    for seed in range(n_worlds):
        world = World(seed)
        jobs = [recorded(job) for job in world.jobs(n_jobs, batch="closed")]
        found = replay_jobs([(BEFORE.sheet(), draft.sheet())] * len(jobs), jobs).minutes
        assert found is not None
        held += found.low <= true_difference(world, draft, n=4_000) <= found.high
    return held


@pytest.mark.parametrize("draft", [BEFORE, *DRAFTS], ids=lambda d: d.name)
def test_with_everything_recorded_each_job_takes_what_it_truly_would(draft: Guidance) -> None:
    for job in World(3).jobs(60, batch="closed"):
        past = all_known(job)
        walked = walk(draft.sheet(), past, Donors([past]))
        assert walked.minutes == pytest.approx(true_minutes(draft, job))
        assert not walked.rests_on_draws


def test_a_draft_that_changes_nothing_saves_nothing_for_certain() -> None:
    jobs = [recorded(job) for job in World(1).jobs(30, batch="closed")]
    found = replay_jobs([(BEFORE.sheet(), BEFORE.sheet())] * len(jobs), jobs)
    assert found.minutes is not None
    assert found.minutes == Ranged(value=0, low=0, high=0, count=30)
    assert (found.filled, found.n_filled, found.steps, found.parts) == (0, 0, (), ())


def test_what_rests_on_draws_is_told() -> None:
    hidden = World(5).jobs(60, batch="closed")
    jobs = [recorded(job) for job in hidden]
    found = replay_jobs([(BEFORE.sheet(), DRAFTS[0].sheet())] * len(jobs), jobs)
    never_read = sum(not job.noise for job in hidden)
    assert found.n_filled == never_read
    assert 0 < found.filled < 1
    assert {step.line for step in found.steps} == {"W:read", "W:adjust"}
    for job, one in zip(hidden, found.jobs, strict=True):
        assert (one.filled > 0) is not job.noise


@given(st.integers(0, 300))
def test_a_job_that_was_recorded_whole_is_walked_as_the_runtime_goes(seed: int) -> None:
    plan, rng = sound_plan(seed)
    assume(all(step.repeat is None for step in plan.steps))
    sheet = compile_runsheet([(Source(document="W", revision="A", title="x"), plan)])
    answers = answer_all(sheet, {}, rng, to_the_end=True)
    minutes = {line.id: rng.uniform(1, 30) for line in sheet.lines}
    past = PastWork(order="WO-1", model="M", cause="C", answers=answers, minutes=minutes)
    walked = walk(sheet, past, Donors([past]))
    due = {p.line for p in take_up(sheet, answers).progress.lines if p.state == "due"}
    assert set(walked.by_line) == due
    assert walked.minutes == pytest.approx(sum(minutes[line] for line in due))
    assert (walked.filled, walked.n_filled) == (0, 0)


@settings(max_examples=examples(6))
@given(st.lists(st.floats(-50, 50), min_size=2, max_size=12), st.integers(1, 4))
def test_the_range_is_that_of_a_bootstrap_t_done_sample_by_sample(values: list[float], m: int) -> None:
    """Where nothing is filled in: each drawn sample by itself, by scipy's standard error."""
    found = combined([[v] * m for v in values])
    assert found is not None
    assume(stats.sem(values) > 1e-6)
    drawn = np.random.default_rng(1).integers(0, len(values), (N_DRAWS, len(values)))
    scores = []
    for places in drawn:
        sample = [values[i] for i in places]
        error = stats.sem(sample)
        if error > 1e-9 * max(1.0, *(abs(v) for v in values)):
            scores.append((fmean(sample) - fmean(values)) / error)
    left, right = np.quantile(scores, [0.025, 0.975])
    assert found.low == pytest.approx(fmean(values) - right * stats.sem(values), rel=1e-6, abs=1e-6)
    assert found.high == pytest.approx(fmean(values) - left * stats.sem(values), rel=1e-6, abs=1e-6)


def test_no_jobs_have_no_range() -> None:
    assert combined([]) is None


def test_the_range_covers_as_promised_where_a_third_is_missing_at_random() -> None:
    """Rubin and Schenker's setting: a normal mean with a third missing, donors drawn before values; 400 samples."""
    held = 0
    for seed in range(400):
        rng = random.Random(seed)
        values = [rng.gauss(10, 4) for _ in range(30)]
        known, missing = values[:20], 10
        fillings = []
        for _ in range(5):
            donors = [rng.choice(known) for _ in known]
            fillings.append(known + [rng.choice(donors) for _ in range(missing)])
        found = combined(list(zip(*fillings, strict=True)))
        assert found is not None
        held += found.low <= 10 <= found.high
    assert held >= 0.92 * 400


def sheet_of(*steps: Step) -> Runsheet:
    return compile_runsheet([(Source(document="W", revision="A", title="x"), Plan(title="x", steps=steps))])


def test_a_visit_is_saved_where_the_draft_plans_the_part_that_had_to_be_fetched() -> None:
    look = Step(id="look", phase="Diagnose", text="Look")
    fit = Step(id="fit", phase="Put right", text="Fit it", parts=(PartNeed(part="KIT", quantity=2),))
    jobs = [
        PastWork(
            order=f"WO-{n}",
            model="M",
            cause="C",
            answers={},
            minutes={"W:look": 5.0},
            parts=frozenset(parts),
            n_fetches=fetches,
        )
        for n, (parts, fetches) in enumerate(
            [({"KIT"}, 1), ({"KIT"}, 0), ({"KIT", "ROPE"}, 1), (set(), 1), ({"KIT"}, 2)]
        )
    ]
    found = replay_jobs([(sheet_of(look), sheet_of(look, fit))] * len(jobs), jobs)
    assert [job.visits for job in found.jobs] == [1, 0, 0, 0, 2]
    assert (found.visits, found.n_fetches) == (3, 5)
    assert [(p.part, p.quantity, p.n_jobs) for p in found.parts] == [("KIT", 2, 5)]
    assert found.minutes is not None
    assert found.minutes.value == 5, "a step that no job did takes its author's minutes"
    assert (found.steps[0].text, found.steps[0].is_new) == ("Fit it", True)
    back = replay_jobs([(sheet_of(look, fit), sheet_of(look))] * len(jobs), jobs)
    assert (back.visits, back.steps[0].is_gone) == (0, True)
