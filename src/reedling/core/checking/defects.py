"""A defect: a problem in a draft, with the answers that show it and the change that mends it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from reedling.core.guidance.editing import RemoveStep
from reedling.core.guidance.question_editing import RemoveQuestion
from reedling.core.logic.conditions import Answer
from reedling.errors import Problem


@dataclass(frozen=True, slots=True, kw_only=True)
class SetField:
    """Put a value at a JSON pointer of the draft."""

    path: str
    value: str | float | None
    kind: Literal["set field"] = "set field"


MendingEdit = RemoveStep | RemoveQuestion | SetField


@dataclass(frozen=True, slots=True, kw_only=True)
class Fix:
    """A change that mends a defect with one press; ``label`` says what it does."""

    label: str
    change: MendingEdit


@dataclass(frozen=True, slots=True, kw_only=True)
class Defect:
    """One defect. ``witness`` gives answers, by question, under which it shows in a run."""

    problem: Problem
    witness: Mapping[str, Answer] | None = None
    fix: Fix | None = None


def defect(
    code: str,
    path: str,
    message: str,
    *,
    severity: str = "error",
    witness: Mapping[str, Answer] | None = None,
    fix: Fix | None = None,
) -> Defect:
    """A defect from its parts."""
    problem = Problem(code=code, path=path, message=message, severity=severity)
    return Defect(problem=problem, witness=witness, fix=fix)
