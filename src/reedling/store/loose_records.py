"""What devices recorded and jobs could not take in, beside their orders."""

from __future__ import annotations

from dataclasses import dataclass
from typing import cast

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session

from reedling.core.orders.receipts import Decision, LooseRecord
from reedling.exchange.content import EVENTS, dump_value
from reedling.store.tables import LooseRecordRow, SubmissionRow


@dataclass(frozen=True, slots=True)
class LooseRecords:
    """Repository of loose records. What was recorded never changes; what was decided is added."""

    session: Session

    def add(self, record: LooseRecord) -> None:
        """Keep a loose record of a submission that is kept already."""
        self.session.add(
            LooseRecordRow(
                submission_id=record.submission,
                order_id=record.order,
                person_id=record.person,
                events=[dump_value(event) for event in record.events],
                code=record.code,
                why=record.why,
            )
        )
        self.session.flush()

    def get(self, submission: str) -> LooseRecord | None:
        """One loose record, if there is one."""
        found = self._records(_all().where(LooseRecordRow.submission_id == submission))
        return found[0] if found else None

    def find(
        self, *, order: str | None = None, person: str | None = None, open_only: bool = False
    ) -> tuple[LooseRecord, ...]:
        """Loose records, oldest first: of an order, of a person, those that nobody has decided on."""
        query = _all()
        if order is not None:
            query = query.where(LooseRecordRow.order_id == order)
        if person is not None:
            query = query.where(LooseRecordRow.person_id == person)
        if open_only:
            query = query.where(LooseRecordRow.decision.is_(None))
        return self._records(query)

    def n_open(self) -> int:
        """How many wait for a decision."""
        query = select(func.count()).select_from(LooseRecordRow).where(LooseRecordRow.decision.is_(None))
        return self.session.scalar(query) or 0

    def decide(self, record: LooseRecord) -> None:
        """Write what was decided on a loose record."""
        row = self.session.get(LooseRecordRow, record.submission)
        assert row is not None
        row.decision, row.reason = record.decision, record.reason
        row.decided_at, row.decided_by = record.decided_at, record.decided_by
        self.session.flush()

    def _records(self, query: Select[LooseRecordRow, SubmissionRow]) -> tuple[LooseRecord, ...]:
        ordered = query.order_by(SubmissionRow.received_at, SubmissionRow.id)
        return tuple(_record(row, received) for row, received in self.session.execute(ordered))


def _all() -> Select[LooseRecordRow, SubmissionRow]:
    return select(LooseRecordRow, SubmissionRow).join(
        SubmissionRow, LooseRecordRow.submission_id == SubmissionRow.id
    )


def _record(row: LooseRecordRow, received: SubmissionRow) -> LooseRecord:
    return LooseRecord(
        submission=row.submission_id,
        order=row.order_id,
        person=row.person_id,
        received_at=received.received_at,
        events=tuple(EVENTS.validate_python(event) for event in row.events),
        code=row.code,
        why=row.why,
        decision=cast(Decision | None, row.decision),
        decided_at=row.decided_at,
        decided_by=row.decided_by,
        reason=row.reason,
    )
