"""Change the lists that guidance refers to: one entry at a time, guarded against unseen overwriting."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.catalogue_soundness import catalogue_problems
from reedling.core.guidance.references import ListName
from reedling.errors import InvalidInput, NotFound
from reedling.exchange.content import CATALOGUES, dump_value, load_value
from reedling.exchange.list_sheets import load_entries, read_sheet, refuse_twice
from reedling.services.context import Context
from reedling.services.list_pages import (
    ListPage,
    SheetOutcome,
    guard,
    list_words,
    outcome_of,
    page_of,
    refuse_use,
    uses_of_entries,
)
from reedling.store.unit import Unit


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
        guard(before, etag)
        entries = list(before.entries)
        places = [i for i, e in enumerate(entries) if _code(name, e) == code]
        if code is not None and not places:
            raise NotFound("catalogue.unknown", f"{list_words(name)} have no entry {code}.")
        if places and _code(name, entry) != code:
            refuse_use(before, str(code), "changed")
        if places:
            entries[places[0]] = entry
        else:
            entries.append(entry)
        return _write(unit, name, entries)


def put_sheet(
    context: Context, name: ListName, text: str, etag: str, *, only_tell: bool = False
) -> SheetOutcome:
    """Write the entries of a sheet over those with their codes, or add them; nothing is removed.

    With ``only_tell`` it is checked and told, and not written. Raises as :func:`put_entry`, and what
    reading the sheet raises; then nothing is written.
    """
    with context.store.writing() as unit:
        before = _page(unit, name)
        guard(before, etag)
        held = {_code(name, e): e for e in before.entries}
        given = [
            (line, {**held.get(_code(name, entry), {}), **entry}) for line, entry in read_sheet(name, text)
        ]
        entries = load_entries(name, given)
        refuse_twice(name, [_code(name, entry) for entry in entries])
        written = {_code(name, entry): entry for entry in entries}
        changed = _check(unit, name, list({**held, **written}.values()))
        outcome = outcome_of(before, held, written)
        if only_tell:
            return outcome
        unit.catalogues.replace(changed)
        return replace(outcome, page=_page(unit, name))


def remove_entry(context: Context, name: ListName, code: str, etag: str) -> ListPage:
    """Take an entry out of its list; refused while something refers to it."""
    with context.store.writing() as unit:
        before = _page(unit, name)
        guard(before, etag)
        kept = [e for e in before.entries if _code(name, e) != code]
        if len(kept) == len(before.entries):
            raise NotFound("catalogue.unknown", f"{list_words(name)} have no entry {code}.")
        refuse_use(before, code, "removed")
        return _write(unit, name, kept)


def _write(unit: Unit, name: ListName, entries: list[dict[str, Any]]) -> ListPage:
    unit.catalogues.replace(_check(unit, name, entries))
    return _page(unit, name)


def _check(unit: Unit, name: ListName, entries: list[dict[str, Any]]) -> Catalogue:
    """The catalogue with these entries, if nothing is wrong with it that was not wrong before."""
    lists = dump_value(unit.catalogues.get())
    changed = load_value(CATALOGUES, {**lists, name: entries}, where=list_words(name))
    held = {(p.code, p.path, p.message) for p in catalogue_problems(unit.catalogues.get())}
    problems = [p for p in catalogue_problems(changed) if (p.code, p.path, p.message) not in held]
    if problems:
        raise InvalidInput(
            "catalogue.refused",
            problems[0].message if len(problems) == 1 else f"{len(problems)} things are wrong.",
            where=list_words(name),
            hint=problems[0].hint,
            problems=problems,
        )
    return changed


def _page(unit: Unit, name: ListName) -> ListPage:
    uses = uses_of_entries(unit)
    used = {entry.code: found.counted() for entry, found in uses.items() if entry.listed == name}
    return page_of(name, dump_value(unit.catalogues.get())[name], used)


def _code(name: ListName, entry: dict[str, Any]) -> str:
    """What an entry is known by: its code, or for a technician's entry the two things it joins."""
    if name == "roster":
        return f"{entry.get('technician', '')} {entry.get('skill', '')}"
    if name == "van_stock":
        return f"{entry.get('technician', '')} {entry.get('part', '')}"
    return str(entry.get("code", ""))
