"""Combinations that no row speaks for, found exactly.

The axes are gone through one after the other; at each, values that leave the same rows in play are
taken together, and a set of rows that was met before is not looked at again. What comes out is a
reduced decision diagram (R. E. Bryant, *Graph-based algorithms for Boolean function manipulation*,
IEEE Transactions on Computers C-35, 1986, here with many-valued variables) whose ways to the end are
the gaps, no two of which overlap.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from math import prod

from reedling.core.matching.lookup import Mask, bits_of

Box = tuple[Mask, ...]
"""A set of values on each axis."""

MAX_NODES = 200_000
"""Beyond this many nodes the diagram is given up; tables written by people stay far below."""


class TooManyGaps(Exception):
    """The gaps are too many to be told apart one by one."""


@dataclass(frozen=True, slots=True)
class _Node:
    """At one axis: sets of values with the node each leads to. One that is missing has no gap."""

    edges: tuple[tuple[Mask, _Node | None], ...]
    """``None`` at the end of an edge: whatever the axes after it are, it is a gap."""

    depth: int


@dataclass(slots=True)
class _Search:
    """What a search keeps: the boxes, and what was found for each set of rows."""

    sizes: tuple[Mask, ...]
    by_value: list[list[Mask]]
    open_end: list[Mask]
    found: dict[tuple[int, Mask], _Node | bool] = field(default_factory=dict)
    alike: dict[tuple[object, ...], _Node] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class GapDiagram:
    """All that no box covers; true for ``root`` means everything, false nothing."""

    root: _Node | bool
    within: Box

    def boxes(self) -> Iterator[Box]:
        """Boxes that together are all the gaps; none overlap."""
        if self.root is True:
            yield self.within
        elif isinstance(self.root, _Node):
            yield from _ways(self.root, (), self.within)

    def box_of(self, place: Sequence[int | None]) -> Box | None:
        """The box in which a place lies; nothing when it is covered, or not within at all."""
        if any(p is None or not mask >> p & 1 for p, mask in zip(place, self.within, strict=True)):
            return None
        node = self.root
        before: Box = ()
        while isinstance(node, _Node):
            here = place[node.depth]
            found = next((e for e in node.edges if here is not None and e[0] >> here & 1), None)
            if found is None:
                return None
            before = (*before, found[0])
            node = found[1] if found[1] is not None else True
        return (*before, *self.within[len(before) :]) if node else None


def gaps_of(within: Box, boxes: Sequence[Box]) -> GapDiagram:
    """What of ``within`` none of the boxes covers.

    Raises
    ------
    TooManyGaps
        When the diagram outgrows ``MAX_NODES``.
    """
    return GapDiagram(_diagram(within, boxes), within)


def is_covered(within: Box, boxes: Sequence[Box]) -> bool:
    """Whether the boxes together cover all of ``within``."""
    return gaps_of(within, boxes).root is False


def n_combinations(box: Box) -> int:
    """How many combinations of values a box holds."""
    return prod(mask.bit_count() for mask in box)


def meet(one: Box, other: Box) -> Box | None:
    """The combinations that two boxes share; nothing when there are none."""
    both = tuple(a & b for a, b in zip(one, other, strict=True))
    return both if all(both) else None


@dataclass(frozen=True, slots=True)
class BoxIndex:
    """Boxes by the values they take on each axis, to find those that meet another without trying each."""

    boxes: Sequence[Box]
    by_value: list[list[Mask]]
    seen: dict[tuple[int, Mask], Mask] = field(default_factory=dict)

    @classmethod
    def of(cls, boxes: Sequence[Box]) -> BoxIndex:
        """The index of these boxes; one that is empty on some axis meets nothing."""
        n_axes = len(boxes[0]) if boxes else 0
        return cls(boxes, [_by_value([box[axis] for box in boxes]) for axis in range(n_axes)])

    def meeting(self, box: Box) -> Mask:
        """The places of the boxes that share a combination with this one, as bits."""
        found = (1 << len(self.boxes)) - 1
        for axis, values in enumerate(box):
            if not self.by_value or not found:
                break
            found &= self._taking(axis, values)
        return found

    def _taking(self, axis: int, values: Mask) -> Mask:
        key = (axis, values)
        if key not in self.seen:
            rows, known = 0, self.by_value[axis]
            for value in bits_of(values):
                rows |= known[value] if value < len(known) else 0
            self.seen[key] = rows
        return self.seen[key]


def _by_value(masks: Sequence[Mask]) -> list[Mask]:
    """For each value of an axis, the boxes that take it. Boxes that take the same values on it are looked at once."""
    alike: dict[Mask, Mask] = {}
    for i, mask in enumerate(masks):
        alike[mask] = alike.get(mask, 0) | 1 << i
    out = [0] * max((mask.bit_length() for mask in alike), default=0)
    for mask, rows in alike.items():
        for value in bits_of(mask):
            out[value] |= rows
    return out


def _diagram(within: Box, boxes: Sequence[Box]) -> _Node | bool:
    """The node of all gaps; true when everything is one, false when there is none."""
    inside = [b for box in boxes if (b := meet(box, within)) is not None]
    n_axes = len(within)
    by_value = []
    for axis in range(n_axes):
        masks = _by_value([box[axis] for box in inside])
        by_value.append(masks + [0] * (within[axis].bit_length() - len(masks)))
    open_end = [0] * (n_axes + 1)
    open_end[n_axes] = (1 << len(inside)) - 1
    for axis in reversed(range(n_axes)):
        full = sum(1 << i for i, box in enumerate(inside) if box[axis] == within[axis])
        open_end[axis] = open_end[axis + 1] & full
    return _node(_Search(within, by_value, open_end), 0, (1 << len(inside)) - 1)


def _node(search: _Search, axis: int, rows: Mask) -> _Node | bool:
    if rows == 0:
        return True
    if rows & search.open_end[axis]:
        return False
    key = (axis, rows)
    if key in search.found:
        return search.found[key]
    if len(search.found) > MAX_NODES:
        raise TooManyGaps
    left: dict[Mask, Mask] = {}
    for value in bits_of(search.sizes[axis]):
        kept = rows & search.by_value[axis][value]
        left[kept] = left.get(kept, 0) | 1 << value
    merged: dict[int, tuple[Mask, _Node | None]] = {}
    for kept, values in left.items():
        below = _node(search, axis + 1, kept)
        if below is not False:
            child = below if isinstance(below, _Node) else None
            before = merged.get(id(child), (0, child))[0]
            merged[id(child)] = (before | values, child)
    found: _Node | bool = False
    if merged:
        same = (axis, tuple(sorted((values, id(child)) for values, child in merged.values())))
        found = search.alike.setdefault(same, _Node(tuple(merged.values()), axis))
    search.found[key] = found
    return found


def _ways(node: _Node, before: Box, within: Box) -> Iterator[Box]:
    for values, child in node.edges:
        if child is None:
            yield (*before, values, *within[node.depth + 1 :])
        else:
            yield from _ways(child, (*before, values), within)
