"""Which documents go for review together."""

from __future__ import annotations

from reedling.core.guidance.documents import Revision
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import references
from reedling.errors import NotFound
from reedling.store.unit import Unit


def bundle(unit: Unit, document: str) -> tuple[str, ...]:
    """What goes for review together with a document, the document itself last."""
    kind = unit.documents.kind(document)
    if kind is None:
        raise NotFound("documents.unknown", f"there is no document {document}.")
    plans: dict[str, None] = {}
    for revision in (unit.documents.open_revision(document), unit.documents.released(document)):
        if revision and isinstance(revision.content, IncidentType):
            plans.update(dict.fromkeys((*revision.content.plans, *revision.content.forms)))
    known = [p for p in plans if unit.documents.kind(p) in ("plan", "form")]
    new = dict.fromkeys(
        d
        for p in (*known, document)
        if isinstance(content := unit.documents.content_of(p), Plan)
        for d in references(content)
        if unit.documents.kind(d) is not None and unit.documents.released(d) is None
    )
    return (*new, *known, document)


def open_revisions(unit: Unit, document: str) -> list[Revision]:
    """The revisions being written or reviewed that go for review together with a document."""
    found = (unit.documents.open_revision(d) for d in bundle(unit, document))
    return [r for r in found if r is not None]
