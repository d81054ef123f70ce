"""Pictures: the facts in the database, the file in a folder beside it, named by its hash."""

from __future__ import annotations

import hashlib
import os
from dataclasses import asdict, dataclass
from pathlib import Path
from uuid import uuid4

from sqlalchemy import select
from sqlalchemy.orm import Session

from reedling.core.orders.photo_looks import PhotoLook
from reedling.core.orders.receipts import Picture
from reedling.errors import NotFound, Unavailable
from reedling.store.row_mapping import row_mapping
from reedling.store.tables import PictureRow

PICTURES = row_mapping(Picture, PictureRow, elsewhere=("look", "same_as"))


@dataclass(frozen=True, slots=True)
class Pictures:
    """Repository of pictures."""

    session: Session
    folder: Path

    def add(self, picture: Picture, data: bytes) -> None:
        """Keep a picture; the same bytes are kept on disk once."""
        keep_file(self.folder, picture.sha256, data)
        self.session.add(
            PICTURES.new_row(
                picture,
                same_as=picture.same_as or None,
                **({} if picture.look is None else asdict(picture.look)),
            )
        )
        self.session.flush()

    def get(self, picture_id: str) -> Picture | None:
        """The facts of a picture, if there is one."""
        row = self.session.get(PictureRow, picture_id)
        return (
            None
            if row is None
            else PICTURES.read(
                row, look=kept_look(row.blur, row.light, row.fingerprint), same_as=row.same_as or ""
            )
        )

    def of_order(self, order: str) -> tuple[Picture, ...]:
        """The pictures of an order, in the order in which they came in."""
        query = select(PictureRow).where(PictureRow.order_id == order)
        return tuple(
            PICTURES.read(
                row, look=kept_look(row.blur, row.light, row.fingerprint), same_as=row.same_as or ""
            )
            for row in self.session.scalars(query.order_by(PictureRow.taken_at, PictureRow.id))
        )

    def files(self) -> frozenset[str]:
        """The names of the files of all pictures."""
        return frozenset(self.session.scalars(select(PictureRow.sha256).distinct()))

    def data(self, picture: Picture) -> bytes:
        """The file of a picture."""
        return read_file(self.folder, picture.sha256)


def kept_look(blur: float | None, light: float | None, fingerprint: str | None) -> PhotoLook | None:
    """What was told of a photo, from its columns; nothing where nobody looked."""
    if light is None or fingerprint is None:
        return None
    return PhotoLook(blur=blur, light=light, fingerprint=fingerprint)


def keep_file(folder: Path, name: str, data: bytes) -> None:
    """Write a file whole or not at all, and be sure that it is on the disk; one that is there is left alone."""
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / name
    if path.exists() and path.stat().st_size == len(data):
        return
    scratch = path.with_suffix(f".{uuid4().hex}.part")
    try:
        with scratch.open("wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        scratch.rename(path)
        folder_of = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(folder_of)
        finally:
            os.close(folder_of)
    except OSError as error:
        scratch.unlink(missing_ok=True)
        raise Unavailable(
            "store.picture",
            f"the picture cannot be kept: {error.strerror}.",
            where="Pictures",
            hint="It stays where it is; try again once there is room on the server's disk.",
        ) from error


def read_file(folder: Path, name: str) -> bytes:
    """The bytes of a file kept; one that is gone from the folder is an error that names it."""
    try:
        return (folder / name).read_bytes()
    except OSError as error:
        raise NotFound(
            "pictures.gone",
            f"the file {name[:12]}… of this picture cannot be read on the server.",
            hint="Restore it from a backup; reedling doctor lists what is missing.",
        ) from error


def hash_of(data: bytes) -> str:
    """The name a picture's file goes by."""
    return hashlib.sha256(data).hexdigest()
