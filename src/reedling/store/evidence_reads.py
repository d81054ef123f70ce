"""When the evidence of incident types was last read."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from reedling.core.evidence.jobs import EvidenceRead
from reedling.store.row_mapping import row_mapping
from reedling.store.tables import EvidenceReadRow

READS = row_mapping(EvidenceRead, EvidenceReadRow)


@dataclass(frozen=True, slots=True)
class EvidenceReads:
    """Repository of the last reading of each incident type's evidence."""

    session: Session

    def all(self) -> Mapping[str, EvidenceRead]:
        """The last reading of each, by incident type."""
        return {
            row.incident_type_id: READS.read(row) for row in self.session.scalars(select(EvidenceReadRow))
        }

    def put(self, read: EvidenceRead) -> None:
        """Keep a reading in place of the one before."""
        self.session.merge(READS.new_row(read))
        self.session.flush()
