"""What technicians asked each other for: kept by itself, so that the colleague finds it."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from reedling.core.orders.part_asks import PartAsk, part_asks
from reedling.core.runsheet.job_state import Job
from reedling.store.row_mapping import row_mapping
from reedling.store.tables import PartAskRow

PART_ASKS = row_mapping(PartAsk, PartAskRow, record="id")


@dataclass(frozen=True, slots=True)
class KeptPartAsks:
    """Repository of part asks. What was said of them stands in the events of their order."""

    session: Session

    def keep(self, order: str, person: str, job: Job) -> None:
        """Keep how the part asks of a job stand; ``person`` made those that are new."""
        found = part_asks(job, order, person)
        for ask in found:
            row = self.session.get(PartAskRow, (order, ask.record))
            if row is not None:
                row.state = ask.state
                continue
            self.session.add(PART_ASKS.new_row(ask))
        if found:
            self.session.flush()

    def get(self, order: str, record: str) -> PartAsk | None:
        """One of them; nothing where there is none."""
        row = self.session.get(PartAskRow, (order, record))
        return PART_ASKS.read(row) if row else None

    def open_of(self, person: str) -> tuple[PartAsk, ...]:
        """What this person is asked for and has not answered, the oldest first."""
        query = select(PartAskRow).where(PartAskRow.of_id == person, PartAskRow.state == "asked")
        return tuple(
            PART_ASKS.read(row) for row in self.session.scalars(query.order_by(PartAskRow.at, PartAskRow.id))
        )
