"""Combinations that no row speaks for, found exactly.

The axes are gone through one after the other; at each, values that leave the same rows in play are
taken together, and a set of rows that was met before is not gone into again. What comes out is a
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


def gaps_in(within: Box, boxes: Sequence[Box]) -> Iterator[Box]:
    """Boxes that together are all of ``within`` that none of the ``boxes`` covers; none overlap.

    Raises
    ------
    TooManyGaps
        When the diagram outgrows ``MAX_NODES``.
    """
    root = _diagram(within, boxes)
    if root is True:
        yield within
    elif isinstance(root, _Node):
        yield from _ways(root, (), within)


def is_covered(within: Box, boxes: Sequence[Box]) -> bool:
    """Whether the boxes together cover all of ``within``."""
    return next(gaps_in(within, boxes), None) is None


def box_of(boxes: Sequence[Box], place: Sequence[int | None]) -> Box | None:
    """The box among several in which a place lies."""
    for box in boxes:
        if all(p is not None and mask >> p & 1 for p, mask in zip(place, box, strict=True)):
            return box
    return None


def n_combinations(box: Box) -> int:
    """How many combinations of values a box holds."""
    return prod(mask.bit_count() for mask in box)


def meet(one: Box, other: Box) -> Box | None:
    """The combinations that two boxes share; nothing when there are none."""
    both = tuple(a & b for a, b in zip(one, other, strict=True))
    return both if all(both) else None


def _diagram(within: Box, boxes: Sequence[Box]) -> _Node | bool:
    """The node of all gaps; true when everything is one, false when there is none."""
    inside = [b for box in boxes if (b := meet(box, within)) is not None]
    n_axes = len(within)
    by_value = []
    for axis in range(n_axes):
        masks = [0] * within[axis].bit_length()
        for i, box in enumerate(inside):
            for value in bits_of(box[axis]):
                masks[value] |= 1 << i
        by_value.append(masks)
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
