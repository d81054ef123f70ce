"""Which revision of a document to work on, and the tag that guards it."""

from __future__ import annotations

from collections.abc import Sequence

from reedling.core.guidance.documents import Revision
from reedling.core.guidance.revisions import DocumentKind
from reedling.errors import NotFound
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
    standings = unit.documents.standings(document)
    letter = standings[-1].letter
    for wanted in (("Released",), ("Draft", "In review")):
        letter = next((s.letter for s in standings if s.state in wanted), letter)
    revision = unit.documents.revision(document, letter)
    assert revision is not None
    return revision
