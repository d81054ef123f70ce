"""Minutes, skills and parts of a plan, from what its author wrote."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from reedling.core.guidance.plans import Plan, Step
from reedling.core.guidance.skills import Level, level_rank

UNKNOWN_CHANCE = 0.5
"""Chance of a branch for which neither the author nor the field has said anything."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SkillTotal:
    """The highest level asked of a skill; ``always`` when a step that is always wanted asks it."""

    skill: str
    level: Level
    always: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PartTotal:
    """A part over the whole plan: the most it can take, what to expect, and whether it is sure."""

    part: str
    most: float
    expected: float
    always: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanTotals:
    """What a plan adds up to, in minutes.

    ``minutes_sure`` counts only steps that are always wanted, ``minutes_all`` every branch too,
    ``minutes_expected`` each branch by its chance. ``n_branches`` of ``n_steps`` are conditional,
    and ``n_guessed`` of those have no chance given and count as one half.
    """

    n_steps: int
    n_branches: int
    n_guessed: int
    minutes_sure: float
    minutes_expected: float
    minutes_all: float
    skills: tuple[SkillTotal, ...]
    parts: tuple[PartTotal, ...]


def total_plans(plans: Iterable[Plan]) -> PlanTotals:
    """Add up one plan or several carried out together.

    A step is sure when neither it nor a step it hangs on has a condition. The chance of a step
    is its own times that of the step it hangs on; chances of separate branches are not compared
    with each other, so two branches that exclude each other each count by their own chance.
    """
    weighed = [pair for plan in plans for pair in _weighed_steps(plan)]
    conditional = [(s, p) for s, p in weighed if p is not None]
    return PlanTotals(
        n_steps=len(weighed),
        n_branches=len(conditional),
        n_guessed=sum(1 for s, _ in conditional if s.condition is not None and s.chance is None),
        minutes_sure=sum(s.minutes.likely for s, p in weighed if p is None),
        minutes_expected=sum(s.minutes.likely * (1.0 if p is None else p) for s, p in weighed),
        minutes_all=sum(s.minutes.likely for s, _ in weighed),
        skills=_skills(weighed),
        parts=_parts(weighed),
    )


def _weighed_steps(plan: Plan) -> list[tuple[Step, float | None]]:
    """Each step with its chance; ``None`` for a step that is always wanted."""
    chances: dict[str, float | None] = {}
    out: list[tuple[Step, float | None]] = []
    for step in plan.steps:
        above = chances.get(step.under) if step.under else None
        if step.condition is None:
            chance = above
        else:
            own = UNKNOWN_CHANCE if step.chance is None else step.chance
            chance = own * (1.0 if above is None else above)
        chances[step.id] = chance
        out.append((step, chance))
    return out


def _skills(weighed: list[tuple[Step, float | None]]) -> tuple[SkillTotal, ...]:
    best: dict[str, SkillTotal] = {}
    for step, chance in weighed:
        for need in step.skills:
            total = SkillTotal(skill=need.skill, level=need.level, always=chance is None)
            held = best.get(need.skill)
            key = (total.always, level_rank(total.level))
            if held is None or key > (held.always, level_rank(held.level)):
                best[need.skill] = total
    return tuple(sorted(best.values(), key=lambda t: (not t.always, t.skill)))


def _parts(weighed: list[tuple[Step, float | None]]) -> tuple[PartTotal, ...]:
    totals: dict[str, PartTotal] = {}
    for step, chance in weighed:
        for need in step.parts:
            held = totals.get(need.part, PartTotal(part=need.part, most=0, expected=0, always=False))
            totals[need.part] = PartTotal(
                part=need.part,
                most=held.most + need.quantity,
                expected=held.expected + need.quantity * (1.0 if chance is None else chance),
                always=held.always or chance is None,
            )
    return tuple(sorted(totals.values(), key=lambda t: (not t.always, t.part)))
