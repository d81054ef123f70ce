"""Take in a picture from the field."""

from __future__ import annotations

from reedling.core.guidance.questions import Photo
from reedling.core.orders.receipts import Picture
from reedling.core.people import Person
from reedling.core.runsheet.job import job_run, replay
from reedling.core.runsheet.progress import laid_question
from reedling.errors import Conflict, NotFound
from reedling.services.context import Context
from reedling.services.shared.inspecting import inspect_picture, without_place
from reedling.services.shared.needed import need_order
from reedling.store.pictures import hash_of

MEDIA_TYPES = {"PNG": "image/png", "JPEG": "image/jpeg", "WEBP": "image/webp"}


def keep_picture(
    context: Context, person: Person, order_id: str, picture_id: str, data: bytes, *, question: str = ""
) -> Picture:
    """Keep a picture for an order under an identity from the device; a repeat changes nothing.

    The place where it was taken is taken out of it, unless the photo question it answers asks for it.
    """
    found = inspect_picture(data, MEDIA_TYPES)
    with context.reading() as unit:
        order = need_order(unit, order_id)
        if order.technician != person.id:
            raise NotFound("orders.unknown", f"there is no order {order_id} for you.")
        found_line = laid_question(
            job_run(order.runsheet, replay(order.runsheet, unit.orders.events(order_id))), question
        )
    asked = found_line[1] if found_line else None
    if not (isinstance(asked, Photo) and asked.keep_place):
        data = without_place(data)
    with context.writing() as unit:
        picture = Picture(
            id=picture_id,
            sha256=hash_of(data),
            media_type=found.media_type,
            width=found.width,
            height=found.height,
            taken_at=context.clock(),
            person=person.id,
            order=order_id,
        )
        held = unit.pictures.get(picture_id)
        if held is not None:
            if (held.sha256, held.order) != (picture.sha256, order_id):
                raise Conflict(
                    "pictures.reused", "this identity was used for another picture.", where=picture_id
                )
            return held
        unit.pictures.add(picture, data)
        return picture
