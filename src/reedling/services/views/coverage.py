"""How orders are served: the coverage map, findings about rows, and what a draft would change."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import partial

from reedling.core.guidance.decision_tables import Column, DecisionTable
from reedling.core.guidance.documents import Revision
from reedling.core.matching.applicability import Guidance, serving_rows
from reedling.core.matching.coverage import Across, CoverageMap, coverage_map, orders_in
from reedling.core.matching.domain import Domain, domain_of
from reedling.core.matching.impact import ImpactGroup, impact_of
from reedling.core.matching.table_checks import Gaps, RowFinding, find_gaps, row_findings
from reedling.core.matching.table_differences import row_words
from reedling.core.orders.orders import OrderInShort
from reedling.core.refining.missing_rows import ByHand
from reedling.core.register.assets import asset_words
from reedling.core.runsheet.job_state import OPEN_STATES
from reedling.services.context import Context
from reedling.services.shared.by_hand import changed_by_hand
from reedling.services.shared.current import current_revision, etag_of
from reedling.services.shared.guidance_in_force import (
    facts_of_orders,
    guidance_in_force,
    surroundings,
    with_type,
)
from reedling.store.unit import Unit

MAX_MENTIONED = 100
"""Orders that are named where there are many; the rest are counted."""


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderMention:
    """An order as a list of matches speaks of it."""

    order: str
    asset: str
    symptom: str
    is_open: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Coverage:
    """The map with what stands behind it: findings about rows, gaps, and changes by hand."""

    map: CoverageMap
    findings: tuple[RowFinding, ...]
    gaps: Gaps
    by_hand: tuple[ByHand, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class MapCellPage:
    """One cell of the map opened: the latest of its orders, and the rows that can speak for it."""

    orders: tuple[OrderMention, ...]
    n_orders: int
    rows: tuple[RowMention, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class RowMention:
    """A row in words, with where it stands."""

    table: str
    number: int
    row: str
    sentence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class NoticedGroup:
    """Orders that would get something different, the latest of them named, with what changes."""

    change: ImpactGroup
    orders: tuple[OrderMention, ...]
    n_orders: int
    n_open: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Noticed:
    """Who would notice a draft's release: groups, out of ``n_orders`` past and open orders."""

    groups: tuple[NoticedGroup, ...]
    n_orders: int
    n_changed: int
    n_open_changed: int


def coverage(context: Context, across: Across, *, draft: str | None = None) -> Coverage:
    """How orders are served by what is in force; ``draft`` names a table to take as it is written."""
    with context.reading() as unit:
        drafts = _drafts(unit, draft)
        key = ("coverage", across, *(etag_of(d) for d in drafts))
        return unit.kept_answer(key, partial(_coverage, across=across, drafts=drafts))


def _coverage(unit: Unit, *, across: Across, drafts: Sequence[Revision]) -> Coverage:
    guidance = guidance_in_force(unit, instead=drafts).guidance
    orders = unit.orders.facts()
    facts = with_type(facts_of_orders(unit, orders), orders)
    domain = _domain(unit, guidance, across)
    types, serving = tuple(guidance.incident_types), serving_rows(guidance)
    return Coverage(
        map=coverage_map(serving, domain, facts.values(), across, incident_types=types),
        findings=row_findings(
            guidance.rows,
            domain,
            never_together=guidance.never_together,
            incident_types=types,
            parts_of=guidance.parts_of,
        ),
        gaps=find_gaps(serving, domain, facts, incident_types=types),
        by_hand=changed_by_hand(unit),
    )


def map_cell(
    context: Context, equipment: str, across: Across, code: str, *, draft: str | None = None
) -> MapCellPage:
    """The orders and rows of one cell of the map."""
    with context.reading() as unit:
        drafts = _drafts(unit, draft)
        key = ("cell", equipment, across, code, *(etag_of(d) for d in drafts))
        return unit.kept_answer(
            key, partial(_map_cell, equipment=equipment, across=across, code=code, drafts=drafts)
        )


def _map_cell(
    unit: Unit, *, equipment: str, across: Across, code: str, drafts: Sequence[Revision]
) -> MapCellPage:
    guidance = guidance_in_force(unit, instead=drafts).guidance
    orders = unit.orders.facts()
    facts = with_type(facts_of_orders(unit, orders), orders)
    domain = _domain(unit, guidance, across)
    types = tuple(guidance.incident_types)
    found = coverage_map(serving_rows(guidance), domain, (), across, incident_types=types)
    cell = next((c for c in found.cells if (c.equipment, c.across) == (equipment, code)), None)
    wanted = set(cell.rows) if cell else set()
    inside = list(reversed(orders_in(facts, equipment, across, code)))
    return MapCellPage(
        orders=_mentions(unit, orders, inside[:MAX_MENTIONED]),
        n_orders=len(inside),
        rows=tuple(
            RowMention(
                table=r.table,
                number=r.number,
                row=r.row.id,
                sentence=row_words(
                    DecisionTable(title="", columns=r.columns, rows=(r.row,)), r.row, guidance.naming
                ),
            )
            for r in guidance.rows
            if r.words in wanted
        ),
    )


def who_would_notice(context: Context, document: str) -> Noticed:
    """Past and open orders that would get something different were a table's draft in force."""
    with context.reading() as unit:
        revision = current_revision(unit, document, ("decision table",))
        return unit.kept_answer(("noticed", etag_of(revision)), partial(_noticed, revision=revision))


def _noticed(unit: Unit, *, revision: Revision) -> Noticed:
    before = guidance_in_force(unit).guidance
    after = guidance_in_force(unit, instead=[revision]).guidance
    orders = unit.orders.facts()
    impact = impact_of(before, after, facts_of_orders(unit, orders))
    is_open = {o.id for o in orders if o.state in OPEN_STATES}
    groups = [
        NoticedGroup(
            change=replace(group, orders=group.orders[-MAX_MENTIONED:]),
            orders=_mentions(unit, orders, list(reversed(group.orders))[:MAX_MENTIONED]),
            n_orders=len(group.orders),
            n_open=sum(o in is_open for o in group.orders),
        )
        for group in impact.groups
    ]
    return Noticed(
        groups=tuple(groups),
        n_orders=impact.n_orders,
        n_changed=impact.n_changed,
        n_open_changed=sum(g.n_open for g in groups),
    )


def _drafts(unit: Unit, draft: str | None) -> list[Revision]:
    return [current_revision(unit, draft, ("decision table",))] if draft else []


def _domain(unit: Unit, guidance: Guidance, across: Across) -> Domain:
    columns: Sequence[Column] = tuple(dict.fromkeys(c for r in guidance.rows for c in r.columns))
    return domain_of(
        [r.row.cells for r in guidance.rows],
        columns,
        unit.catalogues.get(),
        guidance.naming,
        incident_types=tuple(guidance.incident_types),
        around=surroundings(unit),
        always=("equipment", "symptom", across),
    )


def _mentions(unit: Unit, orders: Sequence[OrderInShort], wanted: Sequence[str]) -> tuple[OrderMention, ...]:
    assets = {a.asset.code: a for a in unit.register.assets()}
    labels = {s.code: s.label for s in unit.catalogues.get().symptoms}
    names = set(wanted)
    found = {o.id: o for o in orders if o.id in names}
    return tuple(
        OrderMention(
            order=o.id,
            asset=asset_words(assets[o.asset].asset, assets[o.asset].site),
            symptom=labels.get(o.symptom, o.symptom),
            is_open=o.state in OPEN_STATES,
        )
        for o in (found[order] for order in wanted)
    )
