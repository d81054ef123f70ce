"""Pictures that instructions show: the facts in the database, the file beside it, named by its hash."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from reedling.core.guidance.documents import Illustration
from reedling.store.pictures import keep_file, read_file
from reedling.store.row_mapping import row_mapping
from reedling.store.tables import IllustrationRow

ILLUSTRATIONS = row_mapping(Illustration, IllustrationRow)


@dataclass(frozen=True, slots=True)
class Illustrations:
    """Repository of illustrations."""

    session: Session
    folder: Path

    def add(self, illustration: Illustration, data: bytes) -> None:
        """Keep an illustration; the same bytes are one illustration."""
        keep_file(self.folder, illustration.id, data)
        self.session.add(ILLUSTRATIONS.new_row(illustration))
        self.session.flush()

    def get(self, illustration_id: str) -> Illustration | None:
        """The facts of an illustration, if there is one."""
        row = self.session.get(IllustrationRow, illustration_id)
        return ILLUSTRATIONS.read(row) if row else None

    def all(self) -> tuple[Illustration, ...]:
        """Every illustration, newest first."""
        query = select(IllustrationRow).order_by(IllustrationRow.added_at.desc(), IllustrationRow.id)
        return tuple(ILLUSTRATIONS.read(row) for row in self.session.scalars(query))

    def data(self, illustration_id: str) -> bytes:
        """The file of an illustration."""
        return read_file(self.folder, illustration_id)

    def size(self, illustration_id: str) -> int:
        """Bytes of an illustration's file; 0 where it is gone."""
        path = self.folder / illustration_id
        return path.stat().st_size if path.exists() else 0
