"""Author: revisions on their way from draft to release, and what is said of them."""

from __future__ import annotations

from datetime import date

from pydantic import BaseModel, Field

from reedling.api.access import Approver, Ctx, OfficePerson, Writer
from reedling.api.guarded import guarded_router
from reedling.api.shapes import Identity, ReviewNote
from reedling.services.actions import comments as comments_actions
from reedling.services.actions import documents as documents_actions
from reedling.services.actions import releases as releases_actions
from reedling.services.views import history as history_views
from reedling.services.views import releases as releases_views

router = guarded_router("/api/v1", "revisions")


class ReleaseRequest(BaseModel):
    """When a release takes effect; now, without a day."""

    effective_on: date | None = None


class NewComment(BaseModel):
    """Words about a step, a question, or (without a place) the whole document."""

    place: str = Field(default="", max_length=200)
    text: str = Field(max_length=4000)


class Settle(BaseModel):
    """Whether a comment is settled."""

    settled: bool


class Moved(BaseModel):
    """The documents that moved on together."""

    documents: list[str]


@router.post("/documents/{document}/send")
def send(document: str, body: ReviewNote, person: Writer, context: Ctx) -> Moved:
    """Send every draft that goes with the document for review."""
    return Moved(documents=list(releases_actions.send_for_review(context, person, document, body.note)))


@router.post("/documents/{document}/give-back")
def give_back(document: str, body: ReviewNote, person: Approver, context: Ctx) -> Moved:
    """Return what is in review, with a reason."""
    return Moved(documents=list(releases_actions.give_back(context, person, document, body.note)))


@router.post("/documents/{document}/release")
def release(document: str, body: ReleaseRequest, person: Approver, context: Ctx) -> Moved:
    """Release what is in review, now or for a day to come."""
    return Moved(documents=list(releases_actions.release(context, person, document, body.effective_on)))


@router.get("/documents/{document}/effect")
def effect(document: str, _person: OfficePerson, context: Ctx) -> releases_views.ReleaseEffect:
    """What releasing the drafts that go with the document would touch."""
    return releases_views.effect_of_release(context, document)


@router.post("/documents/{document}/withdraw", status_code=204)
def withdraw(document: str, body: ReviewNote, person: Approver, context: Ctx) -> None:
    """Take what is in force out of use, with a reason."""
    releases_actions.withdraw(context, person, document, body.note)


@router.post("/documents/{document}/copy", status_code=201)
def copy(document: str, person: Writer, context: Ctx) -> Identity:
    """A new document that starts from this one."""
    return Identity(id=documents_actions.copy_document(context, person, document))


@router.get("/documents/{document}/acts")
def acts(document: str, _person: OfficePerson, context: Ctx) -> list[history_views.ActLine]:
    """What was done to the revisions as wholes, newest first."""
    return list(history_views.acts(context, document))


@router.get("/documents/{document}/comments")
def comments(document: str, _person: OfficePerson, context: Ctx) -> list[history_views.CommentLine]:
    """Comments on places of the document, oldest first."""
    return list(history_views.comments(context, document))


@router.post("/documents/{document}/comments", status_code=201)
def comment(document: str, body: NewComment, person: Writer, context: Ctx) -> Identity:
    """Say something about a place of the document."""
    return Identity(id=comments_actions.comment(context, person, document, body.place, body.text))


@router.post("/comments/{comment_id}/settle", status_code=204)
def settle(comment_id: str, body: Settle, person: Writer, context: Ctx) -> None:
    """Mark a comment as settled, or open again."""
    comments_actions.settle(context, person, comment_id, settled=body.settled)
