"""A decision table as its page shows it: a sheet of texts, with what follows from each row."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime

from reedling.core.guidance.catalogue import Catalogue, EquipmentTree
from reedling.core.guidance.decision_tables import (
    COLUMN_KINDS,
    PRIORITIES,
    After,
    Cell,
    Column,
    DecisionTable,
    NeverTogether,
)
from reedling.core.guidance.documents import Revision
from reedling.core.guidance.revisions import DocumentKind, RevisionState, next_letter
from reedling.core.matching.applicability import NamedDocument
from reedling.core.matching.cell_reading import Vocabulary
from reedling.core.matching.cells import Naming, cell_words, naming_of
from reedling.core.matching.lookup import look_up
from reedling.core.matching.table_soundness import table_problems
from reedling.errors import Problem
from reedling.services.context import Context
from reedling.services.shared.current import current_revision, etag_of
from reedling.services.shared.guidance_in_force import facts_of_orders, with_type
from reedling.services.shared.known_documents import document_titles, known_to_tables, vocabulary
from reedling.services.shared.links import DocumentLink, link_of
from reedling.services.views.documents import RevisionLine, history_of, letter_in_force
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class TableHead:
    """What a table says besides its columns and rows."""

    title: str
    summary: str
    never_together: tuple[NeverTogether, ...]
    after: tuple[After, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnView:
    """A column: its heading, and values to choose from while typing."""

    column: Column
    key: str
    heading: str
    options: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class RowView:
    """A row as texts: one for each column, and one for the documents. ``n_orders`` past orders met it."""

    id: str
    number: int
    texts: tuple[str, ...]
    documents: tuple[NamedDocument, ...]
    n_orders: int


@dataclass(frozen=True, slots=True, kw_only=True)
class TableView:
    """A revision to work on of a decision table; as a plan's view.

    ``more_columns`` are those it could have besides. ``n_orders`` past orders were counted for rows.
    """

    document: str
    kind: DocumentKind
    letter: str
    state: RevisionState
    etag: str
    changed_at: datetime
    note: str
    content: TableHead
    columns: tuple[ColumnView, ...]
    more_columns: tuple[ColumnView, ...]
    rows: tuple[RowView, ...]
    documents: tuple[NamedDocument, ...]
    problems: tuple[Problem, ...]
    in_force: str | None
    next_letter: str
    history: tuple[RevisionLine, ...]
    used_in: tuple[DocumentLink, ...]
    n_orders: int


def table_view(unit: Unit, revision: Revision) -> TableView:
    """A revision of a decision table with all that follows from it."""
    table = revision.content
    assert isinstance(table, DecisionTable)
    lists = unit.catalogues.get()
    known = known_to_tables(unit, but=revision.document)
    naming = naming_of(lists, incident_types=known.incident_types)
    titles = document_titles(unit)
    history = history_of(unit, revision.document, unit.people.names())
    counted = _orders_by_row(unit, table, lists)
    words = vocabulary(unit)
    have = {c.key for c in table.columns}
    return TableView(
        document=revision.document,
        kind=revision.kind,
        letter=revision.letter,
        state=revision.state,
        etag=etag_of(revision),
        changed_at=revision.changed_at,
        note=revision.note,
        content=TableHead(
            title=table.title, summary=table.summary, never_together=table.never_together, after=table.after
        ),
        columns=tuple(_column_view(c, naming, words) for c in table.columns),
        more_columns=tuple(_column_view(c, naming, words) for c in _all_columns(lists) if c.key not in have),
        rows=tuple(
            RowView(
                id=row.id,
                number=n,
                texts=tuple(_text(row.cells.get(c.key), c, naming) for c in table.columns),
                documents=tuple(NamedDocument(document=d, title=titles.get(d, d)) for d in row.documents),
                n_orders=counted.get(n - 1, 0),
            )
            for n, row in enumerate(table.rows, 1)
        ),
        documents=tuple(NamedDocument(document=d, title=t) for d, t in titles.items()),
        problems=table_problems(table, lists, known),
        in_force=letter_in_force(history),
        next_letter=next_letter(history[-1].letter),
        history=history,
        used_in=(),
        n_orders=unit.orders.n_not_cancelled(),
    )


def _all_columns(lists: Catalogue) -> tuple[Column, ...]:
    """Every column a table could have."""
    return (
        *(Column(kind=k) for k in COLUMN_KINDS if k != "meter"),
        *(Column(kind="meter", meter=m.code) for m in lists.meters),
    )


def _text(cell: Cell | None, column: Column, naming: Naming) -> str:
    return "" if cell is None else cell_words(cell, column, naming)


def _column_view(column: Column, naming: Naming, words: Vocabulary) -> ColumnView:
    offered: Iterable[str]
    match column.kind:
        case "equipment" | "model" | "symptom" | "contract" | "incident type":
            offered = naming.labels[column.kind].values()
        case "priority":
            offered = PRIORITIES
        case "warranty":
            offered = ("yes", "no")
        case "customer" | "site tag":
            offered = words.values[column.kind].values()
        case _:
            offered = ()
    return ColumnView(column=column, key=column.key, heading=naming.heading(column), options=tuple(offered))


def _orders_by_row(unit: Unit, table: DecisionTable, lists: Catalogue) -> Mapping[int, int]:
    """How many past orders each row would speak for, by its place."""
    lookup = look_up([r.cells for r in table.rows], table.columns, EquipmentTree.of(lists.equipment))
    orders = unit.orders.facts()
    counted: dict[int, int] = {}
    for facts in with_type(facts_of_orders(unit, orders), orders).values():
        for place in lookup.rows(facts):
            counted[place] = counted.get(place, 0) + 1
    return counted


@dataclass(frozen=True, slots=True, kw_only=True)
class TableLine:
    """A decision table in the list of them."""

    link: DocumentLink
    n_rows: int
    in_force: str | None


def tables(context: Context) -> tuple[TableLine, ...]:
    """Every decision table, by identity."""
    with context.reading() as unit:
        out = []
        for document in unit.documents.of_kind("decision table"):
            revision = current_revision(unit, document)
            assert isinstance(revision.content, DecisionTable)
            released = unit.documents.released(document)
            out.append(
                TableLine(
                    link=link_of(revision),
                    n_rows=len(revision.content.rows),
                    in_force=released.letter if released else None,
                )
            )
        return tuple(out)


def table_document(context: Context, document: str) -> TableView:
    """A decision table at the revision to work on."""
    with context.reading() as unit:
        return table_view(unit, current_revision(unit, document, ("decision table",)))
