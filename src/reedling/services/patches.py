"""JSON patches (RFC 6902) between two states of a document."""

from __future__ import annotations

from typing import Any

import jsonpatch

Patch = list[dict[str, Any]]
_A_FEW = 20
"""Up to so many members that differ are patched where they stand."""


def patch_between(before: dict[str, Any], after: dict[str, Any]) -> Patch:
    """The patch that makes the one of the other.

    Lists of the same length are compared member by member, so that one edit in a table of thousands
    of rows costs a walk along them and not a search for rows that moved. Where more than a few
    members differ, rows may have moved, and the library's own comparison finds the shorter patch.
    """
    changed: dict[str, list[int]] = {}
    for key, old in before.items():
        new = after.get(key)
        if isinstance(old, list) and isinstance(new, list) and len(old) == len(new):
            places = [i for i, (one, other) in enumerate(zip(old, new, strict=True)) if one != other]
            if len(places) <= _A_FEW:
                changed[key] = places
    patch: Patch = []
    for key, places in changed.items():
        for place in places:
            old, new = before[key][place], after[key][place]
            if isinstance(old, dict) and isinstance(new, dict):
                inner = jsonpatch.make_patch(old, new).patch
                patch += [{**op, **_prefixed(op, f"/{key}/{place}")} for op in inner]
            else:
                patch.append({"op": "replace", "path": f"/{key}/{place}", "value": new})
    rest_before, rest_after = (
        {key: value for key, value in state.items() if key not in changed} for state in (before, after)
    )
    return patch + jsonpatch.make_patch(rest_before, rest_after).patch


def _prefixed(op: dict[str, Any], place: str) -> dict[str, str]:
    """The pointers of an operation, from the top of the document."""
    return {key: place + op[key] for key in ("path", "from") if key in op}
