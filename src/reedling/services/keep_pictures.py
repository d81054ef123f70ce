"""Take in pictures from site: checked to be what they say, kept beside the database."""

from __future__ import annotations

import io
import warnings
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from PIL import ExifTags, Image, UnidentifiedImageError

from reedling.core.guidance.questions import Photo
from reedling.core.orders.receipts import Picture
from reedling.core.people import Person
from reedling.core.runsheet.job import job_run, replay
from reedling.core.runsheet.progress import laid_question
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.context import Context
from reedling.services.take_orders import need_order
from reedling.store.pictures import hash_of

MAX_PICTURE_BYTES = 12_000_000
MAX_PICTURE_SIDE = 8_000
MEDIA_TYPES = {"PNG": "image/png", "JPEG": "image/jpeg", "WEBP": "image/webp"}


def keep_picture(
    context: Context, person: Person, order_id: str, picture_id: str, data: bytes, *, question: str = ""
) -> Picture:
    """Keep a picture for an order under an identity from the device; a repeat changes nothing.

    The place where it was taken is taken out of it, unless the photo question it answers asks for it.
    """
    found = inspect_picture(data, MEDIA_TYPES)
    with context.store.reading() as unit:
        order = need_order(unit, order_id)
        if order.technician != person.id:
            raise NotFound("orders.unknown", f"there is no order {order_id} for you.")
        found_line = laid_question(
            job_run(order.runsheet, replay(order.runsheet, unit.orders.events(order_id))), question
        )
    asked = found_line[1] if found_line else None
    if not (isinstance(asked, Photo) and asked.keep_place):
        data = without_place(data)
    with context.store.writing() as unit:
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


def picture_data(context: Context, person: Person, picture_id: str) -> tuple[Picture, bytes]:
    """A picture with its bytes; a technician sees those of their own orders."""
    with context.store.reading() as unit:
        picture = unit.pictures.get(picture_id)
        if picture is None:
            raise NotFound("pictures.unknown", f"there is no picture {picture_id}.")
        if person.role == "technician" and need_order(unit, picture.order).technician != person.id:
            raise NotFound("pictures.unknown", f"there is no picture {picture_id}.")
        return picture, unit.pictures.data(picture)


_AS_TAKEN: Mapping[str, Mapping[str, Any]] = {"JPEG": {"quality": "keep"}, "WEBP": {"quality": 92}}
"""How a picture is written again, by what Pillow calls its kind."""


def without_place(data: bytes) -> bytes:
    """The picture without the place where it was taken (Exif 2.32, GPS IFD; XMP); unchanged where it has none.

    A JPEG keeps its quantisation; the other facts of the camera stay.
    """
    with Image.open(io.BytesIO(data)) as image:
        exif = image.getexif()
        if ExifTags.IFD.GPSInfo not in exif and b"GPS" not in _xmp(image):
            return data
        exif.pop(ExifTags.IFD.GPSInfo, None)
        out = io.BytesIO()
        image.info.pop("xmp", None)
        quality: Mapping[str, Any] = _AS_TAKEN.get(image.format or "", {})
        image.save(out, image.format, exif=exif, **quality)
        return out.getvalue()


def _xmp(image: Image.Image) -> bytes:
    found = image.info.get("xmp") or image.info.get("XML:com.adobe.xmp") or b""
    return found.encode() if isinstance(found, str) else bytes(found)


@dataclass(frozen=True, slots=True, kw_only=True)
class Inspected:
    """What a picture turned out to be, sizes in pixels."""

    media_type: str
    width: int
    height: int
    n_frames: int


def inspect_picture(data: bytes, media_types: Mapping[str, str]) -> Inspected:
    """Look into a picture; ``media_types`` are the kinds that are taken, by what Pillow calls them."""
    if len(data) > MAX_PICTURE_BYTES:
        raise InvalidInput(
            "pictures.too_large",
            f"a picture may have {MAX_PICTURE_BYTES // 1_000_000} MB, this has {len(data) / 1e6:.1f} MB.",
            where="Picture",
            hint="Take it at a lower resolution.",
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data)) as image:
                kind, (width, height) = image.format, image.size
                if kind not in media_types or max(width, height) > MAX_PICTURE_SIDE:
                    raise UnidentifiedImageError
                image.load()
                n_frames = int(getattr(image, "n_frames", 1))
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Warning) as error:
        names = {"image/png": "PNG", "image/jpeg": "JPEG", "image/webp": "WebP", "image/gif": "GIF"}
        kinds = [names[m] for m in media_types.values()]
        raise InvalidInput(
            "pictures.unreadable",
            f"it is not a {', '.join(kinds[:-1])} or {kinds[-1]} picture of up to {MAX_PICTURE_SIDE} "
            "pixels a side.",
            where="Picture",
            hint="Take it again.",
        ) from error
    return Inspected(media_type=media_types[kind or ""], width=width, height=height, n_frames=n_frames)
