"""Read who changed what: newest first, with what was before and after in the words of the list."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from reedling.core.changes import Change, ChangeAct, ChangeSubject
from reedling.exchange.list_sheets import AnyListName
from reedling.services.context import Context
from reedling.store.unit import Unit

PAGE = 100
"""Changes on a page of them."""


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldChange:
    """One field of an entry, before and after, as it is kept; nothing where there was none."""

    field: str
    before: Any
    after: Any


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeLine:
    """One change: who, when, what, and each field that is another."""

    id: int
    batch: str
    at: datetime
    person_name: str
    key: str
    act: ChangeAct
    fields: tuple[FieldChange, ...]
    note: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangesPage:
    """A page of changes, newest first; ``more`` where there are older ones."""

    changes: tuple[ChangeLine, ...]
    more: bool


def changes_of_list(
    context: Context, name: AnyListName, *, code: str | None = None, before: int | None = None
) -> ChangesPage:
    """What was changed in a list, or in one entry of it; keys are codes of entries."""
    with context.reading() as unit:
        found = unit.changes.newest(
            "list",
            key=None if code is None else f"{name}/{code}",
            within=f"{name}/" if code is None else None,
            before=before,
            limit=PAGE + 1,
        )
        return _page(unit, found)


def changes_of(
    context: Context, subject: ChangeSubject, key: str | None = None, *, before: int | None = None
) -> ChangesPage:
    """What was changed of an order or a person, or of all of them."""
    with context.reading() as unit:
        return _page(unit, unit.changes.newest(subject, key=key, before=before, limit=PAGE + 1))


def _page(unit: Unit, found: tuple[Change, ...]) -> ChangesPage:
    names = unit.people.names()
    return ChangesPage(
        changes=tuple(
            ChangeLine(
                id=c.id,
                batch=c.batch,
                at=c.at,
                person_name=names.get(c.person, c.person) if c.person else "a command on the server",
                key=c.key.split("/", 1)[1] if c.subject == "list" else c.key,
                act=c.act,
                fields=_fields(c),
                note=c.note,
            )
            for c in found[:PAGE]
        ),
        more=len(found) > PAGE,
    )


def _fields(change: Change) -> tuple[FieldChange, ...]:
    before, after = change.before or {}, change.after or {}
    if not isinstance(before, dict) or not isinstance(after, dict) or change.subject == "draft":
        return ()
    return tuple(
        FieldChange(field=name, before=before.get(name), after=after.get(name))
        for name in dict.fromkeys((*before, *after))
        if before.get(name) != after.get(name)
    )
