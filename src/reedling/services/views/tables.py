"""A decision table as its page shows it: a sheet of texts, with what follows from each row."""

from __future__ import annotations

import csv
import io
import re
from collections import Counter
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
    Row,
)
from reedling.core.guidance.documents import DocumentAtHand, Revision, RevisionStanding
from reedling.core.guidance.revisions import DocumentKind, RevisionState, next_letter
from reedling.core.matching.applicability import NamedDocument
from reedling.core.matching.cell_reading import Vocabulary
from reedling.core.matching.cells import Naming, cell_words, naming_of
from reedling.core.matching.lookup import look_up
from reedling.core.matching.table_soundness import table_problems
from reedling.errors import Problem
from reedling.exchange.csv_cells import cell_of
from reedling.services.context import Context
from reedling.services.shared.current import current_revision, document_at_hand, etag_of
from reedling.services.shared.guidance_in_force import facts_of_orders, with_type
from reedling.services.shared.known_documents import (
    document_titles,
    incident_type_titles,
    known_to_tables,
    vocabulary,
)
from reedling.services.shared.links import DocumentLink, link_of
from reedling.services.views.documents import history_with, letter_in_force
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
    """A row as texts: one for each column, and one for the documents."""

    id: str
    texts: tuple[str, ...]
    documents: tuple[NamedDocument, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class TableView:
    """A revision to work on of a decision table; as a plan's view. ``more_columns`` are those it could have besides."""

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
    in_force: str | None
    next_letter: str
    history: tuple[RevisionStanding, ...]
    used_in: tuple[DocumentLink, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class TableChange:
    """What an edit made of a table, and no more: a table of thousands of rows is not sent for one cell.

    ``rows`` are those added or changed, ``row_ids`` the identities of all rows where some were added,
    removed or moved, ``columns`` and ``more_columns`` are given where the columns changed.
    """

    document: str
    letter: str
    state: RevisionState
    etag: str
    changed_at: datetime
    content: TableHead
    columns: tuple[ColumnView, ...] | None
    more_columns: tuple[ColumnView, ...] | None
    rows: tuple[RowView, ...]
    row_ids: tuple[str, ...] | None
    history: tuple[RevisionStanding, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class TableProblem:
    """A problem of a table, and the row it stands in: rows may move before it is shown."""

    row: str | None
    problem: Problem


@dataclass(frozen=True, slots=True, kw_only=True)
class TableFindings:
    """What follows from a table as it stands at ``etag``: its problems, and how many past orders met each row.

    ``n_met`` is by row, of those that any order met; ``n_orders`` past orders were asked.
    """

    etag: str
    problems: tuple[TableProblem, ...]
    n_met: Mapping[str, int]
    n_orders: int


def table_view(unit: Unit, at_hand: DocumentAtHand) -> TableView:
    """A decision table as its page shows it."""
    revision = at_hand.revision
    table = revision.content
    assert isinstance(table, DecisionTable)
    wording = _Wording.read(unit)
    columns, more_columns = _columns(unit, table, wording.naming)
    return TableView(
        document=revision.document,
        kind=revision.kind,
        letter=revision.letter,
        state=revision.state,
        etag=etag_of(revision),
        changed_at=revision.changed_at,
        note=revision.note,
        content=_head(table),
        columns=columns,
        more_columns=more_columns,
        rows=tuple(wording.row(table, row) for row in table.rows),
        documents=tuple(NamedDocument(document=d, title=t) for d, t in wording.titles.items()),
        in_force=letter_in_force(at_hand.standings),
        next_letter=next_letter(at_hand.standings[-1].letter),
        history=at_hand.standings,
        used_in=(),
    )


def table_change(unit: Unit, at_hand: DocumentAtHand, after: Revision) -> TableChange:
    """What an edit is about to make of the table at hand."""
    before, table = at_hand.revision.content, after.content
    assert isinstance(before, DecisionTable)
    assert isinstance(table, DecisionTable)
    wording = _Wording.read(unit)
    other_columns = before.columns != table.columns
    columns, more_columns = _columns(unit, table, wording.naming) if other_columns else (None, None)
    held = {} if other_columns else {row.id: row for row in before.rows}
    row_ids = tuple(row.id for row in table.rows)
    return TableChange(
        document=after.document,
        letter=after.letter,
        state=after.state,
        etag=etag_of(after),
        changed_at=after.changed_at,
        content=_head(table),
        columns=columns,
        more_columns=more_columns,
        rows=tuple(wording.row(table, row) for row in table.rows if held.get(row.id) != row),
        row_ids=None if row_ids == tuple(row.id for row in before.rows) else row_ids,
        history=history_with(at_hand.standings, after),
    )


def table_findings(context: Context, document: str) -> TableFindings:
    """The problems of a decision table at the revision to work on, and how many orders met each row."""
    with context.reading() as unit:
        revision = current_revision(unit, document, ("decision table",))
        table = revision.content
        assert isinstance(table, DecisionTable)
        lists = unit.catalogues.get()
        return TableFindings(
            etag=etag_of(revision),
            problems=tuple(
                TableProblem(row=_row_of(table, p), problem=p)
                for p in table_problems(table, lists, known_to_tables(unit, but=document))
            ),
            n_met=_orders_by_row(unit, table, lists),
            n_orders=unit.orders.n_not_cancelled(),
        )


def _row_of(table: DecisionTable, problem: Problem) -> str | None:
    found = re.match(r"/rows/(\d+)", problem.path)
    return table.rows[int(found.group(1))].id if found else None


@dataclass(frozen=True, slots=True)
class _Wording:
    """How cells and documents are spoken of here."""

    naming: Naming
    titles: Mapping[str, str]

    @classmethod
    def read(cls, unit: Unit) -> _Wording:
        types = incident_type_titles(unit)
        return cls(naming_of(unit.catalogues.get(), incident_types=types), document_titles(unit))

    def row(self, table: DecisionTable, row: Row) -> RowView:
        """A row as texts."""
        return RowView(
            id=row.id,
            texts=tuple(_text(row.cells.get(c.key), c, self.naming) for c in table.columns),
            documents=tuple(NamedDocument(document=d, title=self.titles.get(d, d)) for d in row.documents),
        )


def _head(table: DecisionTable) -> TableHead:
    return TableHead(
        title=table.title, summary=table.summary, never_together=table.never_together, after=table.after
    )


def _columns(
    unit: Unit, table: DecisionTable, naming: Naming
) -> tuple[tuple[ColumnView, ...], tuple[ColumnView, ...]]:
    """The columns that the table has, and those that it could have besides."""
    words, have = vocabulary(unit), {c.key for c in table.columns}
    others = (c for c in _all_columns(unit.catalogues.get()) if c.key not in have)
    return (
        tuple(_column_view(c, naming, words) for c in table.columns),
        tuple(_column_view(c, naming, words) for c in others),
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


def _orders_by_row(unit: Unit, table: DecisionTable, lists: Catalogue) -> Mapping[str, int]:
    """How many past orders each row would speak for, by row."""
    lookup = look_up([r.cells for r in table.rows], table.columns, EquipmentTree.of(lists.equipment))
    orders = unit.orders.facts()
    counted: Counter[int] = Counter()
    for facts in with_type(facts_of_orders(unit, orders), orders).values():
        counted.update(lookup.rows(facts))
    return {table.rows[place].id: n for place, n in counted.items()}


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
        return table_view(unit, document_at_hand(unit, document, ("decision table",)))


def table_csv(context: Context, document: str) -> tuple[str, str]:
    """The letter of the revision to work on, and its rows as CSV (RFC 4180): a cell for each column, then the documents."""
    view = table_document(context, document)
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(cell_of(text) for text in (*(column.heading for column in view.columns), "documents"))
    for row in view.rows:
        documents = "; ".join(named.document for named in row.documents)
        writer.writerow(cell_of(text) for text in (*row.texts, documents))
    return view.letter, out.getvalue()
