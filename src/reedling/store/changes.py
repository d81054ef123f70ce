"""Who changed what, when, from what to what. Rows are only ever added."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import cast

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from reedling.core.changes import Change, ChangeAct, ChangeSubject
from reedling.store.tables import ChangeRow


def _change(row: ChangeRow) -> Change:
    return Change(
        id=row.id,
        batch=row.batch,
        at=row.at,
        person=row.person_id,
        subject=cast(ChangeSubject, row.subject),
        key=row.key,
        act=cast(ChangeAct, row.act),
        before=row.before,
        after=row.after,
        note=row.note,
    )


@dataclass(frozen=True, slots=True)
class Changes:
    """Repository of changes."""

    session: Session

    def add(self, changes: Sequence[Change]) -> None:
        """Keep changes."""
        self.session.add_all(
            ChangeRow(
                batch=c.batch,
                at=c.at,
                person_id=c.person,
                subject=c.subject,
                key=c.key,
                act=c.act,
                before=c.before,
                after=c.after,
                note=c.note,
            )
            for c in changes
        )
        self.session.flush()

    def last(self, *subjects: ChangeSubject) -> int:
        """A mark that rises with every change of these subjects."""
        query = select(func.max(ChangeRow.id)).where(ChangeRow.subject.in_(subjects))
        return self.session.scalar(query) or 0

    def of_batch(self, batch: str) -> tuple[Change, ...]:
        """What was changed at once, in the order it was kept."""
        rows = self.session.scalars(select(ChangeRow).where(ChangeRow.batch == batch).order_by(ChangeRow.id))
        return tuple(_change(row) for row in rows)

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
        return tuple(_change(row) for row in rows)
