"""Incident types: a kind of call-out or routine visit, with the guidance for it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class IncidentType:
    """What the call is, for which equipment, and the work plans it uses, by document."""

    title: str
    summary: str = ""
    equipment: str | None = None
    plans: tuple[str, ...] = ()
