"""What the office asked technicians about jobs that are over."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session

from reedling.core.orders.asked_back import AskedBack
from reedling.store.row_mapping import row_mapping
from reedling.store.tables import AskedBackRow

ASKED_BACK = row_mapping(AskedBack, AskedBackRow)


@dataclass(frozen=True, slots=True)
class QuestionsBack:
    """Repository of questions to technicians."""

    session: Session

    def put(self, asked: AskedBack) -> None:
        """Keep a question, or its answer."""
        self.session.merge(ASKED_BACK.new_row(asked))
        self.session.flush()

    def get(self, identity: str) -> AskedBack | None:
        """The question of this identity, if there is one."""
        return next(iter(self._find(AskedBackRow.id == identity)), None)

    def of_order(self, order: str) -> tuple[AskedBack, ...]:
        """What was asked about a job, the oldest first."""
        return self._find(AskedBackRow.order_id == order)

    def waiting_for(self, technician: str) -> tuple[AskedBack, ...]:
        """What a technician has not answered yet, the oldest first."""
        return self._find(AskedBackRow.technician_id == technician, AskedBackRow.answered_at.is_(None))

    def answered_to(self, person: str, most: int) -> tuple[AskedBack, ...]:
        """The latest answers to what somebody asked."""
        query = select(AskedBackRow).where(
            AskedBackRow.asked_by == person, AskedBackRow.answered_at.is_not(None)
        )
        rows = self.session.scalars(query.order_by(AskedBackRow.answered_at.desc()).limit(most))
        return tuple(ASKED_BACK.read(row) for row in rows)

    def _find(self, *where: ColumnElement[bool]) -> tuple[AskedBack, ...]:
        query = select(AskedBackRow).where(*where).order_by(AskedBackRow.asked_at, AskedBackRow.id)
        return tuple(ASKED_BACK.read(row) for row in self.session.scalars(query))
