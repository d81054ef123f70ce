"""The coverage map: for each kind of equipment and each symptom or incident type, what there is."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from operator import attrgetter
from typing import Literal

from reedling.core.matching.applicability import RowInForce
from reedling.core.matching.domain import Domain
from reedling.core.matching.gaps import Box, BoxIndex, is_covered, meet
from reedling.core.matching.lookup import bits_of, look_up
from reedling.core.matching.order_facts import OrderFacts
from reedling.core.matching.table_checks import says_what_to_do

Across = Literal["symptom", "incident type"]
Cover = Literal["gap", "part", "one", "several"]


@dataclass(frozen=True, slots=True, kw_only=True)
class MapCell:
    """One cell of the map.

    "gap": no row says what to do. "part": for some of its orders. "one" and "several": for all of
    them, with one document or, on some order, more. ``n_orders`` past orders fell here, ``n_unserved``
    of them would find no row today.
    """

    equipment: str
    across: str
    cover: Cover
    rows: tuple[str, ...]
    n_orders: int
    n_unserved: int


@dataclass(frozen=True, slots=True, kw_only=True)
class CoverageMap:
    """All cells, by equipment and then across; axes in the order of the lists."""

    across: Across
    equipment: tuple[str, ...]
    columns: tuple[str, ...]
    cells: tuple[MapCell, ...]
    n_orders: int


def coverage_map(
    rows: Sequence[RowInForce],
    domain: Domain,
    orders: Iterable[OrderFacts],
    across: Across,
    *,
    incident_types: Iterable[str] = (),
) -> CoverageMap:
    """The map over a domain that has an axis for kinds of equipment and one for ``across``."""
    known = tuple(incident_types)
    speaking = [r for r in rows if says_what_to_do(r.row, known)]
    on_map = domain.told_apart(speaking)
    index = BoxIndex.of(domain.boxes(r.row.cells for r in on_map))
    columns = dict.fromkeys(c for r in speaking for c in r.columns)
    lookup = look_up([r.row.cells for r in speaking], columns, domain.tree)
    cell_of = attrgetter("equipment", "symptom" if across == "symptom" else "incident_type")
    given = list(orders)
    counted = Counter(map(cell_of, given))
    unserved = Counter(cell_of(facts) for facts in given if not lookup.mask(facts))
    kind, other = (_axis(domain, name) for name in ("kind", across))
    of_class: dict[str, int] = {}
    for i, value in enumerate(domain.axes[kind].values):
        of_class[value.equipment] = of_class.get(value.equipment, 0) | 1 << i
    codes = [_code(v.put(OrderFacts()), across) for v in domain.axes[other].values]
    everything = [axis.all for axis in domain.axes]
    cells = []
    for equipment, kinds in of_class.items():
        for i, code in enumerate(codes):
            here = list(everything)
            here[kind], here[other] = kinds, 1 << i
            cover, by = _cover(tuple(here), on_map, index)
            cells.append(
                MapCell(
                    equipment=equipment,
                    across=code,
                    cover=cover,
                    rows=by,
                    n_orders=counted[equipment, code],
                    n_unserved=unserved[equipment, code],
                )
            )
    return CoverageMap(
        across=across,
        equipment=tuple(of_class),
        columns=tuple(codes),
        cells=tuple(cells),
        n_orders=len(given),
    )


def _axis(domain: Domain, name: str) -> int:
    return next(i for i, axis in enumerate(domain.axes) if axis.name == name)


def _code(facts: OrderFacts, across: Across) -> str:
    return facts.symptom if across == "symptom" else facts.incident_type


def _cover(here: Box, rows: Sequence[RowInForce], index: BoxIndex) -> tuple[Cover, tuple[str, ...]]:
    met = ((rows[n], meet(index.boxes[n], here)) for n in bits_of(index.meeting(here)))
    inside = [(r, b) for r, b in met if b is not None]
    by = tuple(r.words for r, _ in inside)
    if not inside:
        return "gap", by
    if not is_covered(here, [b for _, b in inside]):
        return "part", by
    several = any(len(set(r.row.documents)) > 1 for r, _ in inside) or any(
        set(r.row.documents) != set(s.row.documents) and meet(b, c) is not None
        for (r, b), (s, c) in combinations(inside, 2)
    )
    return ("several" if several else "one"), by


def orders_in(orders: Mapping[str, OrderFacts], equipment: str, across: Across, code: str) -> tuple[str, ...]:
    """The orders that fall in one cell of the map."""
    return tuple(o for o, f in orders.items() if f.equipment == equipment and _code(f, across) == code)
