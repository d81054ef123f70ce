"""Pocket: what the technician's phone asks for and sends."""

from __future__ import annotations

from uuid import UUID

from fastapi import Response, UploadFile
from pydantic import AwareDatetime, BaseModel, Field

from reedling.api.access import Anyone, Ctx, Technician
from reedling.api.guarded import DOCUMENT_BODY, PICTURE_BODY, guarded_router
from reedling.core.guidance.catalogue import Cause, Part, Remedy
from reedling.core.orders.receipts import Picture, Receipt
from reedling.core.runsheet.events import FieldEvent
from reedling.services.actions import pictures as pictures_actions
from reedling.services.actions.submissions import MAX_EVENTS, submit_events
from reedling.services.shared.inspecting import MAX_PICTURE_BYTES
from reedling.services.views import lists as lists_views
from reedling.services.views import orders as orders_views
from reedling.services.views import pictures as pictures_views
from reedling.services.views.orders import OrderLine, OrderPage

router = guarded_router("/api/v1", "pocket")


class Submission(BaseModel):
    """Events from a device, under an identity the device gave them."""

    id: UUID
    person: str | None = None
    """Who recorded it; one who is signed in on the same device by now does not send it as theirs."""
    sent_at: AwareDatetime | None = None
    events: list[FieldEvent] = Field(max_length=MAX_EVENTS)


class PocketLists(BaseModel):
    """What a technician chooses from."""

    parts: list[Part]
    causes: list[Cause]
    remedies: list[Remedy]


@router.get("/pocket/orders")
def own_orders(person: Technician, context: Ctx) -> list[OrderLine]:
    """The technician's orders, by the time planned."""
    return list(orders_views.own_orders(context, person))


@router.get("/pocket/lists")
def lists(_person: Technician, context: Ctx) -> PocketLists:
    """Parts, causes and remedies to choose from."""
    found = lists_views.catalogue(context)
    return PocketLists(parts=list(found.parts), causes=list(found.causes), remedies=list(found.remedies))


@router.get("/pocket/orders/{order_id}")
def own_order(order_id: str, person: Technician, context: Ctx) -> OrderPage:
    """One of the technician's orders, in full."""
    return orders_views.order_page(context, order_id, only_for=person)


@router.post("/pocket/orders/{order_id}/submissions", max_body_size=DOCUMENT_BODY)
def submit(order_id: str, body: Submission, person: Technician, context: Ctx) -> Receipt:
    """Apply what the device recorded, once; a repeat is answered with the first receipt."""
    return submit_events(
        context,
        person,
        order_id,
        str(body.id),
        body.events,
        recorded_by=body.person,
        sent_at=body.sent_at,
    )


@router.post("/pocket/orders/{order_id}/pictures/{picture_id}", max_body_size=PICTURE_BODY)
def keep_picture(
    order_id: str,
    picture_id: UUID,
    file: UploadFile,
    person: Technician,
    context: Ctx,
    question: str = "",
) -> Picture:
    """Keep a picture; a repeat changes nothing. Where it was taken is kept only if its question says so."""
    data = file.file.read(MAX_PICTURE_BYTES + 1)
    return pictures_actions.keep_picture(context, person, order_id, str(picture_id), data, question=question)


@router.get(
    "/pictures/{picture_id}",
    response_class=Response,
    responses={200: {"content": {"image/*": {"schema": {"type": "string", "format": "binary"}}}}},
)
def picture(picture_id: str, person: Anyone, context: Ctx) -> Response:
    """A picture's file."""
    found, data = pictures_views.picture_data(context, person, picture_id)
    return Response(
        data, media_type=found.media_type, headers={"Cache-Control": "private, max-age=31536000, immutable"}
    )
