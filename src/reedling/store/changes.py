"""Who changed what, when, from what to what. Rows are only ever added."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from reedling.core.changes import Change, ChangeSubject
from reedling.store.row_mapping import row_mapping
from reedling.store.tables import ChangeRow

CHANGES = row_mapping(Change, ChangeRow, elsewhere=("id",))


@dataclass(frozen=True, slots=True)
class Changes:
    """Repository of changes."""

    session: Session

    def add(self, changes: Sequence[Change]) -> None:
        """Keep changes."""
        self.session.add_all(CHANGES.new_row(c) for c in changes)
        self.session.flush()

    def last(self, *subjects: ChangeSubject) -> int:
        """A mark that rises with every change of these subjects."""
        query = select(func.max(ChangeRow.id)).where(ChangeRow.subject.in_(subjects))
        return self.session.scalar(query) or 0

    def of_batch(self, batch: str) -> tuple[Change, ...]:
        """What was changed at once, in the order it was kept."""
        rows = self.session.scalars(select(ChangeRow).where(ChangeRow.batch == batch).order_by(ChangeRow.id))
        return tuple(CHANGES.read(row, id=row.id) for row in rows)

    def newest(
        self,
        subject: ChangeSubject,
        *,
        key: str | None = None,
        within: str | None = None,
        before: int | None = None,
        limit: int = 100,
    ) -> tuple[Change, ...]:
        """Changes of a subject, newest first: of one key, or of all keys that begin with ``within``."""
        query = select(ChangeRow).where(ChangeRow.subject == subject)
        if key is not None:
            query = query.where(ChangeRow.key == key)
        if within is not None:
            query = query.where(ChangeRow.key.startswith(within, autoescape=True))
        if before is not None:
            query = query.where(ChangeRow.id < before)
        rows = self.session.scalars(query.order_by(ChangeRow.id.desc()).limit(limit))
        return tuple(CHANGES.read(row, id=row.id) for row in rows)
