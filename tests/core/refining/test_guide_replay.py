"""Closed jobs walked through fault guides: held against what the model expects, and against the same things done by hand."""

from __future__ import annotations

import random
from collections.abc import Mapping
from dataclasses import replace
from statistics import fmean, stdev

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.faultguide.guides import FaultGuide
from reedling.core.faultguide.learning import ClosedJob, Learned, LearnedGuide
from reedling.core.faultguide.strategies import Doing, best_strategy, minutes_of_strategy
from reedling.core.refining.guide_replay import GuideToWalk, replay_guides
from reedling.core.refining.past_work import PastWork
from tests.core.faultguide.test_faultguide import a_guide

N_JOBS = 3_000


def cell(value: float) -> Learned:
    return Learned(value=value, low=value, high=value, n=50, size=50)


def to_walk(guide: FaultGuide, first: Doing | None = None, *, at_steps: bool = False) -> GuideToWalk:
    """A guide, with the figures as jobs left them, whose remedies are coded by their names."""
    found = LearnedGuide(
        guide=guide,
        chances=tuple(cell(c) for c in guide.chances),
        cells=tuple(tuple(cell(y) for y in check.yes) for check in guide.checks),
        looks=tuple(check.id for check in guide.checks),
        diagnosed=None,
        n_jobs=50,
        n_uncoded=0,
        rare={},
        repair_cells=tuple(tuple(cell(f) for f in repair.fixes) for repair in guide.repairs),
    )
    return GuideToWalk(
        found=found,
        first=first or best_strategy(guide).first,
        checks=found.looks,
        check_lines=tuple(f"P:{check.id}" if at_steps else "" for check in guide.checks),
        remedies=tuple(repair.id for repair in guide.repairs),
        remedy_lines=tuple(f"P:{repair.id}" if at_steps else "" for repair in guide.repairs),
        codes=tuple(f"code-{repair.id}" for repair in guide.repairs),
    )


def jobs_of(guide: FaultGuide, n: int, rng: random.Random, *, told: bool) -> list[ClosedJob]:
    """Jobs as the guide has it; ``told`` ones record what every check and remedy would have come to."""
    out = []
    for i in range(n):
        c = rng.choices(range(len(guide.causes)), guide.chances)[0]
        seen = {check.id: rng.random() < check.yes[c] for check in guide.checks}
        tried = {repair.id: rng.random() < repair.fixes[c] for repair in guide.repairs}
        out.append(
            ClosedJob(
                order=f"WO-{i:05d}",
                cause=guide.causes[c],
                remedy="none of these",
                minutes=None,
                diagnosed=0.0,
                seen=seen if told else {},
                tried=tried if told else {},
            )
        )
    return out


def works_of(jobs: list[ClosedJob], minutes: Mapping[str, float] = {}) -> list[PastWork]:
    return [PastWork(order=j.order, model="M", cause=j.cause, answers={}, minutes=minutes) for j in jobs]


@pytest.mark.parametrize("told", [True, False])
@pytest.mark.parametrize("seed", range(4))
def test_on_average_jobs_take_what_the_model_expects(seed: int, told: bool) -> None:
    """Walking many jobs of a guide comes to the exact expectation of its order of work, told or drawn."""
    guide = a_guide(seed, 3, 3, 3)
    rng = random.Random(seed)
    jobs = jobs_of(guide, N_JOBS, rng, told=told)
    nothing = replace(guide, checks=(), repairs=())
    only_last = replace(to_walk(nothing), first=Doing(act="last resort", place=-1, minutes=240, chance=1))
    walked = to_walk(guide)
    found = replay_guides(only_last, walked, jobs, works_of(jobs), n_fillings=1)
    taken = [240 + job.minutes for job in found.jobs]
    expected = minutes_of_strategy(guide, walked.first)
    # Four standard errors of a mean.
    assert fmean(taken) == pytest.approx(expected, abs=4 * stdev(taken) / N_JOBS**0.5)
    assert found.n_filled == N_JOBS


@given(st.integers(0, 2**16), st.integers(0, 2**16))
def test_two_orders_of_work_meet_the_same_job_as_done_by_hand(seed: int, other: int) -> None:
    """Against a slow walk that reads the record aloud; both orders are of the same guide."""
    guide = a_guide(seed, 3, 3, 3)
    jobs = jobs_of(guide, 12, random.Random(seed), told=True)
    takes = {f"P:{key}": float(3 + i) for i, key in enumerate(("k0", "k1", "k2", "r0", "r1", "r2"))}
    firsts = [best_strategy(guide).first, best_strategy(a_guide(other, 3, 3, 3)).first]
    before, draft = (to_walk(guide, first, at_steps=True) for first in firsts)
    found = replay_guides(before, draft, jobs, works_of(jobs, takes))
    for job, replayed in zip(jobs, found.jobs, strict=True):
        old, new = (by_hand(guide, first, job, takes) for first in firsts)
        assert replayed.minutes == pytest.approx(new - old)
    assert found.minutes is not None


def by_hand(guide: FaultGuide, doing: Doing | None, job: ClosedJob, takes: Mapping[str, float]) -> float:
    if doing is None or doing.act == "last resort":
        return guide.last_resort_minutes
    if doing.act == "check":
        check = guide.checks[doing.place].id
        return takes[f"P:{check}"] + by_hand(guide, doing.yes if job.seen[check] else doing.no, job, takes)
    repair = guide.repairs[doing.place].id
    taken = takes[f"P:{repair}"] + guide.prove_minutes
    return taken if job.tried[repair] else taken + by_hand(guide, doing.no, job, takes)


def test_a_figure_written_otherwise_saves_nothing_by_itself() -> None:
    guide = a_guide(1, 3, 3, 3)
    first = best_strategy(guide).first
    quicker = replace(
        guide,
        checks=tuple(replace(check, minutes=check.minutes / 4) for check in guide.checks),
        prove_minutes=1,
        last_resort_minutes=30,
    )
    jobs = jobs_of(guide, 40, random.Random(1), told=False)
    found = replay_guides(to_walk(guide, first), to_walk(quicker, first), jobs, works_of(jobs))
    assert {job.minutes for job in found.jobs} == {0}
    assert found.steps == ()


def test_what_the_job_was_mended_by_helps_and_what_is_said_not_to_does_not() -> None:
    guide = a_guide(2, 2, 0, 2)
    guide = replace(
        guide,
        repairs=(replace(guide.repairs[0], fixes=(0.9, 0.0)), replace(guide.repairs[1], fixes=(0.0, 0.9))),
    )
    second_first = Doing(
        act="repair",
        place=1,
        minutes=0,
        chance=0.5,
        no=Doing(act="repair", place=0, minutes=0, chance=0.5),
    )
    walked = to_walk(guide, second_first)
    none = to_walk(guide, Doing(act="last resort", place=-1, minutes=240, chance=1))
    by_code = ClosedJob(
        order="A", cause="c0", remedy="code-r0", minutes=None, diagnosed=0.0, seen={}, tried={}
    )
    walked = replace(
        walked,
        found=replace(
            walked.found,
            repair_cells=tuple(
                tuple(None if c is not None and c.value == 0 else c for c in row)
                for row in walked.found.repair_cells
            ),
        ),
    )
    none = replace(none, found=walked.found)
    found = replay_guides(none, walked, [by_code], works_of([by_code]))
    both = sum(r.minutes + r.cost_minutes + guide.prove_minutes for r in guide.repairs)
    assert found.jobs[0].minutes == pytest.approx(both - guide.last_resort_minutes)
    # Where both remedies go by one code, the job was mended by the one that is meant for its cause.
    alike = replace(walked, codes=("code-r0", "code-r0"))
    found = replay_guides(none, alike, [by_code], works_of([by_code]))
    assert found.jobs[0].minutes == pytest.approx(both - guide.last_resort_minutes)
    # Of a cause that no guide has, the code is all that is known.
    other = replace(by_code, cause="c9", remedy="code-r1")
    first = guide.repairs[1].minutes + guide.repairs[1].cost_minutes + guide.prove_minutes
    found = replay_guides(none, walked, [other], works_of([other]))
    assert found.jobs[0].minutes == pytest.approx(first - guide.last_resort_minutes)


def test_two_checks_of_one_step_are_seen_at_once() -> None:
    guide = a_guide(3, 2, 2, 1)
    last = Doing(act="last resort", place=-1, minutes=240, chance=1)
    then = Doing(act="check", place=1, minutes=0, chance=0.5, yes=last, no=last)
    first = Doing(act="check", place=0, minutes=0, chance=0.5, yes=then, no=then)
    walked = replace(to_walk(guide, first), check_lines=("P:look", "P:look"))
    job = jobs_of(guide, 1, random.Random(0), told=True)[0]
    found = replay_guides(replace(walked, first=last), walked, [job], works_of([job], {"P:look": 7.0}))
    assert found.jobs[0].minutes == 7.0
