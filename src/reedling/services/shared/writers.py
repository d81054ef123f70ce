"""Whose unreleased work a revision holds."""

from __future__ import annotations

from reedling.core.guidance.documents import OPEN_REVISION_STATES, Revision
from reedling.store.unit import Unit


def writers_of(unit: Unit, revision: Revision) -> frozenset[str]:
    """Everybody whose unreleased work a revision holds: who wrote in it, sent it, or had theirs copied into it.

    What was released was seen by four eyes, and is nobody's any more.
    """
    if revision.state not in OPEN_REVISION_STATES:
        return frozenset()
    edits = unit.documents.edits(revision.document, revision.letter)
    sent = {revision.sent_by} if revision.sent_by else set()
    return (
        frozenset(e.person for e in edits)
        | sent
        | unit.documents.rests_on(revision.document, revision.letter)
    )
