"""Which revision of a document to work on, and the tag that guards it."""

from __future__ import annotations

from collections.abc import Sequence

from reedling.core.guidance.documents import DocumentAtHand, Revision
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.revisions import DocumentKind
from reedling.errors import NotFound
from reedling.store.unit import Unit


def etag_of(revision: Revision) -> str:
    """The tag of a revision as it stands; it changes with every saved edit and every move."""
    return f'"{revision.document}-{revision.letter}-{revision.version}-{revision.state.replace(" ", "")}"'


def document_at_hand(unit: Unit, document: str, kinds: Sequence[DocumentKind] = ()) -> DocumentAtHand:
    """A document with its revisions and the one to work on: open, else in force, else the newest.

    Raises
    ------
    NotFound
        ``documents.unknown`` when there is none, or it is of another kind than those named.
    """
    found = unit.documents.at_hand(document).get(document)
    if found is None or (kinds and found.kind not in kinds):
        raise NotFound("documents.unknown", f"there is no {kinds[0] if kinds else 'document'} {document}.")
    return found


def current_revision(unit: Unit, document: str, kinds: Sequence[DocumentKind] = ()) -> Revision:
    """The revision of a document to work on; as :func:`document_at_hand`."""
    return document_at_hand(unit, document, kinds).revision


def need_incident_type(unit: Unit, document: str) -> IncidentType:
    """An incident type at the revision to work on.

    Raises
    ------
    NotFound
        ``documents.unknown`` when there is none of this identity.
    """
    content = current_revision(unit, document, ("incident type",)).content
    assert isinstance(content, IncidentType)
    return content


def incident_type_in_use(unit: Unit, document: str) -> IncidentType:
    """An incident type as it is in force, else as it is being written; refused as :func:`need_incident_type`."""
    revision = unit.documents.released(document)
    in_force = revision.content if revision else None
    return in_force if isinstance(in_force, IncidentType) else need_incident_type(unit, document)
