"""Comments on places of a document, and the history of what was done to its revisions."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from reedling.core.guidance.documents import Act, Comment, Revision
from reedling.core.guidance.plans import Plan
from reedling.core.people import Person
from reedling.errors import InvalidInput, NotFound
from reedling.services.context import Context
from reedling.services.current import current_revision


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
    with context.store.reading() as unit:
        revision = current_revision(unit, document)
        names = unit.people.names()
        return tuple(
            CommentLine(
                id=c.id,
                letter=c.letter,
                place=c.place,
                about=_about(revision, c.place),
                text=c.text,
                at=c.at,
                by=names.get(c.person, c.person),
                settled_at=c.settled_at,
                settled_by=names.get(c.settled_by or "", ""),
            )
            for c in unit.comments.of(document)
        )


def comment(context: Context, person: Person, document: str, place: str, text: str) -> str:
    """Say something about a step or question of a document, or about the whole; the comment's identity."""
    if not text.strip():
        raise InvalidInput("comments.empty", "there are no words in it.", where="Comment")
    with context.store.writing() as unit:
        revision = current_revision(unit, document)
        if place and not _about(revision, place):
            raise NotFound("comments.place", f"there is no {place} in {document}.", where="Comment")
        made = Comment(
            id=context.new_id(),
            document=document,
            letter=revision.letter,
            place=place,
            text=text.strip(),
            at=context.clock(),
            person=person.id,
        )
        unit.comments.add(made)
        return made.id


def settle(context: Context, person: Person, comment_id: str, *, settled: bool) -> None:
    """Mark a comment as settled, or as open again."""
    with context.store.writing() as unit:
        if unit.comments.get(comment_id) is None:
            raise NotFound("comments.unknown", f"there is no comment {comment_id}.")
        unit.comments.settle(comment_id, person.id if settled else None, context.clock() if settled else None)


def acts(context: Context, document: str) -> tuple[ActLine, ...]:
    """What was done to the revisions of a document as wholes, newest first."""
    with context.store.reading() as unit:
        names = unit.people.names()
        return tuple(
            ActLine(letter=a.letter, at=a.at, by=names.get(a.person, a.person), act=a.act, note=a.note)
            for a in reversed(unit.documents.acts(document))
        )


def _about(revision: Revision, place: str) -> str:
    """The place in words; empty when it is gone, or for the whole."""
    content = revision.content
    if isinstance(content, Plan):
        for step in content.steps:
            if step.id == place:
                return f"“{step.text}”"
            for q in step.proofs:
                if q.id == place:
                    return f"“{q.label}” of “{step.text}”"
    return ""
