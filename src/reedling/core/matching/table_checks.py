"""What is worth knowing of a set of rows: those that never match, say nothing, clash or overlap."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from reedling.core.guidance.decision_tables import Column, NeverTogether, Row
from reedling.core.matching.applicability import RowInForce
from reedling.core.matching.cells import cell_words
from reedling.core.matching.domain import Domain
from reedling.core.matching.gaps import (
    Box,
    BoxIndex,
    GapDiagram,
    TooManyGaps,
    gaps_of,
    is_covered,
    meet,
    n_combinations,
)
from reedling.core.matching.lookup import bits_of, look_up
from reedling.core.matching.order_facts import OrderFacts

MAX_LISTED = 100
"""How many overlaps, and how many gaps without an order, are listed; the rest is counted."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RowFinding:
    """Something about one row or two, in words; ``witness`` is an order on which it shows.

    "dead" rows never match. "refused" rows always meet a document they never go with. "idle" rows
    put nothing on an order that a wider row does not. "clash" is a pair that an order would be
    refused for, "overlap" a pair that speaks for the same order with different documents.
    """

    kind: Literal["dead", "refused", "idle", "clash", "overlap"]
    rows: tuple[str, ...]
    sentence: str
    witness: OrderFacts | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Gap:
    """Orders that no row says what to do about: in words, one such order, and how many came in."""

    sentence: str
    witness: OrderFacts
    n_combinations: int
    orders: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class GapCell:
    """The smallest cell of a gap that past orders fell into: one class, and one symptom or type."""

    sentence: str
    witness: OrderFacts
    orders: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Gaps:
    """The cells that past orders fell into, most orders first, and the gaps as wide as they are.

    Of the gaps without a past order ``n_more`` are not listed. ``n_orders`` past orders were looked at.
    ``complete`` is false where the gaps are too many to tell apart: then only cells are here.
    """

    cells: tuple[GapCell, ...]
    gaps: tuple[Gap, ...]
    n_orders: int
    n_in_gaps: int
    n_more: int
    complete: bool


def says_what_to_do(row: Row, incident_types: Iterable[str] = ()) -> bool:
    """Whether a row speaks for a fault or visit, and not for orders of whatever kind.

    It does when it asks for a symptom or an incident type, or names an incident type.
    """
    return bool({"symptom", "incident type"} & row.cells.keys() or set(row.documents) & set(incident_types))


def row_findings(
    rows: Sequence[RowInForce],
    domain: Domain,
    *,
    never_together: Iterable[NeverTogether] = (),
    incident_types: Iterable[str] = (),
    parts_of: Mapping[str, tuple[str, ...]] | None = None,
) -> tuple[RowFinding, ...]:
    """All findings about the rows, the gravest kind first; at most ``MAX_LISTED`` overlaps.

    ``parts_of`` gives, by document, those that are filled in with it: they are on an order too.
    """
    boxes = dict(zip((r.words for r in rows), domain.boxes(r.row.cells for r in rows), strict=True))
    dead = [r for r in rows if not all(boxes[r.words])]
    alive = [r for r in rows if all(boxes[r.words])]
    pairs = tuple(never_together)
    out = [
        RowFinding(
            kind="dead", rows=(r.words,), sentence=f"{r.words} can never match: {_why_dead(r, domain)}"
        )
        for r in dead
    ]
    brings = {
        r.words: {d for doc in r.row.documents for d in (doc, *(parts_of or {}).get(doc, ()))} for r in alive
    }
    refused = list(_refused(alive, boxes, pairs, brings))
    out += refused
    out += _idle(alive, boxes)
    told = {r for f in refused for r in f.rows}
    out += (f for f in _clashes(alive, boxes, pairs, domain, brings) if not set(f.rows) <= told)
    out += _overlaps(alive, boxes, domain, tuple(incident_types), {p.pair() for p in pairs})
    return tuple(out)


def find_gaps(
    rows: Sequence[RowInForce],
    domain: Domain,
    orders: Mapping[str, OrderFacts],
    *,
    incident_types: Iterable[str] = (),
) -> Gaps:
    """Combinations for which no row says what to do, weighted by the past orders in each.

    ``orders`` are past orders by identity.
    """
    known = tuple(incident_types)
    speaking = [r for r in rows if says_what_to_do(r.row, known)]
    lookup = look_up([r.row.cells for r in speaking], _columns(speaking), domain.tree)
    unserved = {order: facts for order, facts in orders.items() if not lookup.mask(facts)}
    boxes = [box for box in domain.boxes(r.row.cells for r in domain.told_apart(speaking)) if all(box)]
    everything = tuple(axis.all for axis in domain.axes)
    complete = True
    try:
        diagram = gaps_of(everything, boxes)
    except TooManyGaps:
        diagram, complete = GapDiagram(False, everything), False
    inside: dict[Box, list[str]] = {}
    cells: dict[Box, list[str]] = {}
    place_of = domain.places()
    for order, facts in unserved.items():
        place = place_of(facts)
        holder = diagram.box_of(place)
        if holder is not None:
            inside.setdefault(holder, []).append(order)
        cells.setdefault(_smallest(holder or everything, place, domain), []).append(order)
    weighed = [
        Gap(
            sentence=domain.words(box),
            witness=domain.order_in(box),
            n_combinations=n_combinations(box),
            orders=tuple(sorted(inside.get(box, ()))),
        )
        for box in diagram.boxes()
        if all(box)  # an axis without values, as of a list that is still empty, has no combinations
    ]
    told = [
        GapCell(sentence=domain.words(box), witness=domain.order_in(box), orders=tuple(sorted(those)))
        for box, those in cells.items()
        if all(box)
    ]
    weighed.sort(key=lambda g: (-len(g.orders), -g.n_combinations, g.sentence))
    n_told = sum(bool(g.orders) for g in weighed)
    listed = weighed[: max(n_told, MAX_LISTED)]
    return Gaps(
        cells=tuple(sorted(told, key=lambda c: (-len(c.orders), c.sentence))),
        gaps=tuple(listed),
        n_orders=len(orders),
        n_in_gaps=len(unserved),
        n_more=len(weighed) - len(listed),
        complete=complete,
    )


def _smallest(box: Box, place: Sequence[int | None], domain: Domain) -> Box:
    """What of a gap is of the order's own class and symptom or incident type."""
    out = []
    for axis, mask, here in zip(domain.axes, box, place, strict=True):
        if here is not None and axis.name == "kind":
            mask &= axis.alike(here)
        elif here is not None and axis.name in ("symptom", "incident type"):
            mask &= 1 << here
        out.append(mask)
    return tuple(out)


def _columns(rows: Iterable[RowInForce]) -> tuple[Column, ...]:
    return tuple(dict.fromkeys(c for r in rows for c in r.columns))


def _why_dead(found: RowInForce, domain: Domain) -> str:
    """The cells that cannot be met, or not together."""
    naming = domain.naming
    for axis in domain.axes:
        asked = {c.key: found.row.cells[c.key] for c in axis.columns if c.key in found.row.cells}
        if domain.box(asked)[domain.axes.index(axis)]:
            continue
        told = [
            f"{naming.heading(c)} {cell_words(asked[c.key], c, naming)}"
            for c in axis.columns
            if c.key in asked
        ]
        if len(told) > 1:
            return f"no {told[0].removeprefix('equipment ')} is a {told[1]}."
        return f"nothing can be {told[0]}."
    return "its cells contradict each other."


def _partners(pairs: Iterable[NeverTogether]) -> Mapping[str, set[str]]:
    out: dict[str, set[str]] = {}
    for pair in pairs:
        out.setdefault(pair.first, set()).add(pair.second)
        out.setdefault(pair.second, set()).add(pair.first)
    return out


def _refused(
    rows: Sequence[RowInForce],
    boxes: Mapping[str, Box],
    pairs: Sequence[NeverTogether],
    brings: Mapping[str, set[str]],
) -> Iterator[RowFinding]:
    partners = _partners(pairs)
    for found in rows:
        foes = {p for d in brings[found.words] for p in partners.get(d, ())}
        against = [r for r in rows if r is not found and foes & brings[r.words]] if foes else []
        box = boxes[found.words]
        touching = [r for r in against if meet(boxes[r.words], box)]
        if touching and is_covered(box, [boxes[r.words] for r in touching]):
            others = " and ".join(r.words for r in touching)
            yield RowFinding(
                kind="refused",
                rows=(found.words, *(r.words for r in touching)),
                sentence=f"{found.words} is refused on every order: {others} "
                f"{'asks' if len(touching) == 1 else 'ask'} for what it never goes with.",
            )


def _idle(rows: Sequence[RowInForce], boxes: Mapping[str, Box]) -> Iterator[RowFinding]:
    """Rows that a wider one makes needless; of two alike, the later is idle."""
    by_document: dict[str, list[int]] = {}
    for place, found in enumerate(rows):
        for document in found.row.documents:
            by_document.setdefault(document, []).append(place)
    for place, found in enumerate(rows):
        mine = set(found.row.documents)
        box = boxes[found.words]
        for other in by_document[found.row.documents[0]] if mine else ():
            theirs = rows[other]
            wider = boxes[theirs.words]
            if other == place or any(a & ~b for a, b in zip(box, wider, strict=True)):
                continue
            if mine <= set(theirs.row.documents) and (box != wider or other < place):
                yield RowFinding(
                    kind="idle",
                    rows=(found.words, theirs.words),
                    sentence=f"{found.words} adds nothing: {theirs.words} puts the same on every order "
                    "that it speaks for.",
                )
                break


def _clashes(
    rows: Sequence[RowInForce],
    boxes: Mapping[str, Box],
    pairs: Sequence[NeverTogether],
    domain: Domain,
    brings: Mapping[str, set[str]],
) -> Iterator[RowFinding]:
    for pair in pairs:
        firsts = [r for r in rows if pair.first in brings[r.words]]
        seconds = [r for r in rows if pair.second in brings[r.words]]
        for one in firsts:
            for other in seconds:
                both = meet(boxes[one.words], boxes[other.words])
                if both is not None:
                    same = one is other
                    yield RowFinding(
                        kind="clash",
                        rows=(one.words,) if same else (one.words, other.words),
                        sentence=f"{one.words} {'itself asks' if same else f'and {other.words} ask'} for "
                        f"{pair.first} and {pair.second}, which never go together: {domain.words(both)}.",
                        witness=domain.order_in(both),
                    )


def _overlaps(
    rows: Sequence[RowInForce],
    boxes: Mapping[str, Box],
    domain: Domain,
    incident_types: Sequence[str],
    apart: set[frozenset[str]],
) -> Iterator[RowFinding]:
    speaking = [r for r in rows if says_what_to_do(r.row, incident_types)]
    index = BoxIndex.of([boxes[r.words] for r in speaking])
    pairs = (
        (one, speaking[place])
        for n, one in enumerate(speaking)
        for place in bits_of(index.meeting(boxes[one.words]) >> n + 1 << n + 1)
    )
    n = 0
    for one, other in pairs:
        mine, theirs = set(one.row.documents), set(other.row.documents)
        if mine <= theirs or theirs <= mine:
            continue
        if any(frozenset((a, b)) in apart for a in mine for b in theirs):
            continue
        n += 1
        if n > MAX_LISTED:
            return
        both = meet(boxes[one.words], boxes[other.words])
        assert both is not None
        yield RowFinding(
            kind="overlap",
            rows=(one.words, other.words),
            sentence=f"{one.words} and {other.words} both speak for {domain.words(both)}.",
            witness=domain.order_in(both),
        )
