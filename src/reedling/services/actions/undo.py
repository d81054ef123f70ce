"""Take back a change of a list: one entry, or all that one sheet brought."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from reedling.core.changes import Change
from reedling.core.people import Person
from reedling.errors import Conflict, NotFound
from reedling.exchange.list_sheets import AnyListName
from reedling.services.actions.catalogue import rewrite_list
from reedling.services.actions.register import Rewritten, rewrite_register
from reedling.services.context import Context
from reedling.services.shared.lists import ListPage, entry_code, list_words, refuse_use


def undo_change(context: Context, person: Person, name: AnyListName, batch: str) -> ListPage:
    """Put every entry of a change back to what it was before; gives the list after.

    Taking back is a change itself, and can be taken back.

    Raises
    ------
    NotFound
        ``changes.unknown`` when there is no such change of this list.
    Conflict
        ``changes.moved_on`` when an entry was changed since; ``catalogue.in_use`` when one that was added
        is in use by now. Nothing is changed.
    """
    with context.reading() as unit:
        changes = [c for c in unit.changes.of_batch(batch) if c.key.startswith(f"{name}/")]
    if not changes:
        raise NotFound("changes.unknown", "there is no such change of this list.", where=list_words(name))
    note = "took back"
    if name == "sites" or name == "assets":
        return rewrite_register(context, person, name, lambda page: _rewritten(page, changes), note=note)
    return rewrite_list(context, person, name, lambda page: _entries(page, changes), note=note)


def _entries(page: ListPage, changes: Sequence[Change]) -> list[dict[str, Any]]:
    held = _check(page, changes)
    for change in changes:
        code = _code(change)
        if change.before is None:
            del held[code]
        else:
            held[code] = change.before
    return list(held.values())


def _rewritten(page: ListPage, changes: Sequence[Change]) -> Rewritten:
    held = _check(page, changes)
    return Rewritten(
        put=tuple(
            (_code(c) if _code(c) in held else None, c.before) for c in changes if c.before is not None
        ),
        removed=tuple(_code(c) for c in changes if c.before is None),
    )


def _check(page: ListPage, changes: Sequence[Change]) -> dict[str, dict[str, Any]]:
    """The entries by code, if each that changed is still as the change left it."""
    held = {entry_code(page.name, e): e for e in page.entries}
    moved = [_code(c) for c in changes if held.get(_code(c)) != c.after]
    if moved:
        named = ", ".join(moved[:5]) + (f" and {len(moved) - 5} more" if len(moved) > 5 else "")
        raise Conflict(
            "changes.moved_on",
            f"{named} changed again since.",
            where=list_words(page.name),
            hint="Take back the later change first, or change the entry itself.",
        )
    for change in changes:
        if change.before is None:
            refuse_use(page, _code(change), "removed")
    return held


def _code(change: Change) -> str:
    return change.key.split("/", 1)[1]
