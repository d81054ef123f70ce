"""Edits of a decision table as on a sheet: rows, columns, and cells typed or pasted as text."""

from __future__ import annotations

import csv
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from io import StringIO
from typing import Literal

from reedling.core.guidance.decision_tables import COLUMN_KINDS, Cell, Column, ColumnKind, DecisionTable, Row
from reedling.core.matching.cell_reading import Unreadable, Vocabulary, read_cell, read_documents
from reedling.errors import InvalidInput, NotFound, Problem

MAX_ROWS = 5_000
"""A table with more is refused; by then it is several tables."""


@dataclass(frozen=True, slots=True, kw_only=True)
class AddRow:
    """A row below ``after`` (at the end without one), empty, or with the cells of a row copied."""

    after: str | None = None
    copy_of: str | None = None
    kind: Literal["add row"] = "add row"


@dataclass(frozen=True, slots=True, kw_only=True)
class WriteRow:
    """A row at the end, from words by column; columns that are missing are added."""

    cells: tuple[tuple[Column, str], ...]
    documents: str = ""
    kind: Literal["write row"] = "write row"


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveRows:
    """Remove rows."""

    rows: tuple[str, ...]
    kind: Literal["remove rows"] = "remove rows"


@dataclass(frozen=True, slots=True, kw_only=True)
class MoveRow:
    """Put a row one place up or down."""

    row: str
    direction: Literal["up", "down"]
    kind: Literal["move row"] = "move row"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetTexts:
    """Write cells as text, from a row and a column on, to the right and down.

    The texts come line by line, or as one ``sheet`` as spreadsheets put it on the clipboard: cells apart
    by tabs, those with breaks or tabs of their own in quotation marks (as RFC 4180, with tabs). The last column holds the documents. ``row`` empty begins below the last row. Texts that run
    over the end of the table make new rows. With ``skip`` what cannot be read is passed over, else
    nothing is written when anything cannot.
    """

    row: str
    column: int
    texts: tuple[tuple[str, ...], ...] = ()
    sheet: str = ""
    skip: bool = False
    kind: Literal["set texts"] = "set texts"


@dataclass(frozen=True, slots=True, kw_only=True)
class AddColumn:
    """A column more; for a meter, with its code."""

    column: Column
    kind: Literal["add column"] = "add column"


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveColumn:
    """A column less, with all that rows have in it."""

    key: str
    kind: Literal["remove column"] = "remove column"


TableEdit = AddRow | WriteRow | RemoveRows | MoveRow | SetTexts | AddColumn | RemoveColumn


def edit_table(table: DecisionTable, edit: TableEdit, words: Vocabulary, *, new_id: str) -> DecisionTable:
    """The table after one edit; new rows take their identities from ``new_id``.

    Raises
    ------
    NotFound
        ``tables.row`` when the edit names a row that is not there.
    InvalidInput
        ``tables.unreadable`` with one problem for each text that cannot be read, beside its cell;
        ``tables.too_long`` when the table would outgrow ``MAX_ROWS``.
    """
    match edit:
        case AddRow():
            made = Row(id=new_id)
            if edit.copy_of is not None:
                made = replace(_need(table, edit.copy_of), id=new_id)
            at = _place(table, edit.after) + 1 if edit.after else len(table.rows)
            changed = replace(table, rows=(*table.rows[:at], made, *table.rows[at:]))
        case WriteRow():
            changed = _write(table, edit, words, new_id)
        case RemoveRows():
            gone = {_need(table, r).id for r in edit.rows}
            changed = replace(table, rows=tuple(r for r in table.rows if r.id not in gone))
        case MoveRow():
            changed = _move(table, edit)
        case SetTexts():
            changed = _set_texts(table, edit, words, new_id)
        case AddColumn():
            if any(c.key == edit.column.key for c in table.columns):
                return table
            changed = replace(table, columns=in_order((*table.columns, edit.column)))
        case RemoveColumn():
            changed = replace(
                table,
                columns=tuple(c for c in table.columns if c.key != edit.key),
                rows=tuple(
                    replace(r, cells={k: c for k, c in r.cells.items() if k != edit.key}) for r in table.rows
                ),
            )
    if len(changed.rows) > MAX_ROWS:
        raise InvalidInput(
            "tables.too_long",
            f"a table may have {MAX_ROWS:,} rows, this would have {len(changed.rows):,}.",
            where=f"table “{table.title}”",
            hint="Write a second table: all tables in force are matched together.",
        )
    return changed


def in_order(columns: Iterable[Column]) -> tuple[Column, ...]:
    """Columns as tables usually show them; those of one kind as they came."""
    rank: dict[ColumnKind, int] = {kind: i for i, kind in enumerate(COLUMN_KINDS)}
    return tuple(sorted(columns, key=lambda c: rank[c.kind]))


def _place(table: DecisionTable, row: str) -> int:
    return table.rows.index(_need(table, row))


def _need(table: DecisionTable, row: str) -> Row:
    found = next((r for r in table.rows if r.id == row), None)
    if found is None:
        raise NotFound(
            "tables.row",
            f"there is no row {row} in this draft.",
            where=f"table “{table.title}”",
            hint="Somebody may have removed it; reload the draft.",
        )
    return found


def _move(table: DecisionTable, edit: MoveRow) -> DecisionTable:
    here = _place(table, edit.row)
    there = here + (-1 if edit.direction == "up" else 1)
    if not 0 <= there < len(table.rows):
        return table
    rows = list(table.rows)
    rows[here], rows[there] = rows[there], rows[here]
    return replace(table, rows=tuple(rows))


def _write(table: DecisionTable, edit: WriteRow, words: Vocabulary, new_id: str) -> DecisionTable:
    known = {c.key for c in table.columns}
    columns = in_order((*table.columns, *(c for c, _ in edit.cells if c.key not in known)))
    texts = {c.key: text for c, text in edit.cells}
    line = tuple(texts.get(c.key, "") for c in columns)
    wider = replace(table, columns=columns)
    return _set_texts(wider, SetTexts(row="", column=0, texts=((*line, edit.documents),)), words, new_id)


def _set_texts(table: DecisionTable, edit: SetTexts, words: Vocabulary, new_id: str) -> DecisionTable:
    start = _place(table, edit.row) if edit.row else len(table.rows)
    lines = edit.texts or _lines_of(edit.sheet)
    if start + len(lines) > MAX_ROWS:
        raise InvalidInput(
            "tables.too_long",
            f"a table may have {MAX_ROWS:,} rows, this would have {start + len(lines):,}.",
            where=f"table “{table.title}”",
            hint="Paste it in parts into several tables: all tables in force are matched together.",
        )
    rows = list(table.rows)
    problems: list[Problem] = []
    for n, line in enumerate(lines):
        at = start + n
        if at == len(rows):
            rows.append(Row(id=new_id if len(lines) == 1 else f"{new_id}-{n + 1}"))
        rows[at] = _line(table, rows[at], at, edit.column, line, words, problems)
    if problems and not edit.skip:
        raise InvalidInput(
            "tables.unreadable",
            problems[0].message if len(problems) == 1 else f"{len(problems)} cells cannot be read.",
            where=problems[0].path,
            hint=problems[0].hint if len(problems) == 1 else "Nothing was written.",
            problems=problems,
        )
    return replace(table, rows=tuple(rows))


def _lines_of(sheet: str) -> tuple[tuple[str, ...], ...]:
    try:
        return tuple(tuple(line) for line in csv.reader(StringIO(sheet), dialect="excel-tab"))
    except csv.Error as error:
        raise InvalidInput(
            "tables.unreadable", f"this is not a sheet: {error}.", hint="Paste rows of short cells."
        ) from None


def _line(
    table: DecisionTable,
    row: Row,
    at: int,
    column: int,
    texts: Sequence[str],
    words: Vocabulary,
    problems: list[Problem],
) -> Row:
    cells: dict[str, Cell] = dict(row.cells)
    documents = row.documents
    for place, text in enumerate(texts, column):
        try:
            if place > len(table.columns):
                if text.strip():
                    raise Unreadable(
                        f"“{text.strip()}” is right of the last column.", "Add the column it belongs to."
                    )
            elif place == len(table.columns):
                documents = read_documents(text, words)
            else:
                key = table.columns[place].key
                cell = read_cell(text, table.columns[place], words)
                cells.pop(key, None)
                if cell is not None:
                    cells[key] = cell
        except Unreadable as wrong:
            heading = "documents" if place >= len(table.columns) else table.columns[place].key
            problems.append(
                Problem(
                    code="tables.unreadable",
                    path=f"row {at + 1}, {heading}",
                    message=wrong.message,
                    hint=wrong.hint,
                )
            )
    return replace(row, cells=cells, documents=documents)
