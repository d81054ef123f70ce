"""JSON patches (RFC 6902) between two states of a document, applied within bounds."""

from __future__ import annotations

from typing import Any

import jsonpatch
import jsonpointer

from reedling.errors import Conflict, InvalidInput
from reedling.exchange.text import MAX_VALUES

Patch = list[dict[str, Any]]

_A_FEW = 20
"""Up to so many members that differ are patched where they stand."""

MAX_OPERATIONS = 20_000
"""Operations of one patch; taking back a paste of thousands of rows has a few for each."""

MAX_COPIED = 50_000
"""Values that the copies of one patch may make: copies of copies double each time."""


def apply_patch(data: dict[str, Any], patch: Patch, *, where: str) -> Any:
    """The state that a patch makes of this one, which may be changed in place.

    Raises
    ------
    Conflict
        ``drafts.patch_test`` when a test of the patch fails.
    InvalidInput
        ``drafts.patch`` for an operation that cannot be applied, ``drafts.patch_size`` beyond
        :data:`MAX_OPERATIONS` or :data:`MAX_COPIED`.
    """
    if len(patch) > MAX_OPERATIONS:
        raise _too_large(f"a patch may have {MAX_OPERATIONS:,} operations, this has {len(patch):,}.", where)
    n_copied = 0
    state: Any = data
    for operation in patch:
        try:
            if operation.get("op") == "copy":
                source = jsonpointer.resolve_pointer(state, operation.get("from") or "")
                n_copied += _n_values(source, MAX_COPIED - n_copied)
                if n_copied > MAX_COPIED:
                    raise _too_large(f"its copies would make more than {MAX_COPIED:,} values.", where)
            state = jsonpatch.JsonPatch([operation]).apply(state, in_place=True)
        except jsonpatch.JsonPatchTestFailed as error:
            raise Conflict(
                "drafts.patch_test", "the draft is not as the change expected.", where=where
            ) from error
        except _CANNOT as error:
            raise InvalidInput(
                "drafts.patch",
                f"the patch cannot be applied: {str(error)[:200]}.",
                where=where,
                hint="Send a list of RFC 6902 operations that fit the draft.",
            ) from error
    if _n_values(state, MAX_VALUES) > MAX_VALUES:
        raise _too_large(f"the document would have more than {MAX_VALUES:,} values.", where)
    return state


_CANNOT = (
    jsonpatch.JsonPatchException,
    jsonpointer.JsonPointerException,
    TypeError,
    KeyError,
    ValueError,
    IndexError,
)


def _n_values(value: Any, most: int) -> int:
    """How many values there are in one; counting stops one beyond ``most``."""
    count, waiting = 0, [value]
    while waiting and count <= most:
        one = waiting.pop()
        count += 1
        if isinstance(one, dict):
            waiting.extend(one.values())
        elif isinstance(one, list):
            waiting.extend(one)
    return count


def _too_large(message: str, where: str) -> InvalidInput:
    return InvalidInput("drafts.patch_size", message, where=where, hint="Send it in several patches.")


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
