"""Pictures from the field and illustrations of instructions, for those who may see them."""

from __future__ import annotations

from reedling.core.guidance.documents import Illustration
from reedling.core.orders.receipts import Picture
from reedling.core.people import Person
from reedling.errors import NotFound
from reedling.services.context import Context
from reedling.services.shared.needed import need_order


def picture_data(context: Context, person: Person, picture_id: str) -> tuple[Picture, bytes]:
    """A picture with its bytes; a technician sees those of their own orders."""
    with context.reading() as unit:
        picture = unit.pictures.get(picture_id)
        if picture is None:
            raise NotFound("pictures.unknown", f"there is no picture {picture_id}.")
        if person.role == "technician" and need_order(unit, picture.order).technician != person.id:
            raise NotFound("pictures.unknown", f"there is no picture {picture_id}.")
        return picture, unit.pictures.data(picture)


def illustrations(context: Context) -> tuple[Illustration, ...]:
    """Every illustration, newest first."""
    with context.reading() as unit:
        return unit.illustrations.all()


def illustration_data(context: Context, illustration_id: str) -> tuple[Illustration, bytes]:
    """An illustration with its bytes."""
    with context.reading() as unit:
        found = unit.illustrations.get(illustration_id)
        if found is None:
            raise NotFound("pictures.unknown", f"there is no picture {illustration_id}.")
        return found, unit.illustrations.data(illustration_id)
