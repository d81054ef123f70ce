"""Which revision of a document to work on, and the tag that guards it."""

from __future__ import annotations

from collections.abc import Sequence

from reedling.core.guidance.revisions import DocumentKind
from reedling.errors import NotFound
from reedling.store.records import Revision
from reedling.store.unit import Unit


def etag_of(revision: Revision) -> str:
    """The tag of a revision as it stands; it changes with every saved edit and every move."""
    return f'"{revision.document}-{revision.letter}-{revision.version}-{revision.state.replace(" ", "")}"'


def current_revision(unit: Unit, document: str, kinds: Sequence[DocumentKind] = ()) -> Revision:
    """The open revision if there is one, else the one in force, else the newest.

    Raises
    ------
    NotFound
        ``documents.unknown`` when there is none, or it is of another kind than those named.
    """
    kind = unit.documents.kind(document)
    if kind is None or (kinds and kind not in kinds):
        raise NotFound("documents.unknown", f"there is no {kinds[0] if kinds else 'document'} {document}.")
    revisions = unit.documents.revisions(document)
    for wanted in (("Draft", "In review"), ("Released",)):
        for revision in revisions:
            if revision.state in wanted:
                return revision
    return revisions[-1]
