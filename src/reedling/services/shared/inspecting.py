"""What a picture that comes in is: read in full, within bounds, without where it was taken."""

from __future__ import annotations

import io
import warnings
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from PIL import ExifTags, Image, ImageOps, UnidentifiedImageError

from reedling.core.guidance.documents import Illustration
from reedling.core.orders.photo_looks import CENTRE, CENTRE_OF, WHOLE, PhotoLook, look_at_photo
from reedling.errors import InvalidInput
from reedling.store.pictures import hash_of

STILL_OR_MOVING: Mapping[str, str] = {
    "PNG": "image/png",
    "JPEG": "image/jpeg",
    "WEBP": "image/webp",
    "GIF": "image/gif",
}

MOST_FRAMES = 600

_AS_TAKEN: Mapping[str, Mapping[str, Any]] = {"JPEG": {"quality": "keep"}, "WEBP": {"quality": 92}}
"""How a picture is written again, by what Pillow calls its kind."""

MAX_PICTURE_BYTES = 12_000_000

MAX_PICTURE_SIDE = 8_000


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


def look_of(data: bytes) -> PhotoLook:
    """What can be told of a photo from its bytes, which :func:`inspect_picture` took."""
    with Image.open(io.BytesIO(data)) as opened:
        opened.draft("L", (2 * CENTRE_OF, 2 * CENTRE_OF))
        grey = ImageOps.exif_transpose(opened).convert("L")
    scale = CENTRE_OF / max(grey.size)
    width, height = (max(1, round(side * scale)) for side in grey.size)
    sized = grey.resize((width, height), Image.Resampling.BILINEAR, reducing_gap=3.0)
    left, top = max(0, (width - CENTRE) // 2), max(0, (height - CENTRE) // 2)
    centre = sized.crop((left, top, min(width, left + CENTRE), min(height, top + CENTRE)))
    return look_at_photo(
        sized.resize(WHOLE, Image.Resampling.BOX).tobytes(), centre.resize((CENTRE, CENTRE)).tobytes()
    )


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
