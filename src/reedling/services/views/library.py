"""The library as a pack, to export."""

from __future__ import annotations

import base64
from typing import get_args

from reedling.core.guidance.documents import Content, Revision
from reedling.core.guidance.revisions import DocumentKind
from reedling.exchange.library_pack import LibraryPack, PackedIllustration, PackedRevision, sort_revisions
from reedling.services.context import Context

KINDS: tuple[DocumentKind, ...] = get_args(DocumentKind)


def export_library(context: Context) -> LibraryPack:
    """The catalogue and every revision of every document."""
    with context.reading() as unit:
        documents = [d for kind in KINDS for d in unit.documents.of_kind(kind)]
        revisions = [packed(r) for document in documents for r in unit.documents.revisions(document)]
        pictures = tuple(
            PackedIllustration(
                id=i.id, title=i.title, data=base64.b64encode(unit.illustrations.data(i.id)).decode()
            )
            for i in sorted(unit.illustrations.all(), key=lambda i: i.id)
        )
        return LibraryPack(
            catalogue=unit.catalogues.get(),
            revisions=sort_revisions(revisions),
            illustrations=pictures,
        )


def packed(revision: Revision) -> tuple[PackedRevision, Content]:
    """A revision as a pack holds it; one on trial here is in review wherever it goes."""
    head = PackedRevision(
        document=revision.document,
        kind=revision.kind,
        letter=revision.letter,
        state="In review" if revision.state == "On trial" else revision.state,
        note=revision.note,
        released_at=revision.released_at,
    )
    return head, revision.content
