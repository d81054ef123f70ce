"""Routine visits and their work, as it is kept with each order."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import cast

from sqlalchemy import select
from sqlalchemy.orm import Session

from reedling.core.evidence.routine_work import PieceOfWork, RoutineVisit
from reedling.core.register.assets import day_on_site
from reedling.core.runsheet.job_state import OrderState
from reedling.store.job_tables import StepRecordRow
from reedling.store.register import Register
from reedling.store.tables import OrderRow


@dataclass(frozen=True, slots=True)
class RoutineVisits:
    """Reads the orders that have a last day, with the work that each wants."""

    session: Session

    def with_work(self) -> tuple[tuple[RoutineVisit, tuple[PieceOfWork, ...]], ...]:
        """Every routine visit with the work that it wants, by the last day and order; days are those on site."""
        visits = self.all()
        works = self._works({visit.order: visit for visit in visits})
        return tuple((visit, tuple(works.get(visit.order, ()))) for visit in visits)

    def all(self) -> tuple[RoutineVisit, ...]:
        """Every routine visit, by the last day and order."""
        query = select(
            OrderRow.id,
            OrderRow.incident_type_id,
            OrderRow.asset_id,
            OrderRow.state,
            OrderRow.due_on,
            OrderRow.finished_at,
        )
        rows = self.session.execute(
            query.where(OrderRow.due_on.is_not(None)).order_by(OrderRow.due_on, OrderRow.id)
        ).all()
        placed = Register(self.session).assets_of({row.asset_id for row in rows})
        return tuple(
            RoutineVisit(
                order=row.id,
                incident_type=row.incident_type_id or "",
                asset=row.asset_id,
                site=(site := placed[row.asset_id].site),
                state=cast(OrderState, row.state),
                due_on=row.due_on,
                finished_on=day_on_site(site, row.finished_at) if row.finished_at else None,
            )
            for row in rows
        )

    def _works(self, visits: Mapping[str, RoutineVisit]) -> dict[str, list[PieceOfWork]]:
        query = (
            select(
                StepRecordRow.order_id,
                StepRecordRow.document_id,
                StepRecordRow.step,
                StepRecordRow.done,
                StepRecordRow.done_at,
                StepRecordRow.skipped,
                StepRecordRow.skip_reason,
            )
            .join(OrderRow, OrderRow.id == StepRecordRow.order_id)
            .where(OrderRow.due_on.is_not(None), StepRecordRow.wanted)
        )
        out: dict[str, list[PieceOfWork]] = {}
        for row in self.session.execute(query):
            done_at: datetime | None = row.done_at
            out.setdefault(row.order_id, []).append(
                PieceOfWork(
                    document=row.document_id,
                    step=row.step,
                    done=row.done,
                    done_on=day_on_site(visits[row.order_id].site, done_at) if done_at else None,
                    skipped=row.skipped,
                    skip_reason=row.skip_reason,
                )
            )
        return out
