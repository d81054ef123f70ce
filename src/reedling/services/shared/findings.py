"""Everything that stands against a draft as a whole, and against sending it for review."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from datetime import date

from reedling.core.checking.crew import always_needed, crew_defects
from reedling.core.checking.draft import draft_defects
from reedling.core.faultguide.guide_soundness import guide_problems
from reedling.core.guidance.decision_tables import DecisionTable
from reedling.core.guidance.documents import Revision
from reedling.core.guidance.incident_type_soundness import incident_type_problems
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import fill_in, references
from reedling.core.guidance.written_guides import WrittenGuide
from reedling.core.matching.table_soundness import table_problems
from reedling.errors import Conflict, Problem
from reedling.services.shared.guides import known_to_guides
from reedling.services.shared.known_documents import known_to_tables
from reedling.services.shared.uses import shared_being_written
from reedling.store.unit import Unit


def incident_type_findings(unit: Unit, incident: IncidentType, today: date) -> tuple[Problem, ...]:
    """Everything wrong with an incident type, against what there is here.

    Where it wants skills of its own, they are held against the roster together with those of its plans.
    """
    lists = unit.catalogues.get()
    found = incident_type_problems(
        incident,
        frozenset(unit.documents.of_kind("plan")),
        frozenset(unit.documents.of_kind("form")),
        lists,
    )
    if not incident.skills:
        return found
    plans = (unit.documents.content_of(d) for d in (*incident.plans, *incident.forms))
    needs = [
        need
        for plan in plans
        if isinstance(plan, Plan)
        for need in always_needed(fill_in(plan, shared_being_written(unit, plan)).plan)
    ]
    crew = crew_defects((*needs, *incident.skills), lists, today, path="/skills")
    return (*found, *(d.problem for d in crew))


def release_problems(unit: Unit, revision: Revision, today: date, going: set[str]) -> tuple[Problem, ...]:
    """Everything that stands against sending a revision for review; ``going`` are the documents that go with it."""
    content = revision.content
    found: Iterable[Problem]
    if isinstance(content, Plan):
        defects = draft_defects(
            content,
            unit.catalogues.get(),
            kind=revision.kind,
            shared=shared_being_written(unit, content),
            today=today,
        )
        found = [*(d.problem for d in defects), *_not_in_force(unit, content, going)]
    elif isinstance(content, DecisionTable):
        known = known_to_tables(unit, but=revision.document, going=going)
        found = table_problems(content, unit.catalogues.get(), known)
    elif isinstance(content, WrittenGuide):
        found = guide_problems(content, known_to_guides(unit, content, revision.document))
    else:
        found = incident_type_findings(unit, content, today)
    return tuple(replace(p, path=f"{revision.document}#{p.path}") for p in found)


def require_sound(
    unit: Unit, revision: Revision, today: date, going: set[str], way_out: str = "Give it back."
) -> None:
    """Refuse to bring a revision into force that has errors; some may have come up since it was sent for review.

    ``going`` are the documents that go with it, ``way_out`` is the hint of the refusal.

    Raises
    ------
    Conflict
        ``drafts.unsound``, with the first error.
    """
    errors = [p for p in release_problems(unit, revision, today, going) if p.severity == "error"]
    if errors:
        raise Conflict(
            "drafts.unsound",
            f"it has errors: {errors[0].message}",
            where=revision.document,
            hint=way_out,
        )


def _not_in_force(unit: Unit, plan: Plan, going: set[str]) -> Iterable[Problem]:
    for document in references(plan):
        known = unit.documents.kind(document) is not None
        if known and unit.documents.released(document) is None and document not in going:
            yield Problem(
                code="reuse.unreleased",
                path="",
                message=f"{document}, which it refers to, has no revision in force.",
                hint="Send that for review first.",
            )
