"""Comment on a place of a document, and settle comments."""

from __future__ import annotations

from reedling.core.guidance.documents import Comment
from reedling.core.people import Person
from reedling.errors import InvalidInput, NotFound
from reedling.services.context import Context
from reedling.services.shared.current import current_revision
from reedling.services.views.history import about_place


def comment(context: Context, person: Person, document: str, place: str, text: str) -> str:
    """Say something about a step or question of a document, or about the whole; the comment's identity."""
    if not text.strip():
        raise InvalidInput("comments.empty", "there are no words in it.", where="Comment")
    with context.writing() as unit:
        revision = current_revision(unit, document)
        if place and not about_place(revision, place):
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
    with context.writing() as unit:
        if unit.comments.get(comment_id) is None:
            raise NotFound("comments.unknown", f"there is no comment {comment_id}.")
        unit.comments.settle(comment_id, person.id if settled else None, context.clock() if settled else None)
