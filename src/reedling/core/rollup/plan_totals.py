"""Minutes, skills and parts of a plan, from what its author wrote and how often the field branches."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from reedling.core.guidance.plans import Plan, Step
from reedling.core.guidance.skills import Level, level_rank
from reedling.core.rollup.branches import BranchEvidence, chance_of, decisions
from reedling.core.rollup.minutes import MinutesSpread, Ways, minutes_spread, ways_through

NO_EVIDENCE: Mapping[str, BranchEvidence] = {}


@dataclass(frozen=True, slots=True, kw_only=True)
class SkillTotal:
    """A skill at a level; ``always`` when every job needs it, else ``share`` of them, 0 to 1.

    A skill stands twice where some jobs need it at a higher level than all do.
    """

    skill: str
    level: Level
    always: bool
    share: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PartTotal:
    """A part over the whole plan: the most it can take, what to expect, and how likely any of it is."""

    part: str
    most: float
    expected: float
    chance: float
    always: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanTotals:
    """What a plan adds up to, in minutes.

    ``minutes`` counts each branch by its chance. ``minutes_sure`` are the likely minutes of the steps
    that are always wanted, ``minutes_all`` of every branch too. ``n_branches`` of ``n_steps`` are
    conditional; for ``n_from_field`` of these the field says how often, for ``n_guessed`` nobody does
    and they count as one half.
    """

    n_steps: int
    n_branches: int
    n_guessed: int
    n_from_field: int
    minutes_sure: float
    minutes_all: float
    minutes: MinutesSpread
    skills: tuple[SkillTotal, ...]
    parts: tuple[PartTotal, ...]


@dataclass(frozen=True, slots=True)
class _Weighed:
    """A step with the ways on which it is wanted, and those on which it takes each of its parts.

    ``times`` is how often it is done then: for a section that repeats over names, once for each.
    """

    step: Step
    wanted: NDArray[np.bool_]
    parts: tuple[NDArray[np.bool_], ...]
    times: int


def total_plans(plans: Sequence[Plan], evidence: Mapping[str, BranchEvidence] = NO_EVIDENCE) -> PlanTotals:
    """Add up one plan or several carried out together.

    ``evidence`` is by step and belongs to the first plan. A step is sure when neither it nor a step
    it hangs on has a condition. A section that repeats over names counts once for each, one that
    repeats over what an asset has or what is found on site counts once. Branches on the same question are told apart as
    :mod:`reedling.core.rollup.branches` says.
    """
    per_plan = [evidence if i == 0 else NO_EVIDENCE for i in range(len(plans))]
    ways = ways_through([d for i, plan in enumerate(plans) for d in decisions(plan, per_plan[i], number=i)])
    weighed = [w for i, plan in enumerate(plans) for w in _weigh(plan, i, ways)]
    conditional = [
        chance_of(s, per_plan[i]).source
        for i, plan in enumerate(plans)
        for s in plan.steps
        if s.condition is not None
    ]
    return PlanTotals(
        n_steps=len(weighed),
        n_branches=sum(1 for w in weighed if not w.wanted.all()),
        n_guessed=conditional.count("nobody"),
        n_from_field=conditional.count("field"),
        minutes_sure=sum(w.times * w.step.minutes.likely for w in weighed if w.wanted.all()),
        minutes_all=sum(w.times * w.step.minutes.likely for w in weighed),
        minutes=minutes_spread(ways, [(w.step.minutes, w.wanted, w.times) for w in weighed]),
        skills=_skills(weighed, ways),
        parts=_parts(weighed, ways),
    )


def _weigh(plan: Plan, number: int, ways: Ways) -> list[_Weighed]:
    wanted: dict[str, NDArray[np.bool_]] = {}
    times: dict[str, int] = {}
    out = []
    for step in plan.steps:
        above = wanted.get(step.under) if step.under else None
        own = ways.holds((number, step.condition) if step.condition is not None else None)
        wanted[step.id] = own if above is None else own & above
        parts = tuple(
            wanted[step.id] & ways.holds((number, p.condition) if p.condition is not None else None)
            for p in step.parts
        )
        named = len(step.repeat.names) if step.repeat and step.repeat.over == "named" else 1
        times[step.id] = max(1, named) * times.get(step.under or "", 1)
        out.append(_Weighed(step=step, wanted=wanted[step.id], parts=parts, times=times[step.id]))
    return out


def _skills(weighed: list[_Weighed], ways: Ways) -> tuple[SkillTotal, ...]:
    needs: dict[tuple[str, Level], NDArray[np.bool_]] = {}
    for w in weighed:
        for need in w.step.skills:
            key = (need.skill, need.level)
            needs[key] = needs.get(key, np.zeros(len(ways.p), dtype=bool)) | w.wanted
    out = []
    for skill in dict.fromkeys(skill for skill, _ in needs):
        levels = sorted(
            ((level, on) for (s, level), on in needs.items() if s == skill),
            key=lambda pair: level_rank(pair[0]),
            reverse=True,
        )
        for level, on in levels:
            share = float(on @ ways.p)
            out.append(SkillTotal(skill=skill, level=level, always=bool(on.all()), share=min(1.0, share)))
            if on.all():
                break
    return tuple(sorted(out, key=lambda t: (not t.always, t.skill)))


def _parts(weighed: list[_Weighed], ways: Ways) -> tuple[PartTotal, ...]:
    quantities: dict[str, NDArray[np.float64]] = {}
    most: dict[str, float] = {}
    for w in weighed:
        for need, on in zip(w.step.parts, w.parts, strict=True):
            quantities[need.part] = (
                quantities.get(need.part, np.zeros(len(ways.p))) + on * need.quantity * w.times
            )
            most[need.part] = most.get(need.part, 0.0) + need.quantity * w.times
    out = [
        PartTotal(
            part=part,
            most=most[part],
            expected=float(taken @ ways.p),
            chance=min(1.0, float((taken > 0) @ ways.p)),
            always=bool((taken > 0).all()),
        )
        for part, taken in quantities.items()
    ]
    return tuple(sorted(out, key=lambda t: (not t.always, t.part)))
