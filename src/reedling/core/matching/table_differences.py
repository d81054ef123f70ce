"""What changed between two versions of a decision table, in words."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from reedling.core.guidance.decision_tables import DecisionTable, Row
from reedling.core.guidance.differences import Difference, longest_in_order
from reedling.core.matching.cells import Naming, cell_words


def compare_tables(older: DecisionTable, newer: DecisionTable, naming: Naming) -> tuple[Difference, ...]:
    """Every change from the older table to the newer, row by row and cell by cell."""
    return tuple(_changes(older, newer, naming))


def _changes(older: DecisionTable, newer: DecisionTable, naming: Naming) -> Iterator[Difference]:
    whole = {
        "title": (older.title, newer.title),
        "summary": (older.summary, newer.summary),
        "columns": tuple(", ".join(naming.heading(c) for c in t.columns) for t in (older, newer)),
        "never together": tuple(
            "; ".join(f"{p.first} and {p.second}" for p in t.never_together) for t in (older, newer)
        ),
        "comes after": tuple(
            "; ".join(f"{a.document} after {a.earlier}" for a in t.after) for t in (older, newer)
        ),
    }
    for aspect, (before, after) in whole.items():
        if before != after:
            yield Difference(
                change="changed", place="", title="the whole", aspect=aspect, before=before, after=after
            )
    held = {row.id: (n, row) for n, row in enumerate(older.rows, 1)}
    now = {row.id: n for n, row in enumerate(newer.rows, 1)}
    kept = [r.id for r in newer.rows if r.id in held]
    before_them = [r.id for r in older.rows if r.id in now]
    stayed = set(kept if before_them == kept else longest_in_order(before_them, kept))
    for row in newer.rows:
        title = f"row {now[row.id]}"
        if row.id not in held:
            yield Difference(change="added", place=row.id, title=title, after=row_words(newer, row, naming))
            continue
        number, before_row = held[row.id]
        if row.id not in stayed:
            yield Difference(change="moved", place=row.id, title=title, before=f"row {number}", after=title)
        if before_row is row or before_row == row:
            continue
        for aspect, (was, is_now) in _row_changes(older, newer, before_row, row, naming).items():
            if was != is_now:
                yield Difference(
                    change="changed", place=row.id, title=title, aspect=aspect, before=was, after=is_now
                )
    for row in older.rows:
        if row.id not in now:
            yield Difference(
                change="removed",
                place=row.id,
                title=f"row {held[row.id][0]}",
                before=row_words(older, row, naming),
            )


def _row_changes(
    older: DecisionTable, newer: DecisionTable, before: Row, after: Row, naming: Naming
) -> Mapping[str, tuple[str, str]]:
    columns = dict.fromkeys((*older.columns, *newer.columns))
    changes = {
        naming.heading(c): (
            cell_words(before.cells.get(c.key), c, naming),
            cell_words(after.cells.get(c.key), c, naming),
        )
        for c in columns
    }
    return {
        **changes,
        "documents": (", ".join(before.documents), ", ".join(after.documents)),
        "note": (before.note, after.note),
    }


def row_words(table: DecisionTable, row: Row, naming: Naming) -> str:
    """A row in a sentence: what it asks for, and what it puts on an order."""
    asked = [
        f"{naming.heading(c)} {cell_words(row.cells[c.key], c, naming)}"
        for c in table.columns
        if c.key in row.cells
    ]
    return f"{', '.join(asked) or 'every order'}: {', '.join(row.documents) or 'nothing'}"
