"""Levels of a skill, and what a step asks for."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

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
    """A part, by its code, that the step consumes; ``quantity`` in the part's own unit."""

    part: str
    quantity: float = 1.0


def level_rank(level: Level) -> int:
    """1 for Shadow to 4 for Coach."""
    return LEVELS.index(level) + 1
