"""What technicians asked each other for: kept by itself, so that the colleague finds it."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from reedling.core.orders.part_asks import PartAsk, part_asks
from reedling.core.runsheet.job_state import Job
from reedling.store.tables import PartAskRow


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
            self.session.add(
                PartAskRow(
                    order_id=order,
                    id=ask.record,
                    person_id=person,
                    of_id=ask.of,
                    part=ask.part,
                    quantity=ask.quantity,
                    at=ask.at,
                    state=ask.state,
                )
            )
        if found:
            self.session.flush()

    def get(self, order: str, record: str) -> PartAsk | None:
        """One of them; nothing where there is none."""
        row = self.session.get(PartAskRow, (order, record))
        return _ask(row) if row else None

    def open_of(self, person: str) -> tuple[PartAsk, ...]:
        """What this person is asked for and has not answered, the oldest first."""
        query = select(PartAskRow).where(PartAskRow.of_id == person, PartAskRow.state == "asked")
        return tuple(_ask(row) for row in self.session.scalars(query.order_by(PartAskRow.at, PartAskRow.id)))


def _ask(row: PartAskRow) -> PartAsk:
    return PartAsk(
        record=row.id,
        order=row.order_id,
        person=row.person_id,
        of=row.of_id,
        part=row.part,
        quantity=row.quantity,
        at=row.at,
        state=row.state,  # type: ignore[arg-type]
    )
