"""What is plainly wrong with a decision table, read cell by cell."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.decision_tables import (
    ORDERED_KINDS,
    PRIORITIES,
    After,
    Cell,
    Column,
    ColumnKind,
    DecisionTable,
    documents_of,
    ring_of,
)
from reedling.core.matching.cells import Naming, is_yearly, naming_of, number_of
from reedling.errors import Problem

Availability = Literal["in force", "on its way", "withdrawn"]
"""Where a document stands that a table names."""

ROWS_TO_NAME = 3
"""So many rows are named in a problem that many have in common."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Known:
    """What a table may name: documents with where they stand, and titles of incident types.

    ``after`` are declarations of other tables in force.
    """

    documents: Mapping[str, Availability] = field(default_factory=dict)
    incident_types: Mapping[str, str] = field(default_factory=dict)
    after: tuple[After, ...] = ()


def table_problems(table: DecisionTable, lists: Catalogue, known: Known) -> tuple[Problem, ...]:
    """Every problem of a table, beside its JSON pointer; errors keep it from review."""
    naming = naming_of(lists, incident_types=known.incident_types)
    found = [
        *_whole(table),
        *_columns(table, lists),
        *_rows(table, naming, lists, known),
        *_documents(table, known),
        *_relations(table, known),
    ]
    return tuple(found)


def _error(code: str, path: str, message: str, hint: str = "") -> Problem:
    return Problem(code=code, path=path, message=message, hint=hint)


def _whole(table: DecisionTable) -> Iterator[Problem]:
    if not table.title.strip():
        yield _error("tables.title", "/title", "The table has no title.")
    if not table.rows and not table.never_together and not table.after:
        yield _error("tables.empty", "/rows", "The table has no rows.", "Add the first with n.")
    for identity, count in Counter(row.id for row in table.rows).items():
        if count > 1:
            yield _error("tables.row_identity", "/rows", f"The identity {identity} is used by {count} rows.")


def _columns(table: DecisionTable, lists: Catalogue) -> Iterator[Problem]:
    meters = {m.code for m in lists.meters}
    for key, count in Counter(c.key for c in table.columns).items():
        if count > 1:
            yield _error("tables.column_twice", "/columns", f"The column {key} stands {count} times.")
    for i, column in enumerate(table.columns):
        if column.kind == "meter" and column.meter not in meters:
            yield _error(
                "tables.meter", f"/columns/{i}", f"There is no meter {column.meter or 'without a name'}."
            )


def _rows(table: DecisionTable, naming: Naming, lists: Catalogue, known: Known) -> Iterator[Problem]:
    columns = {c.key: c for c in table.columns}
    values = _values(lists, known)
    for i, row in enumerate(table.rows):
        for key, cell in row.cells.items():
            path = f"/rows/{i}/cells/{key.replace('~', '~0').replace('/', '~1')}"
            if key not in columns:
                yield _error(
                    "tables.cell",
                    path,
                    f"Row {i + 1} has a cell for {key}, which is no column.",
                    "Remove it.",
                )
                continue
            yield from _cell(i, path, cell, columns[key], naming, values)
        if not row.documents:
            yield _error(
                "tables.no_document",
                f"/rows/{i}/documents",
                f"Row {i + 1} names no document.",
                "Say what it puts on an order, or remove it.",
            )


def _values(lists: Catalogue, known: Known) -> Mapping[ColumnKind, frozenset[str]]:
    return {
        "equipment": frozenset(c.code for c in lists.equipment),
        "model": frozenset(m.code for m in lists.models),
        "symptom": frozenset(s.code for s in lists.symptoms),
        "contract": frozenset(c.code for c in lists.contracts),
        "incident type": frozenset(known.incident_types),
        "warranty": frozenset(("yes", "no")),
        "priority": frozenset(PRIORITIES),
    }


def _cell(
    row: int,
    path: str,
    cell: Cell,
    column: Column,
    naming: Naming,
    values: Mapping[ColumnKind, frozenset[str]],
) -> Iterator[Problem]:
    where = f"Row {row + 1}, {naming.heading(column)}"
    n_wanted = {"above": 1, "below": 1, "between": 2}.get(cell.operator)
    if cell.operator not in ("is", "not") and column.kind not in ORDERED_KINDS:
        yield _error(
            "tables.operator", path, f"{where}: “{cell.operator}” means nothing here.", "Use is or not."
        )
    elif not cell.values or (n_wanted is not None and len(cell.values) != n_wanted):
        wanted = n_wanted or "at least one"
        yield _error(
            "tables.bounds", path, f"{where}: {cell.operator} takes {wanted}, got {len(cell.values)}."
        )
    elif column.kind in ("day", "meter"):
        yield from _scale(where, path, cell, column)
    elif column.kind in values:
        unknown = [str(v) for v in cell.values if v not in values[column.kind]]
        if unknown:
            yield _error(
                "tables.value",
                path,
                f"{where}: there is no {column.kind} {' or '.join(unknown)}.",
                "Choose one from the list.",
            )


def _scale(where: str, path: str, cell: Cell, column: Column) -> Iterator[Problem]:
    try:
        bounds = [number_of(column.kind, v) for v in cell.values]
    except ValueError as error:
        yield _error("tables.value", path, f"{where}: {error}.")
        return
    turned = column.kind == "day" and is_yearly(cell)
    mixed = column.kind == "day" and not turned and any(len(str(v)) == 5 for v in cell.values)
    if mixed or (turned and cell.operator in ("above", "below")):
        yield _error(
            "tables.year",
            path,
            f"{where}: days with and without a year do not mix.",
            "Give all of them a year.",
        )
    elif cell.operator == "between" and bounds[0] > bounds[1] and not turned:
        yield _error("tables.backwards", path, f"{where}: the range runs backwards.")


def _documents(table: DecisionTable, known: Known) -> Iterator[Problem]:
    """One problem for each document that cannot be named, however many rows name it."""
    rows: dict[str, list[int]] = {}
    for i, row in enumerate(table.rows):
        for document in row.documents:
            rows.setdefault(document, []).append(i)
    for document in documents_of(table):
        standing = known.documents.get(document)
        places = rows.get(document, [])
        path = f"/rows/{places[0]}/documents" if places else "/never_together"
        where = _rows_words(places) if places else "A pair or an order of the table names"
        if standing is None:
            yield _error("tables.document", path, f"{where} {document}, and there is no such document.")
        elif standing == "withdrawn":
            yield _error(
                "tables.withdrawn",
                path,
                f"{where} {document}, which is withdrawn.",
                "Name another document, or remove the row.",
            )
        elif standing == "on its way":
            yield Problem(
                code="tables.not_released",
                path=path,
                message=f"{where} {document}, of which nothing is in force yet.",
                severity="warning",
                hint="Until it is released these rows put nothing on an order.",
            )


def _rows_words(places: Sequence[int]) -> str:
    numbers = [str(p + 1) for p in places[:ROWS_TO_NAME]]
    more = f" and {len(places) - ROWS_TO_NAME} more" if len(places) > ROWS_TO_NAME else ""
    several = len(places) > 1
    return f"Row{'s' if several else ''} {', '.join(numbers)}{more} name{'' if several else 's'}"


def _relations(table: DecisionTable, known: Known) -> Iterator[Problem]:
    for i, pair in enumerate(table.never_together):
        if pair.first == pair.second:
            yield _error(
                "tables.pair",
                f"/never_together/{i}",
                f"{pair.first} cannot be kept from itself.",
                "Remove it.",
            )
    ring = ring_of((*table.after, *known.after))
    if ring:
        told = " after ".join((*ring, ring[0]))
        yield _error(
            "tables.ring",
            "/after",
            f"What comes after what goes round in a ring: {told}.",
            "Take one of these away.",
        )
