"""Author: incident types, drafts, preview, release."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from fastapi import Query, Response
from pydantic import BaseModel, Field

from reedling.api.access import Ctx, OfficePerson, Writer
from reedling.api.guarded import DOCUMENT_BODY, guarded_router
from reedling.api.shapes import TAGGED, Begin, Identity, IfMatch
from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.editing import PlanEdit
from reedling.core.guidance.question_editing import TextPlace
from reedling.core.logic.conditions import Answer
from reedling.core.runsheet.run_view import RunView
from reedling.errors import InvalidInput
from reedling.services.actions import documents as documents_actions
from reedling.services.actions import drafts as drafts_actions
from reedling.services.actions.drafts import SavedEdit
from reedling.services.views import comparisons as comparisons_views
from reedling.services.views import documents as documents_views
from reedling.services.views import history as history_views
from reedling.services.views import lists as lists_views
from reedling.services.views import shelf as shelf_views
from reedling.services.views.documents import PlanView
from reedling.services.views.previews import preview, preview_tours, witness_answers

router = guarded_router("/api/v1", "author")


class NewIncidentType(BaseModel):
    """An incident type to begin."""

    title: str = Field(max_length=200)
    equipment: str | None = None


class PatchOperation(BaseModel):
    """One operation of a JSON Patch (RFC 6902)."""

    op: Literal["add", "remove", "replace", "move", "copy", "test"]
    path: str
    value: Any = None
    from_: str | None = Field(default=None, alias="from")


class EditRequest(BaseModel):
    """A structural edit of a plan."""

    edit: PlanEdit


class PlanToUse(BaseModel):
    """A plan that is there, or the title of a new one."""

    plan: str | None = None
    title: str = Field(default="", max_length=200)


class PreviewRequest(BaseModel):
    """Plans to run, with the answers given so far and the lines marked done."""

    documents: list[str]
    answers: dict[str, Answer] = {}
    done: list[str] = []
    reasons: dict[str, str] = {}
    asset: str | None = None


class WitnessRequest(BaseModel):
    """The answers of a defect, by the questions of the document."""

    document: str
    witness: dict[str, Answer]


class TourRequest(BaseModel):
    """Plans to walk, for an asset or for none."""

    documents: list[str]
    asset: str | None = None


class EditEntry(BaseModel):
    """One line of a draft's history."""

    version: int
    at: datetime
    person: str
    summary: str


@router.get("/lists")
def catalogue(_person: OfficePerson, context: Ctx) -> Catalogue:
    """The lists that guidance refers to by code."""
    return lists_views.catalogue(context)


@router.get("/incident-types")
def shelf(_person: OfficePerson, context: Ctx) -> list[shelf_views.ShelfRow]:
    """Every incident type, grouped by equipment."""
    return list(shelf_views.shelf(context))


@router.post("/incident-types", status_code=201)
def create(new: NewIncidentType, person: Writer, context: Ctx) -> Identity:
    """Begin an incident type with an empty work plan."""
    return Identity(id=documents_actions.create_incident_type(context, person, new.title, new.equipment))


@router.get("/incident-types/{document}")
def page(document: str, _person: OfficePerson, context: Ctx) -> shelf_views.IncidentTypePage:
    """The page of an incident type."""
    return shelf_views.incident_type_page(context, document)


@router.post("/incident-types/{document}/plans", status_code=201)
def add_plan(document: str, body: PlanToUse, person: Writer, context: Ctx) -> Identity:
    """Let the incident type use one more plan; gives the plan."""
    return Identity(id=documents_actions.add_plan(context, person, document, body.plan, body.title))


@router.get("/documents/{document}/text-places")
def find_words(
    document: str,
    _person: OfficePerson,
    context: Ctx,
    words: Annotated[str, Query(max_length=200)],
    match_case: bool = False,
) -> list[TextPlace]:
    """Where the document has these words."""
    return list(documents_views.find_in_document(context, document, words, match_case))


@router.get("/documents/{document}/plan", responses=TAGGED)
def plan(document: str, response: Response, _person: OfficePerson, context: Ctx) -> PlanView:
    """A plan, form or standard step at the revision to work on, with its etag."""
    view = documents_views.plan_document(context, document)
    response.headers["ETag"] = view.etag
    return view


@router.post("/documents/{document}/draft", status_code=201)
def begin_draft(document: str, person: Writer, context: Ctx, or_open: bool = False) -> Identity:
    """Begin the next revision; gives its letter. With ``or_open`` that of the one that is open, if one is."""
    return Identity(id=documents_actions.begin_draft(context, person, document, or_open=or_open))


@router.patch("/documents/{document}/draft", max_body_size=DOCUMENT_BODY)
def patch_draft(
    document: str,
    patch: list[PatchOperation],
    if_match: IfMatch,
    person: Writer,
    context: Ctx,
    begin: Begin = False,
) -> SavedEdit:
    """Apply a JSON Patch to the draft read under this etag."""
    operations = []
    for operation in patch:
        data = operation.model_dump(by_alias=True, exclude_unset=True)
        if operation.op in ("add", "replace", "test") and "value" not in data:
            raise InvalidInput("drafts.patch", f"{operation.op} needs a value.", where=operation.path)
        operations.append(data)
    return drafts_actions.patch_draft(context, person, document, operations, if_match, begin=begin)


@router.post("/documents/{document}/edits", max_body_size=DOCUMENT_BODY)
def edit_draft(
    document: str,
    body: EditRequest,
    if_match: IfMatch,
    person: Writer,
    context: Ctx,
    begin: Begin = False,
) -> SavedEdit:
    """Make a structural edit to the plan's draft read under this etag."""
    return drafts_actions.edit_draft(context, person, document, body.edit, if_match, begin=begin)


@router.delete("/documents/{document}/draft", status_code=204)
def discard_draft(document: str, if_match: IfMatch, person: Writer, context: Ctx) -> None:
    """Throw the draft away."""
    drafts_actions.discard_draft(context, person, document, if_match)


@router.get("/documents/{document}/revisions/{letter}/edits")
def history(document: str, letter: str, _person: OfficePerson, context: Ctx) -> list[EditEntry]:
    """Who changed what in a revision, newest first."""
    found = history_views.draft_history(context, document, letter)
    return [EditEntry(version=e.version, at=e.at, person=name, summary=e.summary) for e, name in found]


@router.get("/documents/{document}/compare")
def compare(
    document: str, _person: OfficePerson, context: Ctx, older: str = "", newer: str = ""
) -> comparisons_views.RevisionComparison:
    """What changed between two revisions, in words; between the last two unless others are named."""
    return comparisons_views.compare_revisions(context, document, older, newer)


@router.post("/previews", max_body_size=DOCUMENT_BODY)
def preview_plans(body: PreviewRequest, _person: OfficePerson, context: Ctx) -> RunView:
    """Run drafts as a technician would meet them; nothing is recorded."""
    return preview(context, body.documents, body.answers, body.done, reasons=body.reasons, asset=body.asset)


@router.post("/previews/witness-answers")
def witness(body: WitnessRequest, _person: OfficePerson, context: Ctx) -> dict[str, Answer]:
    """The answers that show a defect, as the preview asks for them."""
    return witness_answers(context, body.document, body.witness)


@router.post("/previews/tours")
def tours(body: TourRequest, _person: OfficePerson, context: Ctx) -> list[dict[str, Answer]]:
    """Answers that fill in the preview: runs that between them meet every step."""
    return list(preview_tours(context, body.documents, body.asset))
