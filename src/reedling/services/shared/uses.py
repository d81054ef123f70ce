"""The standard steps and forms that plans refer to, as they are in force or as they are being written."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from reedling.core.guidance.decision_tables import DecisionTable, documents_of
from reedling.core.guidance.documents import Content, Revision
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import Library, Shared, references
from reedling.services.shared.current import current_revision
from reedling.store.unit import Unit


def library_in_force(unit: Unit) -> Library:
    """Every standard step and form at its released revision: what orders are issued with."""
    return Library(
        standards=_shared(unit.documents.all_released("standard step")),
        forms=_shared(unit.documents.all_released("form")),
    )


def library_being_written(unit: Unit, plan: Plan) -> Library:
    """The standard steps and forms a plan refers to, at the revision to work on: what a draft is read with."""
    found = [current_revision(unit, d) for d in references(plan) if unit.documents.kind(d) is not None]
    return Library(
        standards=_shared(tuple(r for r in found if r.kind == "standard step")),
        forms=_shared(tuple(r for r in found if r.kind == "form")),
    )


def uses(unit: Unit) -> Mapping[str, tuple[str, ...]]:
    """By document, which others refer to it as they are being written or in force.

    Plans and forms refer to standard steps and forms, incident types to plans and forms, decision
    tables to all of them.
    """
    out: dict[str, dict[str, None]] = {}
    for revision in unit.documents.in_states(("Draft", "In review", "Released")):
        for document in named_in(revision.content):
            out.setdefault(document, {})[revision.document] = None
    return {document: tuple(sorted(users)) for document, users in out.items()}


def named_in(content: Content) -> Iterable[str]:
    """Every document that this content refers to, each once."""
    if isinstance(content, Plan):
        return references(content)
    if isinstance(content, DecisionTable):
        return documents_of(content)
    return dict.fromkeys((*content.plans, *content.forms))


def where_used(unit: Unit, document: str) -> tuple[str, ...]:
    """The documents that refer to this one; as :func:`uses`."""
    return uses(unit).get(document, ())


def _shared(revisions: tuple[Revision, ...]) -> dict[str, Shared]:
    return {
        r.document: Shared(document=r.document, revision=r.letter, plan=r.content)
        for r in revisions
        if isinstance(r.content, Plan)
    }
