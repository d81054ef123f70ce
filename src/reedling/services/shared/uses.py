"""The standard steps and forms that plans refer to, as they are in force or as they are being written."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from reedling.core.guidance.documents import DocumentAtHand, Revision
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import Shared, SharedPlans, references
from reedling.store.unit import Unit


def shared_in_force(unit: Unit) -> SharedPlans:
    """Every standard step and form at its released revision: what orders are issued with."""
    return SharedPlans(
        standards=_shared(unit.documents.all_released("standard step")),
        forms=_shared(unit.documents.all_released("form")),
    )


def shared_being_written(unit: Unit, plan: Plan) -> SharedPlans:
    """The standard steps and forms a plan refers to, at the revision to work on: what a draft is read with."""
    return shared_of(unit.documents.at_hand(*references(plan)))


def shared_of(documents: Mapping[str, DocumentAtHand]) -> SharedPlans:
    """These documents, where they are standard steps or forms, at the revision to work on."""
    return shared_among([d.revision for d in documents.values()])


def shared_among(revisions: Collection[Revision]) -> SharedPlans:
    """The standard steps and forms among these revisions."""
    return SharedPlans(
        standards=_shared(tuple(r for r in revisions if r.kind == "standard step")),
        forms=_shared(tuple(r for r in revisions if r.kind == "form")),
    )


def _shared(revisions: tuple[Revision, ...]) -> dict[str, Shared]:
    return {
        r.document: Shared(document=r.document, revision=r.letter, plan=r.content)
        for r in revisions
        if isinstance(r.content, Plan)
    }
