"""Take in a picture for instructions."""

from __future__ import annotations

from reedling.core.guidance.documents import Illustration
from reedling.core.people import Person
from reedling.services.context import Context
from reedling.services.shared.inspecting import describe_illustration


def keep_illustration(context: Context, person: Person | None, title: str, data: bytes) -> Illustration:
    """Keep an illustration; the same bytes again are the same illustration.

    Raises
    ------
    InvalidInput
        ``pictures.too_large`` or ``pictures.unreadable`` when it is not a picture that fits;
        ``pictures.frames`` when it moves for too long.
    """
    made = describe_illustration(data, title=title, at=context.clock(), person=person.id if person else None)
    with context.writing() as unit:
        held = unit.illustrations.get(made.id)
        if held is not None:
            return held
        unit.illustrations.add(made, data)
        return made
