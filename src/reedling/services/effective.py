"""Revisions approved for a day to come take effect when that day begins (UTC)."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, datetime

from reedling.core.guidance.documents import Act, Revision, RevisionAct
from reedling.core.guidance.revisions import move_revision
from reedling.store.unit import Store, Unit


def bring_into_force(store: Store, now: datetime) -> tuple[str, ...]:
    """Put in force what was approved for a day that has come; gives the documents.

    Looked for once a day: what is approved for today is put in force at once.
    """
    today = now.date()
    if store.kept.brought_into_force_on == today:
        return ()
    with store.reading() as unit:
        due = _due(unit, today)
    if due:
        with store.writing() as unit:
            due = _due(unit, today)
            for revision in due:
                put_in_force(unit, revision, now)
                assert revision.released_by is not None
                note_act(unit, revision, revision.released_by, now, "took effect", "")
    store.kept.brought_into_force_on = today
    return tuple(r.document for r in due)


def put_in_force(unit: Unit, revision: Revision, now: datetime) -> None:
    """Release a revision; the one before it is superseded."""
    older = unit.documents.released(revision.document)
    if older is not None:
        unit.documents.save(
            replace(older, state=move_revision(older.state, "supersede", where=older.document))
        )
    state = move_revision(revision.state, "release", where=revision.document)
    unit.documents.save(replace(revision, state=state, released_at=now))


def note_act(unit: Unit, revision: Revision, person: str, now: datetime, act: Act, note: str) -> None:
    """Keep what somebody did to a revision as a whole."""
    unit.documents.add_act(
        revision.document, RevisionAct(letter=revision.letter, at=now, person=person, act=act, note=note)
    )


def _due(unit: Unit, today: date) -> list[Revision]:
    if not unit.documents.n_in_state("In review"):
        return []
    return [
        r
        for r in unit.documents.in_state("In review")
        if r.released_by is not None and r.effective_on is not None and r.effective_on <= today
    ]
