"""Author: what guidance is built from: documents that are shared, facts, units, pictures."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import Form, Response, UploadFile
from pydantic import BaseModel, Field

from reedling.api.access import Anyone, Ctx, OfficePerson, Writer
from reedling.api.guarded import PICTURE_BODY, guarded_router
from reedling.api.shapes import Identity
from reedling.core.guidance.documents import Illustration
from reedling.core.guidance.facts import Fact, job_facts, known_facts
from reedling.core.guidance.questions import Option
from reedling.core.logic.conditions import Comparison
from reedling.core.logic.units import MENU
from reedling.services.actions import documents as documents_actions
from reedling.services.actions import illustrations as illustrations_actions
from reedling.services.shared.inspecting import MAX_PICTURE_BYTES
from reedling.services.views import lists as lists_views
from reedling.services.views import pictures as pictures_views
from reedling.services.views import shelf as shelf_views

router = guarded_router("/api/v1", "library")


class FactChoice(BaseModel):
    """A fact as menus offer it; ``first`` is the comparison that a condition on it begins with."""

    name: str
    label: str
    number: bool
    unit: str
    options: list[Option]
    writable: bool
    first: Comparison


class NewDocument(BaseModel):
    """A document to begin."""

    kind: Literal["plan", "form", "standard step", "decision table"]
    title: str = Field(max_length=200)


@router.get("/documents")
def shared_documents(_person: OfficePerson, context: Ctx) -> list[shelf_views.SharedRow]:
    """Every plan, form and standard step, with how many documents use it."""
    return list(shelf_views.shared_documents(context))


@router.post("/documents", status_code=201)
def create_document(body: NewDocument, person: Writer, context: Ctx) -> Identity:
    """Begin a form, a standard step or a plan."""
    return Identity(id=documents_actions.create_document(context, person, body.kind, body.title))


@router.get("/facts")
def facts(_person: OfficePerson, context: Ctx) -> list[FactChoice]:
    """What is known of an order beforehand, as menus offer it."""
    return [_choice(fact) for fact in known_facts(lists_views.catalogue(context))]


@router.get("/job-facts")
def facts_of_jobs(_person: OfficePerson, context: Ctx) -> list[FactChoice]:
    """What finish rules may ask of the job itself, as menus offer it."""
    return [_choice(fact) for fact in job_facts(lists_views.catalogue(context))]


def _choice(fact: Fact) -> FactChoice:
    return FactChoice(
        name=fact.name,
        label=fact.label,
        number=fact.number,
        unit=fact.unit,
        options=list(fact.options),
        writable=fact.writable,
        first=fact.first,
    )


@router.get("/units")
def units(_person: OfficePerson) -> list[list[str]]:
    """The units menus offer, those of one dimension together."""
    return [list(group) for group in MENU]


@router.get("/illustrations")
def illustrations(_person: OfficePerson, context: Ctx) -> list[Illustration]:
    """Every picture that instructions may show, newest first."""
    return list(pictures_views.illustrations(context))


@router.post("/illustrations", status_code=201, max_body_size=PICTURE_BODY)
def keep_illustration(
    file: UploadFile, person: Writer, context: Ctx, title: Annotated[str, Form(max_length=200)] = ""
) -> Illustration:
    """Keep a picture, still or moving; the same bytes again are the same picture."""
    data = file.file.read(MAX_PICTURE_BYTES + 1)
    return illustrations_actions.keep_illustration(context, person, title or file.filename or "", data)


@router.get(
    "/illustrations/{illustration}",
    response_class=Response,
    responses={200: {"content": {"image/*": {"schema": {"type": "string", "format": "binary"}}}}},
)
def illustration(illustration: str, _person: Anyone, context: Ctx) -> Response:
    """An illustration's file."""
    found, data = pictures_views.illustration_data(context, illustration)
    return Response(
        data, media_type=found.media_type, headers={"Cache-Control": "private, max-age=31536000, immutable"}
    )
