"""Pictures: the facts in the database, the file in a folder beside it, named by its hash."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy.orm import Session

from reedling.store.records import Picture
from reedling.store.tables import PictureRow


@dataclass(frozen=True, slots=True)
class Pictures:
    """Repository of pictures."""

    session: Session
    folder: Path

    def add(self, picture: Picture, data: bytes) -> None:
        """Keep a picture; the same bytes are kept on disk once."""
        keep_file(self.folder, picture.sha256, data)
        self.session.add(
            PictureRow(
                id=picture.id,
                sha256=picture.sha256,
                media_type=picture.media_type,
                width=picture.width,
                height=picture.height,
                taken_at=picture.taken_at,
                person_id=picture.person,
                order_id=picture.order,
            )
        )
        self.session.flush()

    def get(self, picture_id: str) -> Picture | None:
        """The facts of a picture, if there is one."""
        row = self.session.get(PictureRow, picture_id)
        if row is None:
            return None
        return Picture(
            id=row.id,
            sha256=row.sha256,
            media_type=row.media_type,
            width=row.width,
            height=row.height,
            taken_at=row.taken_at,
            person=row.person_id,
            order=row.order_id,
        )

    def data(self, picture: Picture) -> bytes:
        """The file of a picture."""
        return (self.folder / picture.sha256).read_bytes()


def keep_file(folder: Path, name: str, data: bytes) -> None:
    """Write a file whole or not at all; one that is there already is left alone."""
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / name
    if not path.exists():
        scratch = path.with_suffix(".part")
        scratch.write_bytes(data)
        scratch.rename(path)


def hash_of(data: bytes) -> str:
    """The name a picture's file goes by."""
    return hashlib.sha256(data).hexdigest()
