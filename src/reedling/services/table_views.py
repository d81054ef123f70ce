"""A decision table as its page shows it: a sheet of texts, with what follows from each row."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
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
from reedling.core.guidance.documents import Revision, RevisionHeading
from reedling.core.guidance.revisions import PLAN_KINDS, DocumentKind, RevisionState, next_letter
from reedling.core.matching.applicability import NamedDocument
from reedling.core.matching.cell_reading import Vocabulary, vocabulary_of
from reedling.core.matching.cells import Naming, cell_words, naming_of
from reedling.core.matching.lookup import look_up
from reedling.core.matching.table_soundness import Known, Standing, table_problems
from reedling.errors import Problem
from reedling.services.current import etag_of
from reedling.services.document_views import (
    DocumentLink,
    RevisionLine,
    history_of,
    letter_in_force,
)
from reedling.services.match_guidance import facts_of_orders, with_type
from reedling.store.unit import Unit

BEING_WRITTEN: frozenset[RevisionState] = frozenset(("Draft", "In review"))


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


def known_to_tables(unit: Unit, *, but: str = "", going: Iterable[str] = ()) -> Known:
    """What tables may name, and what tables in force but one declare.

    Documents in ``going`` are taken to be in force, since they are released together.
    """
    together = set(going)
    documents: dict[str, Standing] = {}
    types: dict[str, str] = {}
    for document, revisions in _nameable(unit).items():
        states = {r.state for r in revisions}
        if "Released" in states or document in together:
            documents[document] = "in force"
        else:
            documents[document] = "on its way" if states & BEING_WRITTEN else "withdrawn"
        if revisions[0].kind == "incident type":
            types[document] = _now(revisions).title
    after = tuple(
        a
        for r in unit.documents.all_released("decision table")
        if r.document != but and isinstance(r.content, DecisionTable)
        for a in r.content.after
    )
    return Known(documents=documents, incident_types=types, after=after)


def document_titles(unit: Unit) -> dict[str, str]:
    """Every document a row may name, by title as it is being written or in force."""
    return {
        document: _now(revisions).title
        for document, revisions in _nameable(unit).items()
        if {r.state for r in revisions} & {*BEING_WRITTEN, "Released"}
    }


def _nameable(unit: Unit) -> dict[str, list[RevisionHeading]]:
    """The revisions of every document a row may name, by kind as lists of documents show them."""
    found: dict[str, list[RevisionHeading]] = {}
    for heading in unit.documents.headings():
        found.setdefault(heading.document, []).append(heading)
    order = {kind: n for n, kind in enumerate((*PLAN_KINDS, "incident type"))}
    known = {d: r for d, r in found.items() if r[0].kind in order}
    return dict(sorted(known.items(), key=lambda pair: (order[pair[1][0].kind], pair[0])))


def _now(revisions: Sequence[RevisionHeading]) -> RevisionHeading:
    """The one being written if there is one, else the one in force, else the last."""
    rank = {"Draft": 0, "In review": 0, "Released": 1}
    return min(reversed(revisions), key=lambda r: rank.get(r.state, 2))


def vocabulary(unit: Unit) -> Vocabulary:
    """What may be typed into cells here."""
    sites = unit.register.sites()
    return vocabulary_of(
        unit.catalogues.get(),
        documents=document_titles(unit),
        incident_types=unit.documents.of_kind("incident type"),
        customers=sorted({s.customer for s in sites if s.customer}),
        tags=sorted({t for s in sites for t in s.tags}),
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
