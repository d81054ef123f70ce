"""Routine visits and their work, as it is kept with each order."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import cast

from sqlalchemy import ColumnElement, select
from sqlalchemy.orm import Session

from reedling.core.evidence.routine_work import PieceOfWork, RoutineVisit
from reedling.core.orders.states import CLOSED, counts
from reedling.core.register.assets import day_on_site
from reedling.core.runsheet.job_state import OrderState
from reedling.store.job_tables import StepRecordRow
from reedling.store.register import Register
from reedling.store.tables import OrderRow

_MADE = tuple(state for state in CLOSED if counts(state))
"""States of visits whose work is counted with finished jobs."""


@dataclass(frozen=True, slots=True)
class RoutineVisits:
    """Reads the orders that have a last day, with the work that each wants."""

    session: Session

    def made(self) -> tuple[tuple[RoutineVisit, tuple[PieceOfWork, ...]], ...]:
        """Those that are finished."""
        return self._with_work((OrderRow.state.in_(_MADE),), ())

    def not_made(self) -> tuple[tuple[RoutineVisit, tuple[PieceOfWork, ...]], ...]:
        """Those that are not finished, the cancelled among them."""
        return self._with_work((OrderRow.state.not_in(_MADE),), ())

    def of_orders(self, orders: Collection[str]) -> tuple[tuple[RoutineVisit, tuple[PieceOfWork, ...]], ...]:
        """Those of some orders."""
        return self._with_work((OrderRow.id.in_(orders),), ()) if orders else ()

    def of_work(
        self, incident_type: str | None, document: str | None, step: str | None
    ) -> tuple[tuple[RoutineVisit, tuple[PieceOfWork, ...]], ...]:
        """Those of an incident type with what they want of one kind of work; nothing given leaves it open."""
        of_type = (OrderRow.incident_type_id == incident_type,) if incident_type else ()
        of_step = (
            (StepRecordRow.document_id == document, StepRecordRow.step == step) if document and step else ()
        )
        return self._with_work(of_type, of_step)

    def made_orders(self) -> frozenset[str]:
        """The orders of those that are finished."""
        query = select(OrderRow.id).where(OrderRow.due_on.is_not(None), OrderRow.state.in_(_MADE))
        return frozenset(self.session.scalars(query))

    def not_made_by(self, day: date) -> tuple[RoutineVisit, ...]:
        """Those that are not finished and whose last day is this one or earlier, by the last day and order."""
        return self._visits((OrderRow.state.not_in(_MADE), OrderRow.due_on <= day))

    def _with_work(
        self, where: Sequence[ColumnElement[bool]], of_step: Sequence[ColumnElement[bool]]
    ) -> tuple[tuple[RoutineVisit, tuple[PieceOfWork, ...]], ...]:
        visits = self._visits(where)
        works = self._works({visit.order: visit for visit in visits}, where, of_step)
        return tuple((visit, tuple(works.get(visit.order, ()))) for visit in visits)

    def _visits(self, where: Sequence[ColumnElement[bool]]) -> tuple[RoutineVisit, ...]:
        query = select(
            OrderRow.id,
            OrderRow.incident_type_id,
            OrderRow.asset_id,
            OrderRow.state,
            OrderRow.due_on,
            OrderRow.finished_at,
        )
        query = query.where(OrderRow.due_on.is_not(None), *where)
        rows = self.session.execute(query.order_by(OrderRow.due_on, OrderRow.id)).all()
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

    def _works(
        self,
        visits: Mapping[str, RoutineVisit],
        where: Sequence[ColumnElement[bool]],
        of_step: Sequence[ColumnElement[bool]],
    ) -> dict[str, list[PieceOfWork]]:
        query = select(
            StepRecordRow.order_id,
            StepRecordRow.document_id,
            StepRecordRow.step,
            StepRecordRow.done,
            StepRecordRow.done_at,
            StepRecordRow.skipped,
            StepRecordRow.skip_reason,
        ).where(
            StepRecordRow.order_id.in_(select(OrderRow.id).where(OrderRow.due_on.is_not(None), *where)),
            StepRecordRow.wanted,
            *of_step,
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
