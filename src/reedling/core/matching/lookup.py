"""Finding the rows that speak for an order without asking each of them.

For every column, each value knows the rows that would take it, as the bits of one integer; an
order's rows are the bits that all its columns have in common. Rows cost a bit each, so that the
time for an order hardly grows with the table. (Bitmap indexing: P. O'Neil and D. Quass, *Improved
query performance with variant indexes*, SIGMOD 1997, section 2.)
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from operator import attrgetter

from reedling.core.guidance.catalogue import EquipmentTree
from reedling.core.guidance.decision_tables import ORDERED_KINDS, Cell, Column, ColumnKind
from reedling.core.matching.cells import is_yearly, number_of, position
from reedling.core.matching.order_facts import FactValue, OrderFacts, fact_of

Mask = int
"""A set of rows: bit n stands for row n."""
MOST_KEPT = 50_000
"""Combinations of codes whose rows are kept; there are as many as kinds of orders."""
CODED_FIELDS: Mapping[ColumnKind, str] = {
    "equipment": "equipment",
    "model": "model",
    "incident type": "incident_type",
    "symptom": "symptom",
    "customer": "customer",
    "site tag": "tags",
    "contract": "contract",
    "warranty": "warranty",
    "priority": "priority",
}
"""Where an order's facts hold what a column of codes asks for."""


@dataclass(frozen=True, slots=True)
class RowLookup:
    """All rows of one or several tables, ready to be looked up.

    Orders are of few kinds as far as codes go: what was found for the codes of one is kept for the next.
    Meters are looked up each time, days once each.
    """

    n_rows: int
    codes: Callable[[OrderFacts], object]
    coded: tuple[tuple[Callable[[OrderFacts], FactValue], Callable[[FactValue], Mask]], ...]
    scaled: tuple[tuple[Callable[[OrderFacts], FactValue], Callable[[FactValue], Mask]], ...]
    kept: dict[object, Mask] = field(default_factory=dict)

    def mask(self, facts: OrderFacts) -> Mask:
        """The rows that speak for an order, as bits."""
        codes = self.codes(facts)
        found = self.kept.get(codes)
        if found is None:
            found = (1 << self.n_rows) - 1
            for read, rows_of in self.coded:
                found &= rows_of(read(facts))
            if len(self.kept) < MOST_KEPT:
                self.kept[codes] = found
        for read, rows_of in self.scaled if found else ():
            found &= rows_of(read(facts))
        return found

    def rows(self, facts: OrderFacts) -> list[int]:
        """The rows that speak for an order, by their place, in order."""
        return list(bits_of(self.mask(facts)))


def bits_of(mask: Mask) -> Iterator[int]:
    """The rows in a set, lowest first."""
    while mask:
        low = mask & -mask
        yield low.bit_length() - 1
        mask ^= low


def look_up(rows: Sequence[Mapping[str, Cell]], columns: Iterable[Column], tree: EquipmentTree) -> RowLookup:
    """A lookup over rows given by their cells; a column that no row fills in costs nothing.

    Raises
    ------
    ValueError
        What :func:`reedling.core.matching.cells.number_of` does, for a bound that the check of the table refuses.
    """
    used = [c for c in columns if any(c.key in cells for cells in rows)]
    asked = {c.key: (_reader(c), _column(c, [cells.get(c.key) for cells in rows], tree)) for c in used}
    fields = sorted({CODED_FIELDS[c.kind] for c in used if c.kind in CODED_FIELDS})
    return RowLookup(
        n_rows=len(rows),
        codes=attrgetter(*fields) if fields else lambda _: None,
        coded=tuple(asked[c.key] for c in used if c.kind in CODED_FIELDS),
        scaled=tuple(asked[c.key] for c in used if c.kind not in CODED_FIELDS),
    )


def _reader(column: Column) -> Callable[[OrderFacts], FactValue]:
    return lambda facts: fact_of(facts, column)


def _column(column: Column, cells: Sequence[Cell | None], tree: EquipmentTree) -> Callable[[FactValue], Mask]:
    if column.kind == "site tag":
        return _tags(cells)
    if column.kind == "day":
        return _days(cells)
    if column.kind in ORDERED_KINDS:
        return _scaled(column, cells)
    return _coded(column, cells, tree)


def _any(cells: Sequence[Cell | None]) -> Mask:
    return _bits(i for i, cell in enumerate(cells) if cell is None)


def _bits(places: Iterable[int]) -> Mask:
    mask = 0
    for place in places:
        mask |= 1 << place
    return mask


def _by_value(
    cells: Sequence[Cell | None],
) -> tuple[Mask, Mapping[str, Mask], Mapping[str, Mask], Mask]:
    """Rows that take any value, those that want and those that refuse each, and all that refuse some."""
    wants: dict[str, Mask] = {}
    refuses: dict[str, Mask] = {}
    for i, cell in enumerate(cells):
        for value in cell.values if cell else ():
            kept = wants if cell and cell.operator == "is" else refuses
            kept[str(value)] = kept.get(str(value), 0) | 1 << i
    refusing = _bits(i for i, cell in enumerate(cells) if cell and cell.operator == "not")
    return _any(cells), wants, refuses, refusing


def _coded(column: Column, cells: Sequence[Cell | None], tree: EquipmentTree) -> Callable[[FactValue], Mask]:
    """Each value that is named, and (for the tree) every class; all other values behave alike."""
    free, wants, refuses, all_refusing = _by_value(cells)
    above: dict[str, tuple[str, ...]] = {}
    if column.kind == "equipment":
        above = {code: tuple(tree.lineage(code)) for code in tree.classes}
    table: dict[FactValue, Mask] = {None: free}
    for value in {*wants, *refuses, *above}:
        line = above.get(value, (value,))
        taken, refused = 0, 0
        for code in line:
            taken |= wants.get(code, 0)
            refused |= refuses.get(code, 0)
        table[value] = free | taken | (all_refusing & ~refused)
    other = free | all_refusing
    return lambda value: table.get(value, other)


def _tags(cells: Sequence[Cell | None]) -> Callable[[FactValue], Mask]:
    free, wants, refuses, all_refusing = _by_value(cells)

    def rows_of(value: FactValue) -> Mask:
        assert isinstance(value, tuple)
        taken, refused = free, 0
        for tag in value:
            taken |= wants.get(tag, 0)
            refused |= refuses.get(tag, 0)
        return taken | (all_refusing & ~refused)

    return rows_of


def _ordered(kind: ColumnKind, cells: Sequence[Cell | None]) -> Callable[[float], Mask]:
    """Places on a scale: between two neighbouring bounds all of them behave alike.

    The scale is cut into stretches: below the first bound, on it, between it and the next, and so
    on. Going along it, a row's bit turns where its cell begins or ceases to be met.
    """
    bounds = sorted({number_of(kind, v) for cell in cells if cell for v in cell.values})
    turns = [0] * (2 * len(bounds) + 2)
    for i, cell in enumerate(cells):
        for start, end in _stretches(cell, kind, bounds) if cell else ():
            turns[start] ^= 1 << i
            turns[end] ^= 1 << i
    masks, now = [], 0
    for turn in turns:
        now ^= turn
        masks.append(now)

    def rows_of(place: float) -> Mask:
        at = bisect_left(bounds, place)
        return masks[2 * at + (at < len(bounds) and bounds[at] == place)]

    return rows_of


def _stretches(cell: Cell, kind: ColumnKind, bounds: Sequence[float]) -> Iterator[tuple[int, int]]:
    """Where on the scale a cell is met: half-open runs of stretches that do not overlap."""
    end = 2 * len(bounds) + 1
    places = [2 * bisect_left(bounds, number_of(kind, v)) + 1 for v in cell.values]
    match cell.operator:
        case "is":
            yield from ((p, p + 1) for p in sorted(set(places)))
        case "not":
            edges = [0, *(e for p in sorted(set(places)) for e in (p, p + 1)), end]
            yield from zip(edges[::2], edges[1::2], strict=True)
        case "above":
            yield places[0] + 1, end
        case "below":
            yield 0, places[0]
        case "between":
            low, high = places
            if low <= high:
                yield low, high + 1
            elif is_yearly(cell):
                yield low, end
                yield 0, high + 1


def _scaled(column: Column, cells: Sequence[Cell | None]) -> Callable[[FactValue], Mask]:
    free, find = _any(cells), _ordered(column.kind, cells)

    def rows_of(value: FactValue) -> Mask:
        return free if value is None else free | find(position(column.kind, value))

    return rows_of


def _days(cells: Sequence[Cell | None]) -> Callable[[FactValue], Mask]:
    """Days of every year on the scale of a year, days of one year on the scale of all days."""
    free = _any(cells)
    in_year = _ordered("day", [c if c and is_yearly(c) else None for c in cells])
    of_all = _ordered("day", [c if c and not is_yearly(c) else None for c in cells])

    known: dict[FactValue, Mask] = {None: free}

    def rows_of(value: FactValue) -> Mask:
        if value not in known:
            known[value] = of_day(value)
        return known[value]

    def of_day(value: FactValue) -> Mask:
        assert value is not None
        return free | in_year(position("day", value, yearly=True)) | of_all(position("day", value))

    return rows_of
