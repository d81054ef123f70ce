"""Change the lists that guidance refers to: one entry at a time, guarded against unseen overwriting."""

from __future__ import annotations

import dataclasses
import hashlib
import json
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Literal

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.catalogue_soundness import catalogue_problems
from reedling.core.guidance.revisions import RevisionState
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.exchange.content import CATALOGUES, dump_value, load_value
from reedling.services.context import Context
from reedling.store.unit import Unit

ListName = Literal[
    "equipment",
    "models",
    "symptoms",
    "causes",
    "remedies",
    "skills",
    "parts",
    "fields",
    "meters",
    "roster",
    "contracts",
    "categories",
    "van_stock",
]
IN_USE: tuple[RevisionState, ...] = ("Draft", "In review", "Released")


@dataclass(frozen=True, slots=True, kw_only=True)
class ListPage:
    """One list with the tag that guards it, and who or what uses each entry."""

    name: ListName
    etag: str
    entries: list[dict[str, Any]]
    used: dict[str, int]


def list_page(context: Context, name: ListName) -> ListPage:
    """A list as it stands."""
    with context.store.reading() as unit:
        return _page(unit, name)


def put_entry(
    context: Context, name: ListName, code: str | None, entry: dict[str, Any], etag: str
) -> ListPage:
    """Write an entry in place of the one with this code, or add it; gives the list after.

    Raises
    ------
    Conflict
        ``catalogue.stale`` when somebody changed the list since the tag was read; ``catalogue.in_use``
        when the code of an entry in use would change.
    InvalidInput
        ``catalogue.refused`` with every problem: a loop in the tree, a code used twice, an entry that
        refers to nothing.
    """
    with context.store.writing() as unit:
        before = _page(unit, name)
        _guard(before, etag)
        entries = list(before.entries)
        places = [i for i, e in enumerate(entries) if _code(name, e) == code]
        if code is not None and not places:
            raise NotFound("catalogue.unknown", f"{_words(name)} have no entry {code}.")
        if places and _code(name, entry) != code:
            _refuse_use(unit, name, str(code), "changed")
        if places:
            entries[places[0]] = entry
        else:
            entries.append(entry)
        return _write(unit, name, entries)


def remove_entry(context: Context, name: ListName, code: str, etag: str) -> ListPage:
    """Take an entry out of its list; refused while something refers to it."""
    with context.store.writing() as unit:
        before = _page(unit, name)
        _guard(before, etag)
        kept = [e for e in before.entries if _code(name, e) != code]
        if len(kept) == len(before.entries):
            raise NotFound("catalogue.unknown", f"{_words(name)} have no entry {code}.")
        _refuse_use(unit, name, code, "removed")
        return _write(unit, name, kept)


def _write(unit: Unit, name: ListName, entries: list[dict[str, Any]]) -> ListPage:
    lists = dump_value(unit.catalogues.get())
    changed = load_value(CATALOGUES, {**lists, name: entries}, where=_words(name))
    held = {(p.code, p.path, p.message) for p in catalogue_problems(unit.catalogues.get())}
    problems = [p for p in catalogue_problems(changed) if (p.code, p.path, p.message) not in held]
    if problems:
        raise InvalidInput(
            "catalogue.refused",
            problems[0].message if len(problems) == 1 else f"{len(problems)} things are wrong.",
            where=_words(name),
            hint=problems[0].hint,
            problems=problems,
        )
    unit.catalogues.replace(changed)
    return _page(unit, name)


def _page(unit: Unit, name: ListName) -> ListPage:
    entries = dump_value(unit.catalogues.get())[name]
    digest = hashlib.sha256(json.dumps(entries, sort_keys=True).encode()).hexdigest()[:16]
    users = list(_users(unit))
    return ListPage(
        name=name,
        etag=f'"{name}-{digest}"',
        entries=entries,
        used={
            code: sum(json.dumps(code) in text for _, text in users) + _in_lists(unit, name, code)
            for e in entries
            if (code := _code(name, e))
        },
    )


def _guard(page: ListPage, etag: str) -> None:
    if etag != page.etag:
        raise Conflict(
            "catalogue.stale",
            "somebody changed this list since you read it.",
            where=_words(page.name),
            hint="Look at the list as it is now, then make your change again.",
        )


def _refuse_use(unit: Unit, name: ListName, code: str, what: str) -> None:
    users = [who for who, text in _users(unit) if json.dumps(code) in text]
    n_lists = _in_lists(unit, name, code)
    if not users and not n_lists:
        return
    told = ", ".join(users[:5]) + (f" and {len(users) - 5} more" if len(users) > 5 else "")
    named = told or f"{n_lists} entries of other lists"
    raise Conflict(
        "catalogue.in_use",
        f"{code} cannot be {what}: {named} {'refers' if len(users) == 1 else 'refer'} to it.",
        where=_words(name),
        hint="Change those first.",
    )


def _users(unit: Unit) -> Iterator[tuple[str, str]]:
    """Documents being written or in force, and assets, with all they say."""
    for revision in unit.documents.in_states(IN_USE):
        yield f"{revision.document} {revision.letter}", json.dumps(dump_value(revision.content))
    for asset in unit.places.assets():
        yield asset.id, json.dumps([asset.equipment, asset.model, asset.site.contract])


def _in_lists(unit: Unit, name: ListName, code: str) -> int:
    """How many entries of the lists refer to an entry by its code."""
    if name in ("roster", "van_stock"):
        return 0
    lists = dump_value(unit.catalogues.get())
    count = 0
    for field in dataclasses.fields(Catalogue):
        for entry in lists[field.name]:
            others = {k: v for k, v in entry.items() if k not in ("code", "name", "label", "links")}
            count += json.dumps(code) in json.dumps(others) and not (
                field.name == name and entry.get("code") == code
            )
    return count


def _code(name: ListName, entry: dict[str, Any]) -> str:
    """What an entry is known by: its code, or for a technician's entry the two things it joins."""
    if name == "roster":
        return f"{entry.get('technician', '')} {entry.get('skill', '')}"
    if name == "van_stock":
        return f"{entry.get('technician', '')} {entry.get('part', '')}"
    return str(entry.get("code", ""))


def _words(name: ListName) -> str:
    return name.replace("_", " ")
