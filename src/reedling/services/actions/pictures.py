"""Take in a picture from the field, whole or piece by piece."""

from __future__ import annotations

from dataclasses import replace

from reedling.core.guidance.questions import Photo, Signature
from reedling.core.orders.photo_looks import same_photo
from reedling.core.orders.receipts import Picture, Upload, next_piece
from reedling.core.people import Person
from reedling.core.runsheet.events import Answered
from reedling.core.runsheet.job import replay
from reedling.core.runsheet.job_runs import job_run
from reedling.core.runsheet.progress import laid_question
from reedling.errors import Conflict, InvalidInput, ReedlingError
from reedling.services.context import Context
from reedling.services.shared.inspecting import MAX_PICTURE_BYTES, inspect_picture, look_of, without_place
from reedling.services.shared.needed import need_field_order
from reedling.store.pictures import hash_of

MEDIA_TYPES = {"PNG": "image/png", "JPEG": "image/jpeg", "WEBP": "image/webp"}
MAX_PIECE_BYTES = 1_000_000
"""Bytes of one piece of a picture."""


def begin_picture(
    context: Context,
    person: Person,
    order_id: str,
    picture_id: str,
    *,
    size: int,
    sha256: str,
    question: str = "",
) -> Upload:
    """Announce a picture that comes in pieces; told again, how much of it is here.

    ``size`` is in bytes, ``sha256`` of the whole in hexadecimal.

    Raises
    ------
    InvalidInput
        ``pictures.too_large``.
    Conflict
        ``pictures.reused`` when the identity was used for another picture.
    NotFound
        ``orders.unknown`` when the order never was this technician's.
    """
    if not 0 < size <= MAX_PICTURE_BYTES:
        raise InvalidInput(
            "pictures.too_large",
            f"a picture may have {MAX_PICTURE_BYTES // 1_000_000} MB, this has {size / 1e6:.1f} MB.",
            where="Picture",
            hint="Take it at a lower resolution.",
        )
    wanted = Upload(
        picture=picture_id, order=order_id, person=person.id, question=question, size=size, sha256=sha256
    )
    with context.writing() as unit:
        need_field_order(unit, order_id, person)
        kept = unit.pictures.get(picture_id)
        if kept is not None and (kept.order, kept.person) == (order_id, person.id):
            return replace(wanted, have=size, is_kept=True)
        held = unit.uploads.get(picture_id)
        if kept is not None or (held is not None and replace(held, have=0) != wanted):
            raise Conflict("pictures.reused", "this identity was used for another picture.", where=picture_id)
        if held is None:
            unit.uploads.begin(wanted, context.clock())
        return held or wanted


def add_piece(
    context: Context, person: Person, picture_id: str, *, at: int, piece: bytes, sha256: str
) -> Upload:
    """Add the piece of a picture that begins at byte ``at``; with the last one the picture is kept.

    A piece that is here already, or is not the next, changes nothing: what is here is told, and the device
    goes on from there. ``sha256`` is of the piece.

    Raises
    ------
    Conflict
        ``pictures.damaged`` when a piece or the whole is not what its hash says; ``pictures.unknown_upload``
        when the picture was not announced by this person.
    InvalidInput
        ``pictures.unreadable`` when what came is no picture; its bytes are forgotten.
    """
    if hash_of(piece) != sha256 or len(piece) > MAX_PIECE_BYTES:
        raise Conflict(
            "pictures.damaged",
            "a piece of the picture came in damaged.",
            where=picture_id,
            hint="Send it again.",
        )
    with context.writing() as unit:
        upload = unit.uploads.get(picture_id)
        kept = unit.pictures.get(picture_id)
        if upload is None and kept is not None and kept.person == person.id:
            return Upload(
                picture=picture_id,
                order=kept.order,
                person=person.id,
                question="",
                size=at + len(piece),
                sha256=kept.sha256,
                have=at + len(piece),
                is_kept=True,
            )
        if upload is None or upload.person != person.id:
            raise Conflict(
                "pictures.unknown_upload",
                "this picture was not announced.",
                where=picture_id,
                hint="Announce it, then send its pieces.",
            )
        if not next_piece(upload, at, piece):
            return upload
        upload = unit.uploads.add_piece(upload, piece)
        if not upload.is_here:
            return upload
        data = unit.uploads.data(upload)
    refusal: ReedlingError | None = None
    if hash_of(data) != upload.sha256:
        refusal = Conflict(
            "pictures.damaged",
            "the picture came in damaged.",
            where=picture_id,
            hint="Send it again from the start.",
        )
    else:
        try:
            keep_picture(context, person, upload.order, picture_id, data, question=upload.question)
        except (Conflict, InvalidInput) as error:
            refusal = error
    with context.writing() as unit:
        unit.uploads.end(upload)
    if refusal is not None:
        raise refusal
    return replace(upload, is_kept=True)


def keep_picture(
    context: Context, person: Person, order_id: str, picture_id: str, data: bytes, *, question: str = ""
) -> Picture:
    """Keep a picture for an order under an identity from the device; a repeat changes nothing.

    The place where it was taken is taken out of it, unless the photo question it answers asks for it.
    """
    found = inspect_picture(data, MEDIA_TYPES)
    with context.reading() as unit:
        order = need_field_order(unit, order_id, person)
        events = unit.recorded.events(order_id)
        found_line = laid_question(job_run(order.runsheet, replay(order.runsheet, events)), question)
    # A photo that was taken again is no second one.
    retaken = {picture_id, *(e.value for e in events if isinstance(e, Answered) and e.question == question)}
    asked = found_line[1] if found_line else None
    if not (isinstance(asked, Photo) and asked.keep_place):
        data = without_place(data)
    look = None if isinstance(asked, Signature) else look_of(data)
    with context.writing() as unit:
        others = {
            one.id: one.look.fingerprint
            for one in unit.pictures.of_order(order_id)
            if one.look is not None and one.id not in retaken
        }
        picture = Picture(
            id=picture_id,
            sha256=hash_of(data),
            media_type=found.media_type,
            width=found.width,
            height=found.height,
            taken_at=context.clock(),
            person=person.id,
            order=order_id,
            look=look,
            same_as=(look and same_photo(look, others)) or "",
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
