"""Finish rules: what must be there before a visit may end with the job finished, in the engineer's words."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

from reedling.core.logic.conditions import Condition, rename_questions

Weight = Literal["must", "should"]
"""A job cannot be finished while a rule that must hold is open; one that should is told, and recorded."""
WEIGHTS: tuple[Weight, ...] = ("must", "should")


@dataclass(frozen=True, slots=True, kw_only=True)
class FinishRule:
    """What is wanted before a job is finished; ``says`` tells the technician what is still open.

    It is met once ``needs`` is true, and asked for only where ``when`` is. Both may ask about every question of
    the plan, about facts of the order, and about the job itself (:func:`reedling.core.guidance.facts.job_facts`).
    One with ``under`` is asked for only where that step is wanted.
    """

    id: str
    says: str
    needs: Condition | None = None
    when: Condition | None = None
    weight: Weight = "must"
    under: str | None = None


def rename_rule(rule: FinishRule, rename: Callable[[str], str], *, under: str | None = None) -> FinishRule:
    """The rule under another identity and asking about renamed questions; ``under`` where it hung on no step."""
    return replace(
        rule,
        id=rename(rule.id),
        needs=rename_questions(rule.needs, rename),
        when=rename_questions(rule.when, rename),
        under=rename(rule.under) if rule.under else under,
    )
