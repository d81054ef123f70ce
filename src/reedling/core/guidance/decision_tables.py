"""Decision tables: rows of cells that say which documents go on which orders.

A table is written and released like any other document. A row speaks for an order when all of its
cells are met; every row that does is taken (the *collect* policy of OMG DMN 1.3, 8.2.8).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from graphlib import CycleError, TopologicalSorter
from typing import Literal, get_args

ColumnKind = Literal[
    "equipment",
    "model",
    "incident type",
    "symptom",
    "customer",
    "site tag",
    "contract",
    "warranty",
    "day",
    "meter",
    "priority",
]
COLUMN_KINDS: tuple[ColumnKind, ...] = get_args(ColumnKind)
"""The kinds of column, in the order a table usually shows them."""

CellOperator = Literal["is", "not", "above", "below", "between"]
ORDERED_KINDS: tuple[ColumnKind, ...] = ("day", "meter", "priority")
"""Columns whose values stand in an order, so that above, below and between mean something."""

PRIORITIES: tuple[str, ...] = ("Can wait", "This week", "Today", "At once")
"""How soon an order is wanted, least urgent first."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """A column of a table; one over a meter names it."""

    kind: ColumnKind
    meter: str = ""

    @property
    def key(self) -> str:
        """What rows file their cells under: the kind, and for a meter its code."""
        return f"meter {self.meter}" if self.kind == "meter" else self.kind


@dataclass(frozen=True, slots=True, kw_only=True)
class Cell:
    """What one column must be. A row without a cell for a column takes any value.

    With "is" the order's value is one of ``values`` (for equipment: of that class or below it in
    the tree; for site tags: the site has one of them), with "not" it is none of them. "above" and
    "below" exclude their one bound; "between" includes both. Values are codes, numbers, or days:
    ``2026-11-01`` for one day, ``11-01`` for the same day of every year. Between days of every year
    may run over the turn of the year.
    """

    operator: CellOperator = "is"
    values: tuple[float | str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """One row: its cells by column, and the documents it puts on an order.

    ``id`` lasts through moves and is never reused in its table.
    """

    id: str
    cells: Mapping[str, Cell] = field(default_factory=dict)
    documents: tuple[str, ...] = ()
    note: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class NeverTogether:
    """Two documents that must not be on one order, and why."""

    first: str
    second: str
    why: str = ""

    def pair(self) -> frozenset[str]:
        """The two, in no order."""
        return frozenset((self.first, self.second))


@dataclass(frozen=True, slots=True, kw_only=True)
class After:
    """Within each phase, the steps of ``document`` come after those of ``earlier``."""

    document: str
    earlier: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DecisionTable:
    """When documents go on an order, with the pairs that never go together and what comes after what."""

    title: str
    summary: str = ""
    columns: tuple[Column, ...] = ()
    rows: tuple[Row, ...] = ()
    never_together: tuple[NeverTogether, ...] = ()
    after: tuple[After, ...] = ()


def documents_of(table: DecisionTable) -> Iterator[str]:
    """Every document the table names, each once."""
    in_rows = (d for row in table.rows for d in row.documents)
    apart = (d for pair in table.never_together for d in (pair.first, pair.second))
    ordered = (d for a in table.after for d in (a.document, a.earlier))
    yield from dict.fromkeys((*in_rows, *apart, *ordered))


def ring_of(declared: Sequence[After]) -> tuple[str, ...]:
    """Documents that each come after the next, round to the first again; nothing when there are none."""
    order: TopologicalSorter[str] = TopologicalSorter()
    for after in declared:
        order.add(after.document, after.earlier)
    try:
        order.prepare()
    except CycleError as error:
        ring: list[str] = error.args[1]
        return tuple(reversed(ring[1:]))
    return ()


def earlier_of(declared: Iterable[After]) -> dict[str, tuple[str, ...]]:
    """By document, those declared to come before it."""
    earlier: dict[str, tuple[str, ...]] = {}
    for after in declared:
        earlier[after.document] = (*earlier.get(after.document, ()), after.earlier)
    return earlier
