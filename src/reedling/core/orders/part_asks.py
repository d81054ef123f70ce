"""Parts that technicians ask each other for, one by one, as the colleague goes through them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.part_supplies import SupplyState


@dataclass(frozen=True, slots=True, kw_only=True)
class PartAsk:
    """So much of a part, in its own unit, that ``person`` asked the colleague ``of`` for, for an order."""

    record: str
    order: str
    person: str
    of: str
    part: str
    quantity: float
    at: datetime
    state: SupplyState


def part_asks(job: Job, order: str, person: str) -> tuple[PartAsk, ...]:
    """All that colleagues were asked for on a job, as it came; ``person`` carries the job out."""
    return tuple(
        PartAsk(
            record=record,
            order=order,
            person=person,
            of=supply.of,
            part=supply.part,
            quantity=supply.quantity,
            at=supply.at,
            state=supply.state,
        )
        for record, supply in job.supplies.items()
        if supply.of is not None
    )
