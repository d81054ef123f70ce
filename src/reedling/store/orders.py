"""Orders, and what was changed on them by hand; what the field recorded is in :mod:`reedling.store.recorded`."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, cast

from pydantic import TypeAdapter
from sqlalchemy import ColumnElement, Select, func, or_, select
from sqlalchemy.orm import Session

from reedling.core.matching.applicability import MatchTrace
from reedling.core.orders.orders import (
    Order,
    OrderChange,
    OrderHeading,
    OrderInShort,
    WantedOrders,
    heading_of,
)
from reedling.core.orders.states import LASTING, NOT_COUNTED, counts
from reedling.core.refining.missing_words import Reported
from reedling.core.register.assets import PlacedAsset
from reedling.core.runsheet.job_state import OrderState
from reedling.core.runsheet.lines import Source
from reedling.exchange.content import ORDER_FACTS, ORDER_TERMS, RUNSHEETS, dump_value
from reedling.store.kept import Kept, only_reads
from reedling.store.register import Register
from reedling.store.row_mapping import row_mapping
from reedling.store.tables import (
    AssetRow,
    OrderChangeRow,
    OrderRow,
    PersonRow,
    SiteRow,
)

_AT_ONCE = 500
"""Identities named in one query."""
SOURCES: TypeAdapter[tuple[Source, ...]] = TypeAdapter(tuple[Source, ...])
TRACES: TypeAdapter[tuple[MatchTrace, ...]] = TypeAdapter(tuple[MatchTrace, ...])


def _counted(since: datetime | None) -> tuple[ColumnElement[bool], ...]:
    counted = OrderRow.state != NOT_COUNTED
    return (counted,) if since is None else (counted, OrderRow.logged_at >= since)


ORDERS = row_mapping(Order, OrderRow, elsewhere=("asset", "site", "runsheet", "trace", "matched_on", "terms"))
ORDER_CHANGES = row_mapping(OrderChange, OrderChangeRow)


def _order(row: OrderRow, placed: PlacedAsset) -> Order:
    return ORDERS.read(
        row,
        asset=placed.asset,
        site=placed.site,
        runsheet=RUNSHEETS.validate_python(row.runsheet),
        trace=TRACES.validate_python(row.trace),
        matched_on=None if row.matched_on is None else ORDER_FACTS.validate_python(row.matched_on),
        terms=ORDER_TERMS.validate_python(row.terms),
    )


_HEADING = (
    OrderRow.id,
    OrderRow.asset_id,
    OrderRow.symptom,
    OrderRow.report,
    OrderRow.incident_type_id,
    OrderRow.sources,
    OrderRow.logged_at,
    OrderRow.state,
    OrderRow.technician_id,
    OrderRow.planned_for,
    OrderRow.finished_at,
    OrderRow.planned_minutes,
    OrderRow.priority,
    OrderRow.fields,
    OrderRow.due_on,
)


def _filters(
    states: Sequence[OrderState], technician: str | None, incident_type: str | None, asset: str | None
) -> list[ColumnElement[bool]]:
    where: list[ColumnElement[bool]] = []
    if states:
        where.append(OrderRow.state.in_(states))
    if technician is not None:
        where.append(OrderRow.technician_id == technician)
    if incident_type is not None:
        where.append(OrderRow.incident_type_id == incident_type)
    if asset is not None:
        where.append(OrderRow.asset_id == asset)
    return where


def _sources(order: Order) -> list[Any]:
    return SOURCES.dump_python(order.runsheet.sources, mode="json")  # type: ignore[no-any-return]


@dataclass(frozen=True, slots=True)
class Orders:
    """Repository of orders and the field's record."""

    session: Session
    kept: Kept

    def add(self, order: Order) -> None:
        """Add an order with its frozen runsheet."""
        self.session.add(
            ORDERS.new_row(
                order,
                asset_id=order.asset.code,
                runsheet=dump_value(order.runsheet),
                trace=TRACES.dump_python(order.trace, mode="json"),
                matched_on=None if order.matched_on is None else dump_value(order.matched_on),
                terms=dump_value(order.terms),
                sources=_sources(order),
                planned_minutes=heading_of(order).planned_minutes,
            )
        )
        self.session.flush()

    def reissue(self, order: Order, change: OrderChange) -> None:
        """Put another runsheet in place of the one issued, and keep why.

        The database refuses it once the field has recorded something.
        """
        row = self.session.get(OrderRow, order.id)
        assert row is not None
        row.runsheet = dump_value(order.runsheet)
        row.sources, row.planned_minutes = _sources(order), heading_of(order).planned_minutes
        self.session.add(ORDER_CHANGES.new_row(change))
        self.session.flush()

    def changes(self, order_id: str | None = None) -> tuple[OrderChange, ...]:
        """What was added and removed by hand, oldest first: on one order, or on all."""
        query = select(OrderChangeRow).order_by(OrderChangeRow.id)
        if order_id is not None:
            query = query.where(OrderChangeRow.order_id == order_id)
        return tuple(ORDER_CHANGES.read(row) for row in self.session.scalars(query))

    def kinds(self, order_ids: Iterable[str], since: datetime | None) -> dict[str, tuple[str, str]]:
        """Equipment and symptom of those orders that were logged since then and not cancelled, by order."""
        named, equipment = list(dict.fromkeys(order_ids)), self._equipment()
        found = {}
        for start in range(0, len(named), _AT_ONCE):
            query = select(OrderRow.id, OrderRow.asset_id, OrderRow.symptom).where(
                OrderRow.id.in_(named[start : start + _AT_ONCE]), *_counted(since)
            )
            found.update({r.id: (equipment[r.asset_id], r.symptom) for r in self.session.execute(query)})
        return found

    def n_of_kinds(self, since: datetime | None) -> Counter[tuple[str, str]]:
        """How many orders were logged since then and not cancelled, by equipment and symptom."""
        equipment = self._equipment()
        # Grouped by the bare column, each order would be read in the order of its asset; so an index holds all it takes.
        asset = func.coalesce(OrderRow.asset_id, "").label("asset")
        query = select(asset, OrderRow.symptom, func.count().label("n")).where(*_counted(since))
        found = Counter[tuple[str, str]]()
        for row in self.session.execute(query.group_by(asset, OrderRow.symptom)):
            found[equipment[row.asset], row.symptom] += row.n
        return found

    def _equipment(self) -> dict[str, str]:
        rows = self.session.execute(select(AssetRow.id, AssetRow.equipment))
        return {row.id: row.equipment for row in rows}

    def get(self, order_id: str) -> Order | None:
        """The order, if there is one."""
        row = self.session.get(OrderRow, order_id)
        if row is None:
            return None
        placed = Register(self.session).asset(row.asset_id)
        assert placed is not None
        return _order(row, placed)

    def find(
        self,
        *,
        states: Sequence[OrderState] = (),
        technician: str | None = None,
        incident_type: str | None = None,
        asset: str | None = None,
    ) -> tuple[Order, ...]:
        """Orders that meet all the filters given, newest first."""
        where = _filters(states, technician, incident_type, asset)
        assets = {a.asset.code: a for a in Register(self.session).assets()}
        query = select(OrderRow).where(*where).order_by(OrderRow.logged_at.desc(), OrderRow.id.desc())
        return tuple(_order(row, assets[row.asset_id]) for row in self.session.scalars(query))

    def headings(
        self,
        *,
        states: Sequence[OrderState] = (),
        technician: str | None = None,
        incident_type: str | None = None,
    ) -> tuple[OrderHeading, ...]:
        """As :meth:`find`, without reading runsheets."""
        query = (
            select(*_HEADING)
            .where(*_filters(states, technician, incident_type, None))
            .order_by(OrderRow.logged_at.desc(), OrderRow.id.desc())
        )
        return self._headings(query)

    def headings_of(self, orders: Sequence[str]) -> Mapping[str, OrderHeading]:
        """The headings of these orders, by identity."""
        return {
            h.id: h
            for start in range(0, len(orders), _AT_ONCE)
            for h in self._headings(
                select(*_HEADING).where(OrderRow.id.in_(orders[start : start + _AT_ONCE]))
            )
        }

    def page(self, wanted: WantedOrders, *, offset: int, limit: int) -> tuple[int, tuple[OrderHeading, ...]]:
        """How many orders there are, and a page of their headings, newest first."""
        query = select(*_HEADING).where(*self._wanted(wanted))
        total = self.session.scalar(select(func.count()).select_from(query.subquery())) or 0
        query = query.order_by(OrderRow.logged_at.desc(), OrderRow.id.desc())
        return total, self._headings(query.offset(offset).limit(limit))

    def _wanted(self, wanted: WantedOrders) -> list[ColumnElement[bool]]:
        where = _filters(wanted.states, wanted.technician, wanted.incident_type, wanted.asset)
        for word in wanted.words:
            at = select(AssetRow.id).join(SiteRow, AssetRow.site_id == SiteRow.id)
            names = (AssetRow.name, SiteRow.name, SiteRow.district)
            goes = select(PersonRow.id).where(PersonRow.name.icontains(word, autoescape=True))
            labelled = [code for code, label in wanted.symptoms.items() if word.lower() in label.lower()]
            where.append(
                or_(
                    OrderRow.id.icontains(word, autoescape=True),
                    OrderRow.report.icontains(word, autoescape=True),
                    OrderRow.symptom.in_(labelled),
                    OrderRow.technician_id.in_(goes),
                    OrderRow.asset_id.in_(
                        at.where(or_(*(name.icontains(word, autoescape=True) for name in names)))
                    ),
                )
            )
        return where

    def _headings(self, query: Select[Any]) -> tuple[OrderHeading, ...]:
        rows = self.session.execute(query).all()
        assets = Register(self.session).assets_of({row.asset_id for row in rows})
        return tuple(
            OrderHeading(
                id=row.id,
                asset=assets[row.asset_id].asset,
                site=assets[row.asset_id].site,
                symptom=row.symptom,
                report=row.report,
                incident_type=row.incident_type_id,
                sources=SOURCES.validate_python(row.sources),
                logged_at=row.logged_at,
                state=cast(OrderState, row.state),
                technician=row.technician_id,
                planned_for=row.planned_for,
                finished_at=row.finished_at,
                planned_minutes=row.planned_minutes,
                priority=row.priority,
                fields=row.fields,
                due_on=row.due_on,
            )
            for row in rows
        )

    def reports(self) -> Iterator[Reported]:
        """What was reported with each order that was not cancelled, where anything was, oldest first."""
        query = (
            select(OrderRow.id, OrderRow.symptom, OrderRow.report)
            .where(OrderRow.report != "", OrderRow.state != "Cancelled")
            .order_by(OrderRow.logged_at, OrderRow.id)
        )
        for row in self.session.execute(query):
            yield Reported(order=row.id, symptom=row.symptom, text=row.report)

    def facts(self) -> tuple[OrderInShort, ...]:
        """Every order but the cancelled ones in short, oldest first; runsheets are not read.

        Of what was read before, only the states are read again, and of these only those that can still
        become others: all else of an order never changes.
        """
        kept = self.kept.in_short
        of_state = select(OrderRow.id, OrderRow.state)
        total = self.session.scalar(select(func.count()).select_from(OrderRow)) or 0
        changing = self.session.execute(of_state.where(OrderRow.state != LASTING))
        states = {row.id: row.state for row in changing}
        if total != len(kept):
            query = select(OrderRow.id).order_by(OrderRow.logged_at, OrderRow.id)
            orders = list(self.session.scalars(query))
            read = self._in_short([order for order in orders if order not in kept])
            kept = {order: read.get(order) or kept[order] for order in orders}
            if only_reads(self.session):
                self.kept.in_short = kept
        out = []
        for order, held in kept.items():
            state = states.get(order, LASTING)
            if not counts(cast(OrderState, state)):
                continue
            if held.state != state:
                # Somebody may be going over what is kept: it is put in place of itself, never added to.
                held = kept[order] = replace(held, state=cast(OrderState, state))
            out.append(held)
        return tuple(out)

    def _in_short(self, orders: Sequence[str]) -> dict[str, OrderInShort]:
        out = {}
        for start in range(0, len(orders), _AT_ONCE):
            query = select(
                OrderRow.id,
                OrderRow.asset_id,
                OrderRow.symptom,
                OrderRow.incident_type_id,
                OrderRow.logged_at,
                OrderRow.state,
                OrderRow.priority,
                OrderRow.matched_on,
            ).where(OrderRow.id.in_(orders[start : start + _AT_ONCE]))
            for row in self.session.execute(query):
                matched = None if row.matched_on is None else ORDER_FACTS.validate_python(row.matched_on)
                out[row.id] = OrderInShort(
                    id=row.id,
                    asset=row.asset_id,
                    symptom=row.symptom,
                    incident_type=row.incident_type_id,
                    logged_at=row.logged_at,
                    state=cast(OrderState, row.state),
                    priority=row.priority,
                    matched_on=matched,
                    typed=matched and replace(matched, incident_type=row.incident_type_id or ""),
                )
        return out

    def mark_of_all(self) -> tuple[object, ...]:
        """A mark that is another one as soon as an order comes in, is in another state or is changed by hand."""
        states = select(OrderRow.state, func.count()).group_by(OrderRow.state).order_by(OrderRow.state)
        return (
            *((row[0], row[1]) for row in self.session.execute(states)),
            self.session.scalar(select(func.max(OrderChangeRow.id))),
        )

    def n_not_cancelled(self) -> int:
        """How many orders there are but the cancelled ones."""
        query = select(func.count()).select_from(OrderRow).where(OrderRow.state != NOT_COUNTED)
        return self.session.scalar(query) or 0

    def n_by_asset(self) -> Mapping[str, int]:
        """How many orders there are for each asset that has any."""
        query = select(OrderRow.asset_id, func.count()).group_by(OrderRow.asset_id)
        return dict(self.session.execute(query).all())

    def count(self, states: Sequence[OrderState]) -> int:
        """How many orders are in one of the states."""
        query = select(func.count()).select_from(OrderRow).where(OrderRow.state.in_(states))
        return self.session.scalar(query) or 0

    def save(self, order: Order) -> None:
        """Write back everything of an order but its runsheet, which is frozen."""
        row = self.session.get(OrderRow, order.id)
        assert row is not None
        row.technician_id = order.technician
        row.planned_for = order.planned_for
        row.state = order.state
        row.finished_at = order.finished_at
        row.reviewed_at = order.reviewed_at
        row.reviewed_by = order.reviewed_by
        row.review_note = order.review_note
        row.fields = dict(order.fields)
        self.session.flush()
