"""What devices recorded and jobs could not take in, beside their orders."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session

from reedling.core.orders.receipts import LooseRecord
from reedling.exchange.content import EVENTS, dump_value
from reedling.store.row_mapping import row_mapping
from reedling.store.tables import LooseRecordRow, SubmissionRow

LOOSE_RECORDS = row_mapping(LooseRecord, LooseRecordRow, elsewhere=("events", "received_at"))


@dataclass(frozen=True, slots=True)
class LooseRecords:
    """Repository of loose records. What was recorded never changes; what was decided is added."""

    session: Session

    def add(self, record: LooseRecord) -> None:
        """Keep a loose record of a submission that is kept already."""
        self.session.add(LOOSE_RECORDS.new_row(record, events=[dump_value(event) for event in record.events]))
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
        return tuple(
            LOOSE_RECORDS.read(
                row,
                received_at=received.received_at,
                events=tuple(EVENTS.validate_python(event) for event in row.events),
            )
            for row, received in self.session.execute(ordered)
        )


def _all() -> Select[LooseRecordRow, SubmissionRow]:
    return select(LooseRecordRow, SubmissionRow).join(
        SubmissionRow, LooseRecordRow.submission_id == SubmissionRow.id
    )
