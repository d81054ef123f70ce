"""What the field recorded against orders: submissions, their events, and what these say of each line."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime

from pydantic import TypeAdapter
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from reedling.core.evidence.steps import StepRecord
from reedling.core.orders.receipts import HeldReceipt, Receipt
from reedling.core.runsheet.events import CLOCK_TOLERANCE_S, FieldEvent, by_right_clock
from reedling.core.runsheet.part_supplies import SUPPLY_KINDS
from reedling.exchange.content import EVENTS, dump_value
from reedling.store.job_tables import StepRecordRow
from reedling.store.row_mapping import row_mapping
from reedling.store.rows import add_rows
from reedling.store.tables import EventRow, OrderRow, SubmissionRow

RECEIPTS: TypeAdapter[Receipt] = TypeAdapter(Receipt)

STEP_RECORDS = row_mapping(StepRecord, StepRecordRow)


@dataclass(frozen=True, slots=True)
class Recorded:
    """Repository of what was recorded. Events are only ever added."""

    session: Session

    def receipt(self, submission_id: str) -> HeldReceipt | None:
        """What was told of a submission that was already applied, to whom, and of which content."""
        row = self.session.get(SubmissionRow, submission_id)
        if row is None:
            return None
        return HeldReceipt(
            person=row.person_id, digest=row.digest, receipt=RECEIPTS.validate_python(row.result)
        )

    def mark(self, order_id: str, submission_id: str) -> object:
        """A mark that is another one as soon as the order, its record or the submission's does."""
        query = select(OrderRow.state, OrderRow.technician_id).where(OrderRow.id == order_id)
        held = select(SubmissionRow.id).where(SubmissionRow.id == submission_id)
        return (
            self.session.execute(query).one_or_none(),
            self.n_events(order_id),
            self.session.scalar(held),
        )

    def add_submission(
        self, receipt: Receipt, person: str, *, digest: str = "", ahead_s: float | None = None
    ) -> None:
        """Keep that a submission was received, and what was told of it.

        ``digest`` is of what came, ``ahead_s`` the seconds by which the device's clock was ahead.
        """
        self.session.add(
            SubmissionRow(
                id=receipt.submission,
                order_id=receipt.order,
                person_id=person,
                received_at=receipt.received_at,
                result=dump_value(receipt),
                digest=digest,
                ahead_s=ahead_s,
            )
        )
        self.session.flush()

    def add_events(
        self,
        order_id: str,
        submission: str,
        person: str,
        events: Sequence[FieldEvent],
        *,
        after: int | None = None,
    ) -> None:
        """Add a submission's events, with the device's times, behind those already recorded.

        ``after`` is the number of these, where it is known.
        """
        last = after
        if last is None:
            last = self.session.scalar(select(func.max(EventRow.number)).where(EventRow.order_id == order_id))
        add_rows(
            self.session,
            EventRow,
            (
                {
                    "order_id": order_id,
                    "number": number,
                    "submission_id": submission,
                    "person_id": person,
                    "at": event.at,
                    "kind": event.kind,
                    "payload": dump_value(event),
                }
                for number, event in enumerate(events, (last or 0) + 1)
            ),
        )

    def was_worked_on_by(self, order_id: str, person: str) -> bool:
        """Whether somebody recorded something against an order."""
        query = select(EventRow.id).where(EventRow.order_id == order_id, EventRow.person_id == person)
        return self.session.scalar(query.limit(1)) is not None

    def clock_errors(self, order_id: str) -> tuple[float, ...]:
        """By how many seconds devices' clocks ran ahead (below 0: behind) whose times were put right."""
        query = select(SubmissionRow.ahead_s).where(
            SubmissionRow.order_id == order_id, func.abs(SubmissionRow.ahead_s) > CLOCK_TOLERANCE_S
        )
        return tuple(x for x in self.session.scalars(query) if x is not None)

    def ahead_s(self, submission_id: str) -> float | None:
        """By how many seconds the clock of a submission's device ran ahead, where it told its time."""
        return self.session.scalar(select(SubmissionRow.ahead_s).where(SubmissionRow.id == submission_id))

    def with_events(self) -> tuple[str, ...]:
        """Orders against which something was recorded, by when the last of it happened to be finished.

        Those that are finished come in the order they were finished, so that what was answered last is
        counted last.
        """
        query = (
            select(OrderRow.id)
            .where(OrderRow.id.in_(select(EventRow.order_id)))
            .order_by(OrderRow.finished_at, OrderRow.id)
        )
        return tuple(self.session.scalars(query))

    def n_events(self, order_id: str, *, but: str | None = None) -> int:
        """How many events were recorded against an order; by all, or by all but one person."""
        query = select(func.count()).select_from(EventRow).where(EventRow.order_id == order_id)
        if but is not None:
            query = query.where(EventRow.person_id != but)
        return self.session.scalar(query) or 0

    def has_begun(self, order_id: str) -> bool:
        """Whether anything was recorded of the work on an order; parts on their way to it are none."""
        query = select(EventRow.id).where(EventRow.order_id == order_id, EventRow.kind.not_in(SUPPLY_KINDS))
        return self.session.scalar(query.limit(1)) is not None

    def received_at(self, order_id: str) -> datetime | None:
        """When the latest of what was recorded against an order was received."""
        query = select(func.max(SubmissionRow.received_at)).where(SubmissionRow.order_id == order_id)
        return self.session.scalar(query)

    def events(self, order_id: str) -> tuple[FieldEvent, ...]:
        """Everything recorded against an order, in order, at the times it was by the server's clock."""
        query = (
            select(EventRow.payload, SubmissionRow.ahead_s)
            .join(SubmissionRow, EventRow.submission_id == SubmissionRow.id)
            .where(EventRow.order_id == order_id)
            .order_by(EventRow.number)
        )
        return tuple(
            by_right_clock(EVENTS.validate_python(payload), ahead_s)
            for payload, ahead_s in self.session.execute(query)
        )

    def replace_step_records(
        self, order_id: str, records: Iterable[StepRecord], *, incident_type: str | None, closed: bool
    ) -> None:
        """Keep what the job now says of its lines; ``closed`` once it is finished."""
        self.session.execute(delete(StepRecordRow).where(StepRecordRow.order_id == order_id))
        self.add_step_records(records, incident_type=incident_type, closed=closed)

    def add_step_records(
        self, records: Iterable[StepRecord], *, incident_type: str | None, closed: bool
    ) -> None:
        """Keep what a job of which nothing was kept before says of its lines."""
        add_rows(
            self.session,
            StepRecordRow,
            (
                STEP_RECORDS.written(record) | {"incident_type_id": incident_type, "closed": closed}
                for record in records
            ),
        )
