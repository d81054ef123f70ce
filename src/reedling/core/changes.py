"""Who changed what, from what to what."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

ChangeSubject = Literal["list", "site", "asset", "order", "person", "draft", "setting"]


ChangeAct = Literal[
    "added",
    "changed",
    "removed",
    "planned",
    "cancelled",
    "reviewed",
    "thrown away",
    "password",
    "sessions ended",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """One change with who, when, before and after.

    ``key`` is the identity of what changed; for an entry of a list ``list/code``. ``batch`` joins what
    was changed at once. ``person`` is nobody where a command did it.
    """

    id: int = 0
    batch: str
    at: datetime
    person: str | None
    subject: ChangeSubject
    key: str
    act: ChangeAct
    before: Any = None
    after: Any = None
    note: str = ""
