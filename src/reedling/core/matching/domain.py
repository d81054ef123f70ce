"""All orders that can come in, as far as tables can tell them apart.

Each axis is one thing that columns ask about, cut into the fewest values that the rows treat
alike. Equipment and model are one axis, since a model is of one class. A row is then a box: a set
of values on each axis. What is not known of an order (no contract, a meter never read) is a value
of its own. Sites are taken as they are: the sets of tags that occur, no tags, and each tag named.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta
from itertools import pairwise

from reedling.core.guidance.catalogue import Catalogue, EquipmentTree
from reedling.core.guidance.decision_tables import PRIORITIES, Cell, Column, ColumnKind
from reedling.core.matching.applicability import RowInForce
from reedling.core.matching.cells import LEAP_YEAR, Naming, cell_words, is_yearly, meets, number_of, position
from reedling.core.matching.lookup import Mask, bits_of
from reedling.core.matching.order_facts import FactValue, OrderFacts, fact_of

OTHER = "any other"
"""Stands for a customer or tag that nobody has named."""

Put = Callable[[OrderFacts], OrderFacts]


@dataclass(frozen=True, slots=True)
class AxisValue:
    """One value of an axis: how it reads, and how an order gets it; for a kind of asset, its class."""

    words: str
    put: Put
    equipment: str = ""


Mark = tuple[object, ...]
"""What rows can tell of an order on one axis: two orders with the same mark are alike to all rows."""


@dataclass(frozen=True, slots=True)
class Axis:
    """One thing that columns ask about, with the values that rows can tell apart.

    ``mark`` gives what rows can tell of an order; each value has a mark of its own.
    """

    name: str
    columns: tuple[Column, ...]
    values: tuple[AxisValue, ...]
    mark: Callable[[OrderFacts], Mark]

    @property
    def all(self) -> Mask:
        """Every value."""
        return (1 << len(self.values)) - 1

    def alike(self, place: int) -> Mask:
        """The values of the same class of equipment as the one at a place."""
        wanted = self.values[place].equipment
        return sum(1 << i for i, value in enumerate(self.values) if value.equipment == wanted)


@dataclass(frozen=True, slots=True, kw_only=True)
class Surroundings:
    """What is there besides the lists: kinds of asset, customers, and the sets of tags sites have."""

    kinds: frozenset[tuple[str, str]] = frozenset()
    customers: frozenset[str] = frozenset()
    tag_sets: frozenset[tuple[str, ...]] = frozenset()


@dataclass(frozen=True, slots=True)
class Domain:
    """The axes, and what it takes to place rows on them."""

    axes: tuple[Axis, ...]
    tree: EquipmentTree
    naming: Naming
    lists: Catalogue

    def boxes(self, rows: Iterable[Mapping[str, Cell]]) -> list[tuple[Mask, ...]]:
        """For each row, the values of each axis that it takes. Cells that are alike are read once."""
        probes = [[value.put(OrderFacts()) for value in axis.values] for axis in self.axes]
        known: dict[tuple[int, tuple[Cell | None, ...]], Mask] = {}
        out = []
        for cells in rows:
            box = []
            for n, axis in enumerate(self.axes):
                key = (n, tuple(cells.get(c.key) for c in axis.columns))
                if key not in known:
                    known[key] = self._taken(axis, key[1], probes[n])
                box.append(known[key])
            out.append(tuple(box))
        return out

    def told_apart(self, rows: Iterable[RowInForce]) -> list[RowInForce]:
        """The rows whose every cell is on an axis here; a row beyond that would seem to take all orders."""
        here = {c.key for axis in self.axes for c in axis.columns}
        return [r for r in rows if r.row.cells.keys() <= here]

    def box(self, cells: Mapping[str, Cell]) -> tuple[Mask, ...]:
        """The values of each axis that one row takes."""
        return self.boxes([cells])[0]

    def _taken(self, axis: Axis, cells: Sequence[Cell | None], probes: Sequence[OrderFacts]) -> Mask:
        asked = [(cell, column) for cell, column in zip(cells, axis.columns, strict=True) if cell]
        mask = axis.all
        for i, facts in enumerate(probes if asked else ()):
            if not all(meets(cell, c, fact_of(facts, c), self.tree) for cell, c in asked):
                mask ^= 1 << i
        return mask

    def places(self) -> Callable[[OrderFacts], tuple[int | None, ...]]:
        """How to find the value an order has on each axis; nothing where the domain has none like it."""
        known = [
            {axis.mark(value.put(OrderFacts())): i for i, value in enumerate(axis.values)}
            for axis in self.axes
        ]
        return lambda facts: tuple(
            marks.get(axis.mark(facts)) for axis, marks in zip(self.axes, known, strict=True)
        )

    def order_in(self, box: Sequence[Mask]) -> OrderFacts:
        """An order in a box that has one."""
        facts = OrderFacts(day=date(LEAP_YEAR + 2, 6, 15))
        for axis, mask in zip(self.axes, box, strict=True):
            facts = axis.values[next(bits_of(mask))].put(facts)
        return facts

    def words(self, box: Sequence[Mask]) -> str:
        """A box in words: the axes on which it is less than everything."""
        told = [
            self._axis_words(axis, mask)
            for axis, mask in zip(self.axes, box, strict=True)
            if mask != axis.all
        ]
        return ", ".join(told) or "every order"

    def _axis_words(self, axis: Axis, mask: Mask) -> str:
        if axis.name == "kind":
            return " or ".join(self._kind_words(axis, mask))
        chosen = [axis.values[i].words for i in bits_of(mask)]
        return _joined(chosen) if axis.name == "symptom" else f"{axis.name} {_joined(chosen)}"

    def _kind_words(self, axis: Axis, mask: Mask) -> Iterator[str]:
        """Classes of which every model is in the set, and the models of the others."""
        of_class: dict[str, list[int]] = {}
        for i, value in enumerate(axis.values):
            of_class.setdefault(value.equipment, []).append(i)
        for code, here in of_class.items():
            inside = [i for i in here if mask >> i & 1]
            if len(inside) == len(here):
                yield self.naming.label("equipment", code)
            else:
                yield from (axis.values[i].words for i in inside)


def domain_of(
    rows: Iterable[Mapping[str, Cell]],
    columns: Iterable[Column],
    lists: Catalogue,
    naming: Naming,
    *,
    incident_types: Iterable[str] = (),
    around: Surroundings = Surroundings(),
    always: Iterable[ColumnKind] = ("equipment", "symptom"),
) -> Domain:
    """The domain in which these rows can be told apart.

    An axis that no row asks about is left out, save those named by ``always``.
    """
    given = list(rows)
    tree = EquipmentTree.of(lists.equipment)
    asked = {c.key: c for c in columns if any(c.key in cells for cells in given)}
    wanted = {Column(kind=k).key: Column(kind=k) for k in always} | asked
    kinds_asked = [c for c in (Column(kind="equipment"), Column(kind="model")) if c.key in wanted]
    axes: list[Axis] = []
    if kinds_asked:
        both = (Column(kind="equipment"), Column(kind="model"))
        axes.append(Axis("kind", both, tuple(_kinds(lists, naming, around)), _same(both)))
    rest = [c for c in wanted.values() if c.kind not in ("equipment", "model")]
    for column in sorted(rest, key=lambda c: (c.kind not in ("symptom", "incident type"), c.key)):
        cells = [cells[column.key] for cells in given if column.key in cells]
        values = tuple(_values(column, cells, lists, naming, tuple(incident_types), around, tree))
        axes.append(Axis(naming.heading(column), (column,), values, _mark(column, cells, values, tree)))
    return Domain(axes=tuple(axes), tree=tree, naming=naming, lists=lists)


def _same(columns: tuple[Column, ...]) -> Callable[[OrderFacts], Mark]:
    return lambda facts: tuple(fact_of(facts, c) for c in columns)


def _mark(
    column: Column, cells: Sequence[Cell], values: Sequence[AxisValue], tree: EquipmentTree
) -> Callable[[OrderFacts], Mark]:
    """Days and meters are alike when they meet the same cells; a customer nobody named is another one."""
    if column.kind in ("day", "meter"):
        kinds = list(dict.fromkeys(cells))

        def met(facts: OrderFacts) -> Mark:
            value = fact_of(facts, column)
            if value is None:
                return (None,)
            bounds = () if column.kind == "day" else _stretch(kinds, value)
            return (*(meets(c, column, value, tree) for c in kinds), *bounds)

        return met
    if column.kind == "customer":
        named = {v.put(OrderFacts()).customer for v in values}
        return lambda facts: (
            facts.customer if facts.customer in named else OTHER if facts.customer else None,
        )
    return _same((column,))


def _stretch(cells: Sequence[Cell], value: FactValue) -> Mark:
    """Between which bounds a reading stands, so that each stretch is a value of its own."""
    bounds = sorted({number_of("meter", v) for cell in cells for v in cell.values})
    here = position("meter", value)
    return (sum(b < here for b in bounds), here in bounds)


def _joined(words: Sequence[str]) -> str:
    if len(words) > 6:
        return f"{', '.join(words[:5])} or {len(words) - 5} others"
    return " or ".join(words)


def _kinds(lists: Catalogue, naming: Naming, around: Surroundings) -> Iterator[AxisValue]:
    """Each class with each of its models, and without one; a class with classes below it and no model of
    its own has no assets, unless there are some."""
    of_class: dict[str, set[str]] = {}
    for model in lists.models:
        of_class.setdefault(model.equipment, set()).add(model.code)
    for equipment, model_code in around.kinds:
        of_class.setdefault(equipment, set()).add(model_code)
    parents = {c.parent for c in lists.equipment}
    for found in lists.equipment:
        models = of_class.get(found.code, set())
        if models or found.code not in parents:
            models = {*models, ""}
        for code in sorted(models):
            whole = naming.label("equipment", found.code)
            label = (
                naming.label("model", code)
                if code
                else f"{whole} without a model"
                if len(models) > 1
                else whole
            )
            yield AxisValue(label, _put_kind(found.code, code), found.code)


def _put_kind(equipment: str, model: str) -> Put:
    return lambda facts: replace(facts, equipment=equipment, model=model)


def _put(field: str, value: object) -> Put:
    return lambda facts: replace(facts, **{field: value})  # type: ignore[arg-type]


FIELDS: Mapping[ColumnKind, str] = {
    "incident type": "incident_type",
    "symptom": "symptom",
    "customer": "customer",
    "contract": "contract",
    "priority": "priority",
}


def _values(
    column: Column,
    cells: Sequence[Cell],
    lists: Catalogue,
    naming: Naming,
    incident_types: Sequence[str],
    around: Surroundings,
    tree: EquipmentTree,
) -> Iterator[AxisValue]:
    named = dict.fromkeys(str(v) for cell in cells for v in cell.values)
    match column.kind:
        case "symptom":
            codes: Iterable[str] = [s.code for s in lists.symptoms]
        case "incident type":
            codes = (*incident_types, "")
        case "customer":
            codes = (*dict.fromkeys((*sorted(around.customers), *named)), OTHER)
        case "contract":
            codes = (*(c.code for c in lists.contracts), "")
        case "priority":
            codes = (*PRIORITIES, "")
        case "warranty":
            for known, words in ((True, "in warranty"), (False, "out of warranty"), (None, "not known")):
                yield AxisValue(words, _put("warranty", known))
            return
        case "site tag":
            sets = {(), *around.tag_sets, *((tag,) for tag in named)}
            for tags in sorted(sets):
                yield AxisValue(" with ".join(tags) or "none", _put("tags", tags))
            return
        case "day":
            yield from _day_values(column, cells, naming, tree)
            return
        case _:
            yield from _meter_values(column, cells)
            return
    for code in codes:
        yield AxisValue(
            naming.label(column.kind, code) if code else "not known", _put(FIELDS[column.kind], code)
        )


def _meter_values(column: Column, cells: Sequence[Cell]) -> Iterator[AxisValue]:
    bounds = sorted({number_of(column.kind, v) for cell in cells for v in cell.values})

    def value(words: str, reading: float | None) -> AxisValue:
        def put(facts: OrderFacts) -> OrderFacts:
            others = {k: v for k, v in facts.meters.items() if k != column.meter}
            return replace(facts, meters=others if reading is None else {**others, column.meter: reading})

        return AxisValue(words, put)

    if bounds:
        yield value(f"below {bounds[0]:g}", bounds[0] - 1)
        for low, high in pairwise(bounds):
            yield value(f"{low:g}", low)
            yield value(f"between {low:g} and {high:g}", (low + high) / 2)
        yield value(f"{bounds[-1]:g}", bounds[-1])
        yield value(f"above {bounds[-1]:g}", bounds[-1] + 1)
    yield value("not known", None)


def _day_values(
    column: Column, cells: Sequence[Cell], naming: Naming, tree: EquipmentTree
) -> Iterator[AxisValue]:
    """One day for each set of cells that can be met together, told by what it is in and out of."""
    kinds = list(dict.fromkeys(cells))
    years = {int(str(v)[:4]) for c in cells if not is_yearly(c) for v in c.values} or {LEAP_YEAR + 2}
    candidates: set[date] = set()
    for year in range(min(years) - 1, max(years) + 2):
        candidates.add(date(year, 1, 1))
        for cell in kinds:
            for v in cell.values:
                text = str(v)
                if len(text) == 5:
                    leap = date(LEAP_YEAR, int(text[:2]), int(text[3:]))
                    around_it = [leap + timedelta(days=d) for d in (-1, 0, 1)]
                    candidates |= {d for x in around_it if (d := _in_year(x, year)) is not None}
                else:
                    candidates |= {date.fromisoformat(text) + timedelta(days=d) for d in (-1, 0, 1)}
    seen: set[tuple[bool, ...]] = set()
    for day in sorted(candidates):
        signature = tuple(meets(c, column, day, tree) for c in kinds)
        if signature in seen:
            continue
        seen.add(signature)
        inside = [cell_words(c, column, naming) for c, met in zip(kinds, signature, strict=True) if met]
        outside = [cell_words(c, column, naming) for c, met in zip(kinds, signature, strict=True) if not met]
        words = " and ".join(f"in {w}" for w in inside) or "outside " + ", ".join(outside)
        yield AxisValue(words, _put("day", day))


def _in_year(day: date, year: int) -> date | None:
    try:
        return date(year, day.month, day.day)
    except ValueError:
        return None
