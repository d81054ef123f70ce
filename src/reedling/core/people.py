"""People who sign in, and what they may do."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

Role = Literal["engineer", "approver", "planner", "technician"]


ROLES: tuple[Role, ...] = ("engineer", "approver", "planner", "technician")


@dataclass(frozen=True, slots=True, kw_only=True)
class Person:
    """Somebody who signs in. ``offered`` people are shown on the sign-in page of a demo.

    Somebody removed no longer signs in; what they did keeps their name. A ``program`` comes in by its token
    alone.
    """

    id: str
    name: str
    role: Role
    username: str
    district: str = ""
    offered: bool = False
    administrator: bool = False
    program: bool = False
    removed_at: datetime | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class FailedSignIns:
    """Sign-ins with a wrong password since the last one that was right."""

    count: int
    last_at: datetime | None


PROGRAM_ROLES: tuple[Role, ...] = ("engineer", "planner")
"""What a program may do: approving takes a second person, and what a technician records is theirs."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ProgramToken:
    """A program with how its token stands: who made it, when, and when it was used last."""

    program: Person
    created_at: datetime
    created_by: str | None
    last_used_at: datetime | None
