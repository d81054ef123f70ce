"""The standard steps and forms that plans refer to, as they are in force or as they are being written."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from reedling.core.guidance.documents import DocumentAtHand, Revision
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import Library, Shared, references
from reedling.store.unit import Unit


def library_in_force(unit: Unit) -> Library:
    """Every standard step and form at its released revision: what orders are issued with."""
    return Library(
        standards=_shared(unit.documents.all_released("standard step")),
        forms=_shared(unit.documents.all_released("form")),
    )


def library_being_written(unit: Unit, plan: Plan) -> Library:
    """The standard steps and forms a plan refers to, at the revision to work on: what a draft is read with."""
    return library_of(unit.documents.at_hand(*references(plan)))


def library_of(documents: Mapping[str, DocumentAtHand]) -> Library:
    """These documents, where they are standard steps or forms, at the revision to work on."""
    return library_among([d.revision for d in documents.values()])


def library_among(revisions: Collection[Revision]) -> Library:
    """The standard steps and forms among these revisions."""
    return Library(
        standards=_shared(tuple(r for r in revisions if r.kind == "standard step")),
        forms=_shared(tuple(r for r in revisions if r.kind == "form")),
    )


def _shared(revisions: tuple[Revision, ...]) -> dict[str, Shared]:
    return {
        r.document: Shared(document=r.document, revision=r.letter, plan=r.content)
        for r in revisions
        if isinstance(r.content, Plan)
    }
