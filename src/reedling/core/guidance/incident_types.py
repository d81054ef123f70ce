"""Incident types: a kind of call-out or routine visit, with the guidance for it."""

from __future__ import annotations

from dataclasses import dataclass

from reedling.core.guidance.skills import PartNeed, SkillNeed, ToolNeed


@dataclass(frozen=True, slots=True, kw_only=True)
class Charges:
    """What the customer is charged: for an hour of labour, and once for the visit, in ``currency``."""

    labour_per_hour: float = 0.0
    fixed: float = 0.0
    currency: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class IncidentType:
    """What the call is, for which equipment, and the terms that an order of this type gets.

    ``plans`` and ``forms`` are documents. Those that no row of a table names come with every order
    of the type; the others when their rows say so. ``skills``, ``parts`` and ``tools`` are wanted
    besides those of the steps. ``expected_minutes`` is what to plan for where the author knows better than the sum
    of the steps. A type is one of routine visits where ``due_within_days`` says within how many days of
    falling due, which is when it is logged, a visit is to be done.
    """

    title: str
    summary: str = ""
    equipment: str | None = None
    plans: tuple[str, ...] = ()
    forms: tuple[str, ...] = ()
    skills: tuple[SkillNeed, ...] = ()
    parts: tuple[PartNeed, ...] = ()
    tools: tuple[ToolNeed, ...] = ()
    category: str = ""
    charges: Charges = Charges()
    expected_minutes: float | None = None
    due_within_days: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderTerms:
    """The terms an order got from its incident type when it was logged; later changes do not touch them."""

    category: str = ""
    charges: Charges = Charges()
    expected_minutes: float | None = None
    skills: tuple[SkillNeed, ...] = ()
    parts: tuple[PartNeed, ...] = ()
    tools: tuple[ToolNeed, ...] = ()
    due_within_days: int | None = None


def terms_of(incident: IncidentType) -> OrderTerms:
    """The terms that an order of this type gets."""
    return OrderTerms(
        category=incident.category,
        charges=incident.charges,
        expected_minutes=incident.expected_minutes,
        skills=incident.skills,
        parts=incident.parts,
        tools=incident.tools,
        due_within_days=incident.due_within_days,
    )
