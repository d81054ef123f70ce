"""What is plainly wrong with an incident type: plans, forms and codes that are not there, amounts below nothing."""

from __future__ import annotations

from collections.abc import Iterator

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.incident_types import IncidentType
from reedling.errors import Problem

MOST_DAYS_DUE = 366
"""Days within which a routine visit is done, at the most."""


def incident_type_problems(
    incident: IncidentType,
    known_plans: frozenset[str],
    known_forms: frozenset[str] = frozenset(),
    catalogue: Catalogue | None = None,
) -> tuple[Problem, ...]:
    """Everything plainly wrong with an incident type; without a catalogue its codes are not looked at."""
    out: list[Problem] = []
    if not incident.title.strip():
        out.append(_error("incident_types.title", "/title", "The incident type has no title."))
    if not incident.plans:
        out.append(_error("incident_types.no_plan", "/plans", "The incident type uses no work plan."))
    out.extend(
        _error("incident_types.plan", f"/plans/{i}", f"There is no work plan {plan}.")
        for i, plan in enumerate(incident.plans)
        if plan not in known_plans
    )
    out.extend(
        _error("incident_types.form", f"/forms/{i}", f"There is no form {form}.")
        for i, form in enumerate(incident.forms)
        if form not in known_forms
    )
    out.extend(_terms(incident, catalogue) if catalogue else ())
    return tuple(out)


def _terms(incident: IncidentType, catalogue: Catalogue) -> Iterator[Problem]:
    """What orders take over must be known, and no amount may be below nothing."""
    known = {
        "skill": {s.code for s in catalogue.skills},
        "part": {p.code for p in catalogue.parts},
        "tool": {t.code for t in catalogue.tools},
        "category": {c.code for c in catalogue.categories},
    }
    for i, need in enumerate(incident.skills):
        if need.skill not in known["skill"]:
            yield _error("incident_types.skill", f"/skills/{i}", f"There is no skill {need.skill}.")
    for i, part in enumerate(incident.parts):
        if part.part not in known["part"]:
            yield _error("incident_types.part", f"/parts/{i}", f"There is no part {part.part}.")
        elif part.quantity <= 0:
            yield _error(
                "incident_types.amount", f"/parts/{i}", f"The quantity of {part.part} must be above 0."
            )
    for i, wanted in enumerate(incident.tools):
        if wanted.tool not in known["tool"]:
            yield _error("incident_types.tool", f"/tools/{i}", f"There is no tool {wanted.tool}.")
        elif wanted.quantity < 1:
            yield _error("incident_types.amount", f"/tools/{i}", f"Of {wanted.tool} one or more are wanted.")
    if incident.category and incident.category not in known["category"]:
        yield _error("incident_types.category", "/category", f"There is no category {incident.category}.")
    amounts = {
        "labour_per_hour": incident.charges.labour_per_hour,
        "fixed": incident.charges.fixed,
    }
    for name, amount in amounts.items():
        if amount < 0:
            yield _error("incident_types.amount", f"/charges/{name}", "A charge cannot be below 0.")
    if incident.expected_minutes is not None and incident.expected_minutes <= 0:
        yield _error("incident_types.amount", "/expected_minutes", "The expected minutes must be above 0.")
    if incident.due_within_days is not None and not 0 <= incident.due_within_days <= MOST_DAYS_DUE:
        message = f"A routine visit is done within 0 to {MOST_DAYS_DUE} days of falling due."
        yield _error("incident_types.amount", "/due_within_days", message)


def _error(code: str, path: str, message: str) -> Problem:
    return Problem(code=code, path=path, message=message)
