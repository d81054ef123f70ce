"""What the field recorded beside its steps, one by one, as the office goes through it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from reedling.core.runsheet.site_records import SiteRecords

SiteRecordKind = Literal["part typed", "equipment found", "step added", "work recommended"]
"""What was recorded. A step added waits for nobody; it is evidence of what the guidance lacks."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SiteRecord:
    """One thing recorded beside the steps: ``text`` in the technician's words, ``waits`` for the office or not."""

    record: str
    order: str
    person: str
    kind: SiteRecordKind
    text: str
    at: datetime
    waits: bool


def site_records(records: SiteRecords, order: str, person: str) -> tuple[SiteRecord, ...]:
    """All that a job recorded beside its steps, by kind and then as it came."""
    found: list[tuple[str, SiteRecordKind, str, datetime, bool]] = [
        *(
            (key, "part typed", typed.text, typed.at, typed.settled is None)
            for key, typed in records.parts.items()
        ),
        *(
            (key, "equipment found", stands.name, stands.at, stands.settled is None)
            for key, stands in records.equipment.items()
        ),
        *((key, "step added", step.text, step.at, False) for key, step in records.steps.items()),
        *(
            (key, "work recommended", work.text, work.at, work.settled is None)
            for key, work in records.work.items()
        ),
    ]
    return tuple(
        SiteRecord(record=key, order=order, person=person, kind=kind, text=text, at=at, waits=waits)
        for key, kind, text, at, waits in found
    )
