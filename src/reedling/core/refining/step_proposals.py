"""What the jobs of a plan suggest of its steps."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from statistics import median

import numpy as np
from scipy.special import bdtr, bdtrc

from reedling.core.guidance.editing import RemoveStep
from reedling.core.guidance.plans import Plan, Step
from reedling.core.guidance.questions import Computed, Reading, formula_name
from reedling.core.logic.conditions import number_text
from reedling.core.refining.asked_about import used_by
from reedling.core.refining.changes import AddToDetail, SetStepMinutes
from reedling.core.refining.in_words import in_range, rounded_minutes, share_in_words, so_many_jobs
from reedling.core.refining.limit_proposals import proposals_of_limits
from reedling.core.refining.misplaced_checks import misplaced_checks
from reedling.core.refining.proposals import FEWEST_JOBS, PlanEvidence, Proposal, StepJob
from reedling.core.statistics.discoveries import FALSE_DISCOVERY_RATE, false_discovery_adjusted
from reedling.core.statistics.intervals import share_at_most, wilson_interval
from reedling.core.statistics.resampling import median_interval

FEWEST_QUIET = 60
"""Jobs without a single hit that are wanted before a step or branch is said to bring nothing."""
RETIME_SHARE = 0.15
RETIME_MINUTES = 1.0
"""A step is re-timed when its median is off by this part of its minutes, and by so many."""
RETIME_DRAWS = 600
"""Draws of the interval of a median; it is asked of many steps at once."""
FEWEST_HELPED = 3
MINUTES_OF_HELP = 30.0
"""What a question from site is taken to cost both sides, where proposals are ranked."""


def proposals_of_plan(
    evidence: PlanEvidence, models: Mapping[str, str], causes: Mapping[str, str]
) -> tuple[Proposal, ...]:
    """What the jobs of a plan suggest; ``models`` and ``causes`` are names by code.

    Rules that test are held together to a false-discovery rate of :data:`FALSE_DISCOVERY_RATE`, with every step that
    was tested counted, whether or not it would be proposed.
    """
    tested: list[tuple[float, Proposal | None]] = []
    found: list[Proposal] = []
    for step in evidence.plan.steps:
        jobs = evidence.steps.get(step.id, ())
        if step.standard is None:
            tested.extend(_retime(evidence, step, jobs))
        tested.extend(_illustrate(evidence, step, jobs, models))
        found.extend(_drop(evidence, step, jobs))
        found.extend(_retire(evidence, step, jobs))
    tested.extend(misplaced_checks(evidence))
    tested.extend(proposals_of_limits(evidence, causes))
    adjusted = false_discovery_adjusted([p for p, _ in tested])
    found += [
        replace(proposal, p_value=p)
        for p, (_, proposal) in zip(adjusted, tested, strict=True)
        if proposal is not None and p <= FALSE_DISCOVERY_RATE
    ]
    return tuple(sorted(found, key=lambda p: (-p.weight, p.key)))


def _retime(
    evidence: PlanEvidence, step: Step, jobs: Sequence[StepJob]
) -> Iterator[tuple[float, Proposal | None]]:
    """Minutes planned against minutes taken: the sign test of the median, and its bootstrap interval."""
    timed = [(j.order, j.minutes) for j in jobs if j.minutes is not None]
    planned = step.minutes.likely
    if len(timed) < FEWEST_JOBS or planned <= 0:
        return
    values = [m for _, m in timed]
    above, below = sum(v > planned for v in values), sum(v < planned for v in values)
    p = min(1.0, 2 * float(bdtr(min(above, below), above + below, 0.5))) if above + below else 1.0
    if p > FALSE_DISCOVERY_RATE:
        # No adjustment makes it smaller: the interval need not be worked out.
        yield p, None
        return
    found = median_interval(values, n_draws=RETIME_DRAWS)
    assert found is not None
    off = found.value - planned
    sure = found.low > planned or found.high < planned
    if not sure or abs(off) < max(RETIME_MINUTES, RETIME_SHARE * planned):
        yield p, None
        return
    likely, low, high = (rounded_minutes(float(q)) for q in np.quantile(values, (0.5, 0.1, 0.9)))
    longer = "longer" if off > 0 else "less"
    yield (
        p,
        Proposal(
            kind="re-time a step",
            document=evidence.document,
            revision=evidence.revision,
            step=step.id,
            part="",
            sentence=f"“{step.text}” takes {longer} than the {number_text(planned)} min planned: median {in_range(found)} min, {so_many_jobs(len(values))}.",
            effect=f"The plan would be {number_text(rounded_minutes(abs(off)))} min a job nearer to what it takes.",
            rule=f"The median's 95 % interval leaves out the minutes planned, and lies off by at least {round(RETIME_SHARE * 100)} %.",
            goes_away="It goes once the minutes planned lie within the interval of the median.",
            change=SetStepMinutes(step=step.id, likely=likely, low=min(low, likely), high=max(high, likely)),
            n_jobs=len(values),
            orders=_most_off(timed, planned),
            weight=abs(off) * len(values),
        ),
    )


def _illustrate(
    evidence: PlanEvidence, step: Step, jobs: Sequence[StepJob], models: Mapping[str, str]
) -> Iterator[tuple[float, Proposal | None]]:
    """Help asked at a step against help asked at the plan's other steps: a binomial test."""
    wanted = [j for j in jobs if j.wanted]
    if len(wanted) < FEWEST_JOBS:
        return
    others = [j for s, held in evidence.steps.items() if s != step.id for j in held if j.wanted]
    n_helped = sum(j.helped for j in wanted)
    usual = (sum(j.helped for j in others) + 1) / (len(others) + 2)
    p = float(bdtrc(n_helped - 1, len(wanted), usual)) if n_helped else 1.0
    if n_helped < FEWEST_HELPED:
        yield p, None
        return
    share = wilson_interval(n_helped, len(wanted))
    asked = list(dict.fromkeys(evidence.asked.get(step.id, ())))[:4]
    quoted = " ".join(f"“{words}”" for words in asked)
    lost = _lost(wanted)
    where = _where_most(wanted, models)
    yield (
        p,
        Proposal(
            kind="illustrate a step",
            document=evidence.document,
            revision=evidence.revision,
            step=step.id,
            part="",
            sentence=f"“{step.text}” draws help: {share_in_words(share)} asked at it{where}; at the other steps it is {round(usual * 100, 1):g} %.",
            effect=lost
            or "What it would save cannot be said: too few jobs asked, or did not, with times that can be.",
            rule="More jobs ask for help here than at the plan's other steps, beyond chance.",
            goes_away="It goes once no more ask here than elsewhere.",
            change=AddToDetail(
                step=step.id,
                text=f"Asked on site: {quoted or 'see the help threads.'} Answer it here, or show it in a picture.",
            ),
            n_jobs=len(wanted),
            orders=tuple(j.order for j in wanted if j.helped),
            weight=MINUTES_OF_HELP * n_helped,
        ),
    )


def _drop(evidence: PlanEvidence, step: Step, jobs: Sequence[StepJob]) -> Iterator[Proposal]:
    """A check with limits that never trip and on which nothing hangs; never one that makes safe, puts something right
    or proves that the equipment works: it is there for more than what it reads."""
    judged = [j for j in jobs if j.out_of_limit is not None]
    if (
        step.phase not in ("Arrive", "Diagnose")
        or len(judged) < FEWEST_QUIET
        or any(j.out_of_limit for j in judged)
        or not any(isinstance(q, Reading | Computed) for q in step.questions)
        or any(s.under == step.id for s in evidence.plan.steps)
        or _is_asked_about(evidence.plan, step)
    ):
        return
    saved = median_interval([j.minutes for j in judged if j.minutes is not None])
    most = share_at_most(0, len(judged))
    minutes = f"{in_range(saved)} min a job" if saved else "its minutes"
    yield Proposal(
        kind="drop a step",
        document=evidence.document,
        revision=evidence.revision,
        step=step.id,
        part="",
        sentence=f"“{step.text}” never found anything in {so_many_jobs(len(judged))}.",
        effect=f"It would save {minutes}. It may still find something in up to {round(most * 100, 1):g} % of jobs: that is the cost of dropping it.",
        rule=f"No reading of it was out of its limits in at least {FEWEST_QUIET} jobs, and no step hangs on it.",
        goes_away="It goes with the first reading out of its limits.",
        change=RemoveStep(step=step.id),
        n_jobs=len(judged),
        orders=tuple(j.order for j in judged),
        weight=(saved.value if saved else 0) * len(judged),
    )


def _retire(evidence: PlanEvidence, step: Step, jobs: Sequence[StepJob]) -> Iterator[Proposal]:
    """A branch that no job took and on which nothing beside it hangs; never one that makes safe."""
    if (
        step.condition is None
        or step.phase == "Make safe"
        or len(jobs) < FEWEST_QUIET
        or any(j.wanted for j in jobs)
        or _is_asked_about(evidence.plan, step)
    ):
        return
    most = share_at_most(0, len(jobs))
    yield Proposal(
        kind="retire a branch",
        document=evidence.document,
        revision=evidence.revision,
        step=step.id,
        part="",
        sentence=f"Nobody ever took the branch “{step.text}” in {so_many_jobs(len(jobs))}.",
        effect=f"The plan would be a step shorter to read. Up to {round(most * 100, 1):g} % of jobs may still want it.",
        rule=f"No job out of at least {FEWEST_QUIET} wanted it.",
        goes_away="It goes with the first job that takes it.",
        change=RemoveStep(step=step.id),
        n_jobs=len(jobs),
        orders=tuple(j.order for j in jobs),
        weight=0.0,
    )


def _is_asked_about(plan: Plan, step: Step) -> bool:
    """Whether anything of a plan but the step and its own branches rests on what the step or they ask."""
    gone = {step.id}
    for other in plan.steps:
        if other.under in gone:
            gone.add(other.id)
    lost = [q for s in plan.steps if s.id in gone for q in s.questions]
    left = replace(plan, steps=tuple(s for s in plan.steps if s.id not in gone))
    asked, named = used_by(left)
    return any(q.id in asked or formula_name(q) in named for q in lost) or any(
        rule.under in gone for rule in plan.finish
    )


def _where_most(wanted: Sequence[StepJob], models: Mapping[str, str]) -> str:
    """Where one model draws clearly more help than the others together, in words."""
    for model in sorted({j.model for j in wanted}):
        own = wilson_interval(*_helped(j for j in wanted if j.model == model))
        rest = wilson_interval(*_helped(j for j in wanted if j.model != model))
        if own.share is not None and rest.share is not None and own.low > rest.high:
            return f", on {models.get(model, model)} {share_in_words(own)}"
    return ""


def _helped(jobs: Iterable[StepJob]) -> tuple[int, int]:
    held = list(jobs)
    return sum(j.helped for j in held), len(held)


def _lost(wanted: Sequence[StepJob]) -> str:
    helped = [j.minutes for j in wanted if j.helped and j.minutes is not None]
    others = [j.minutes for j in wanted if not j.helped and j.minutes is not None]
    if min(len(helped), len(others)) < 8:
        return ""
    more = median(helped) - median(others)
    return (
        f"Jobs that asked took {number_text(rounded_minutes(abs(more)))} min {'longer' if more >= 0 else 'less'} at it "
        f"(medians of {len(helped)} and {len(others)} jobs)."
    )


def _most_off(timed: Sequence[tuple[str, float]], planned: float) -> tuple[str, ...]:
    return tuple(order for order, m in sorted(timed, key=lambda pair: -abs(pair[1] - planned)))
