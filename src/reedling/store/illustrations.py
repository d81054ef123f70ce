"""Pictures that instructions show: the facts in the database, the file beside it, named by its hash."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from reedling.core.guidance.documents import Illustration
from reedling.store.pictures import keep_file, read_file
from reedling.store.tables import IllustrationRow


def _illustration(row: IllustrationRow) -> Illustration:
    return Illustration(
        id=row.id,
        title=row.title,
        media_type=row.media_type,
        width=row.width,
        height=row.height,
        n_frames=row.n_frames,
        added_at=row.added_at,
        person=row.person_id,
    )


@dataclass(frozen=True, slots=True)
class Illustrations:
    """Repository of illustrations."""

    session: Session
    folder: Path

    def add(self, illustration: Illustration, data: bytes) -> None:
        """Keep an illustration; the same bytes are one illustration."""
        keep_file(self.folder, illustration.id, data)
        self.session.add(
            IllustrationRow(
                id=illustration.id,
                title=illustration.title,
                media_type=illustration.media_type,
                width=illustration.width,
                height=illustration.height,
                n_frames=illustration.n_frames,
                added_at=illustration.added_at,
                person_id=illustration.person,
            )
        )
        self.session.flush()

    def get(self, illustration_id: str) -> Illustration | None:
        """The facts of an illustration, if there is one."""
        row = self.session.get(IllustrationRow, illustration_id)
        return _illustration(row) if row else None

    def all(self) -> tuple[Illustration, ...]:
        """Every illustration, newest first."""
        query = select(IllustrationRow).order_by(IllustrationRow.added_at.desc(), IllustrationRow.id)
        return tuple(_illustration(row) for row in self.session.scalars(query))

    def data(self, illustration_id: str) -> bytes:
        """The file of an illustration."""
        return read_file(self.folder, illustration_id)

    def size(self, illustration_id: str) -> int:
        """Bytes of an illustration's file; 0 where it is gone."""
        path = self.folder / illustration_id
        return path.stat().st_size if path.exists() else 0
