"""What was done to a document, edit by edit, and what people said about it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from reedling.core.guidance.documents import Act, Edit, Revision
from reedling.core.guidance.plans import Plan
from reedling.errors import NotFound
from reedling.services.context import Context
from reedling.services.shared.current import current_revision


def draft_history(context: Context, document: str, letter: str) -> tuple[tuple[Edit, str], ...]:
    """The edits of a revision with the names of who made them, newest first."""
    with context.reading() as unit:
        if unit.documents.revision(document, letter) is None:
            raise NotFound("revisions.unknown", f"{document} has no revision {letter}.")
        names = unit.people.names()
        edits = unit.documents.edits(document, letter)
        return tuple((e, names.get(e.person, e.person)) for e in reversed(edits))


@dataclass(frozen=True, slots=True, kw_only=True)
class CommentLine:
    """A comment with who wrote it and what it is about, in words."""

    id: str
    letter: str
    place: str
    about: str
    text: str
    at: datetime
    by: str
    settled_at: datetime | None
    settled_by: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ActLine:
    """One thing done to a revision as a whole, by whom."""

    letter: str
    at: datetime
    by: str
    act: Act
    note: str


def comments(context: Context, document: str) -> tuple[CommentLine, ...]:
    """All comments on a document, oldest first; a place that is gone is said to be."""
    with context.reading() as unit:
        revision = current_revision(unit, document)
        names = unit.people.names()
        return tuple(
            CommentLine(
                id=c.id,
                letter=c.letter,
                place=c.place,
                about=about_place(revision, c.place),
                text=c.text,
                at=c.at,
                by=names.get(c.person, c.person),
                settled_at=c.settled_at,
                settled_by=names.get(c.settled_by or "", ""),
            )
            for c in unit.comments.of(document)
        )


def acts(context: Context, document: str) -> tuple[ActLine, ...]:
    """What was done to the revisions of a document as wholes, newest first."""
    with context.reading() as unit:
        names = unit.people.names()
        return tuple(
            ActLine(letter=a.letter, at=a.at, by=names.get(a.person, a.person), act=a.act, note=a.note)
            for a in reversed(unit.documents.acts(document))
        )


def about_place(revision: Revision, place: str) -> str:
    """The place in words; empty when it is gone, or for the whole."""
    content = revision.content
    if isinstance(content, Plan):
        for step in content.steps:
            if step.id == place:
                return f"“{step.text}”"
            for q in step.questions:
                if q.id == place:
                    return f"“{q.label}” of “{step.text}”"
    return ""
