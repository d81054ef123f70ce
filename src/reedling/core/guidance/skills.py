"""Levels of a skill, and what a step asks for: skills, parts, tools."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from reedling.core.logic.conditions import Condition

Level = Literal["Shadow", "Assisted", "Solo", "Coach"]
LEVELS: tuple[Level, ...] = ("Shadow", "Assisted", "Solo", "Coach")
"""The levels 1 to 4, lowest first."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SkillNeed:
    """A skill, by its code, at a level or above."""

    skill: str
    level: Level = "Solo"


@dataclass(frozen=True, slots=True, kw_only=True)
class PartNeed:
    """A part, by its code, that the step consumes; ``quantity`` in the part's own unit.

    With a ``condition`` it is wanted only when that is true.
    """

    part: str
    quantity: float = 1.0
    condition: Condition | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ToolNeed:
    """A tool, by its code, that the step is done with; it comes back, so what steps want of it is not added up."""

    tool: str
    quantity: int = 1


def level_rank(level: Level) -> int:
    """1 for Shadow to 4 for Coach."""
    return LEVELS.index(level) + 1
