"""What jobs could not take in, as the office and the technician read it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from reedling.core.orders.receipts import Decision, LooseRecord
from reedling.core.runsheet.events import FieldEvent
from reedling.services.context import Context


@dataclass(frozen=True, slots=True, kw_only=True)
class LooseLine:
    """A loose record as it is shown: whose, what it holds, why the job could not take it in, what was decided."""

    submission: str
    order: str
    person_name: str
    received_at: datetime
    events: tuple[FieldEvent, ...]
    why: str
    decision: Decision | None
    decided_at: datetime | None
    decided_by_name: str
    reason: str


def all_loose(context: Context) -> tuple[LooseLine, ...]:
    """Every loose record that waits for the office, oldest first."""
    with context.reading() as unit:
        return loose_lines(unit.loose_records.find(open_only=True), unit.people.names())


def loose_lines(records: tuple[LooseRecord, ...], names: Mapping[str, str]) -> tuple[LooseLine, ...]:
    """Loose records with the names of people."""
    return tuple(
        LooseLine(
            submission=r.submission,
            order=r.order,
            person_name=names.get(r.person, r.person),
            received_at=r.received_at,
            events=r.events,
            why=r.why,
            decision=r.decision,
            decided_at=r.decided_at,
            decided_by_name=names.get(r.decided_by or "", ""),
            reason=r.reason,
        )
        for r in records
    )
