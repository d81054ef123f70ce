"""Documents by what they are called."""

from __future__ import annotations

from dataclasses import dataclass

from reedling.core.guidance.documents import Revision, RevisionHeading
from reedling.core.guidance.revisions import DocumentKind, RevisionState
from reedling.services.shared.current import current_revision
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class DocumentLink:
    """A document by what it is called."""

    document: str
    kind: DocumentKind
    title: str
    letter: str
    state: RevisionState


def link_to(unit: Unit, document: str) -> DocumentLink:
    """A document by its title at the revision to work on."""
    return link_of(current_revision(unit, document))


def link_by(heading: RevisionHeading) -> DocumentLink:
    """A revision that is known by its heading."""
    return DocumentLink(
        document=heading.document,
        kind=heading.kind,
        title=heading.title,
        letter=heading.letter,
        state=heading.state,
    )


def link_of(revision: Revision) -> DocumentLink:
    """A revision by its document and title."""
    return DocumentLink(
        document=revision.document,
        kind=revision.kind,
        title=revision.content.title,
        letter=revision.letter,
        state=revision.state,
    )
