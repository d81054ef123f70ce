"""What was recorded beside the steps: kept by itself, so that what waits for the office is found."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from reedling.core.orders.site_records import SiteRecord, SiteRecordKind, site_records
from reedling.core.runsheet.job_state import Job
from reedling.store.row_mapping import row_mapping
from reedling.store.tables import SiteRecordRow

SITE_RECORDS = row_mapping(SiteRecord, SiteRecordRow, record="id")


@dataclass(frozen=True, slots=True)
class KeptSiteRecords:
    """Repository of site records. What they say in full stands in the events of their order."""

    session: Session

    def keep(self, order: str, person: str, job: Job) -> None:
        """Keep how the site records of a job stand; ``person`` made those that are new."""
        found = site_records(job.beside, order, person)
        for record in found:
            row = self.session.get(SiteRecordRow, (order, record.record))
            if row is None:
                self.session.add(SITE_RECORDS.new_row(record))
            else:
                row.waits = record.waits
        if found:
            self.session.flush()

    def find(
        self, *, kind: SiteRecordKind | None = None, waiting: bool = False, order: str | None = None
    ) -> tuple[SiteRecord, ...]:
        """Site records, the oldest first: of a kind, those that wait for the office, those of an order."""
        query = select(SiteRecordRow).order_by(SiteRecordRow.at, SiteRecordRow.order_id, SiteRecordRow.id)
        if kind is not None:
            query = query.where(SiteRecordRow.kind == kind)
        if waiting:
            query = query.where(SiteRecordRow.waits.is_(True))
        if order is not None:
            query = query.where(SiteRecordRow.order_id == order)
        return tuple(SITE_RECORDS.read(row) for row in self.session.scalars(query))

    def n_waiting(self) -> int:
        """How many wait for the office."""
        query = select(func.count()).select_from(SiteRecordRow).where(SiteRecordRow.waits.is_(True))
        return int(self.session.scalar(query) or 0)
