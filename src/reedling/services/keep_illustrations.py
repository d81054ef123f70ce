"""Take in pictures, still or moving, that instructions show; each is known by the hash of its bytes."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime

from reedling.core.guidance.documents import Illustration
from reedling.core.people import Person
from reedling.errors import InvalidInput, NotFound
from reedling.services.context import Context
from reedling.services.keep_pictures import inspect_picture
from reedling.store.pictures import hash_of

STILL_OR_MOVING: Mapping[str, str] = {
    "PNG": "image/png",
    "JPEG": "image/jpeg",
    "WEBP": "image/webp",
    "GIF": "image/gif",
}
MOST_FRAMES = 600


def keep_illustration(context: Context, person: Person | None, title: str, data: bytes) -> Illustration:
    """Keep an illustration; the same bytes again are the same illustration.

    Raises
    ------
    InvalidInput
        ``pictures.too_large`` or ``pictures.unreadable`` when it is not a picture that fits;
        ``pictures.frames`` when it moves for too long.
    """
    made = describe_illustration(data, title=title, at=context.clock(), person=person.id if person else None)
    with context.store.writing() as unit:
        held = unit.illustrations.get(made.id)
        if held is not None:
            return held
        unit.illustrations.add(made, data)
        return made


def describe_illustration(data: bytes, *, title: str, at: datetime, person: str | None) -> Illustration:
    """What a picture's bytes turn out to be; refused as :func:`keep_illustration` says."""
    found = inspect_picture(data, STILL_OR_MOVING)
    if found.n_frames > MOST_FRAMES:
        raise InvalidInput(
            "pictures.frames",
            f"a moving picture may have {MOST_FRAMES} frames, this has {found.n_frames}.",
            where="Picture",
            hint="Cut it to the part that shows what to do.",
        )
    return Illustration(
        id=hash_of(data),
        title=title.strip()[:120] or "Picture",
        media_type=found.media_type,
        width=found.width,
        height=found.height,
        n_frames=found.n_frames,
        added_at=at,
        person=person,
    )


def illustrations(context: Context) -> tuple[Illustration, ...]:
    """Every illustration, newest first."""
    with context.store.reading() as unit:
        return unit.illustrations.all()


def illustration_data(context: Context, illustration_id: str) -> tuple[Illustration, bytes]:
    """An illustration with its bytes."""
    with context.store.reading() as unit:
        found = unit.illustrations.get(illustration_id)
        if found is None:
            raise NotFound("pictures.unknown", f"there is no picture {illustration_id}.")
        return found, unit.illustrations.data(illustration_id)
