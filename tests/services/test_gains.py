"""What released changes did, and the way back to what was before."""

from __future__ import annotations

import pytest

from reedling.errors import Conflict, NotFound
from reedling.services.actions.drafts import draft_return
from reedling.services.context import Context
from reedling.services.views.desk import desk
from reedling.services.views.gains import changes_done
from tests.conftest import INES, FakeClock


def test_a_released_change_is_told_with_what_it_did(played: tuple[Context, FakeClock]) -> None:
    context, _ = played
    done = changes_done(context)
    change = next(c for c in done.changes if c.document == "WP-001")
    assert (change.older, change.newer, change.incident_type) == ("A", "B", "IT-001")
    assert change.gain.sentence.startswith("A → B: ")
    assert change.returns_to is None or change.gain.verdict == "made it worse"
    assert done.being_refined == ()
    assert (done.year is None) == all(c.gain.change is None for c in done.changes)
    on_desk = {t.document: t.last_change for t in desk(context, INES).incident_types}
    assert on_desk["IT-001"] == change.gain.sentence
    assert on_desk["IT-002"] == "", "nothing of it was changed yet"


def test_a_return_is_drafted_as_the_next_revision(played: tuple[Context, FakeClock]) -> None:
    context, _ = played
    with pytest.raises(NotFound):
        draft_return(context, INES, "WP-001", "Q")
    draft = draft_return(context, INES, "WP-001", "A")
    assert (draft.letter, draft.state) == ("C", "Draft")
    with context.reading() as unit:
        earlier = unit.documents.revision("WP-001", "A")
        held = unit.documents.open_revision("WP-001")
        assert earlier is not None
        assert held is not None
        assert held.content == earlier.content
        assert unit.documents.edits("WP-001", "C")
    assert [(b.document, b.letter, b.in_force) for b in changes_done(context).being_refined] == [
        ("WP-001", "C", "B")
    ]
    with pytest.raises(Conflict):
        draft_return(context, INES, "WP-001", "A")
