"""Pictures on their way in: what was announced in the database, the bytes so far in a file beside the pictures."""

from __future__ import annotations

import os
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from reedling.core.orders.receipts import Upload
from reedling.errors import Unavailable
from reedling.store.row_mapping import row_mapping
from reedling.store.tables import UploadRow

UPLOADS = row_mapping(Upload, UploadRow, elsewhere=("have", "is_kept"))


@dataclass(frozen=True, slots=True)
class Uploads:
    """Repository of uploads."""

    session: Session
    folder: Path

    def begin(self, upload: Upload, at: datetime) -> None:
        """Keep that a picture is coming."""
        self.session.add(UPLOADS.new_row(upload, begun_at=at))
        self.session.flush()

    def get(self, picture: str) -> Upload | None:
        """An upload, with how many of its bytes are here."""
        row = self.session.get(UploadRow, picture)
        return None if row is None else _with_bytes(self.folder, UPLOADS.read(row))

    def of_order(self, order: str) -> tuple[Upload, ...]:
        """What is on its way for an order."""
        rows = self.session.scalars(select(UploadRow).where(UploadRow.order_id == order))
        return tuple(_with_bytes(self.folder, UPLOADS.read(row)) for row in rows)

    def add_piece(self, upload: Upload, piece: bytes) -> Upload:
        """Write the next piece behind those that are here, and be sure that it is on the disk."""
        path = path_of(self.folder, upload)
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            with path.open("r+b" if path.exists() else "wb") as file:
                file.seek(upload.have)
                file.write(piece)
                file.flush()
                os.fsync(file.fileno())
        except OSError as error:
            raise Unavailable(
                "store.picture",
                f"the picture cannot be kept: {error.strerror}.",
                where="Pictures",
                hint="It stays where it is; try again once there is room on the server's disk.",
            ) from error
        return replace(upload, have=upload.have + len(piece))

    def data(self, upload: Upload) -> bytes:
        """The bytes that are here."""
        path = path_of(self.folder, upload)
        return path.read_bytes() if path.exists() else b""

    def end(self, upload: Upload) -> None:
        """Forget an upload and its bytes: the picture is kept, or has to come again from the start."""
        row = self.session.get(UploadRow, upload.picture)
        if row is not None:
            self.session.delete(row)
            self.session.flush()
        path_of(self.folder, upload).unlink(missing_ok=True)


def path_of(folder: Path, upload: Upload) -> Path:
    """Where the bytes of an upload lie; its identity is a UUID, so that it is a name of one file."""
    return folder / f"{upload.picture}.coming"


def _with_bytes(folder: Path, upload: Upload) -> Upload:
    path = path_of(folder, upload)
    return replace(upload, have=min(path.stat().st_size, upload.size) if path.exists() else 0)
