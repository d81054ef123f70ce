"""Change the lists that guidance refers to: one entry, or a sheet of them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.catalogue_soundness import catalogue_problems
from reedling.core.guidance.references import ListName
from reedling.core.people import Person
from reedling.errors import InvalidInput, NotFound
from reedling.exchange.content import CATALOGUES, dump_value, load_value
from reedling.exchange.list_sheets import load_entries, read_sheet, refuse_twice
from reedling.services.actions.summaries import note_all_returns
from reedling.services.context import Context
from reedling.services.shared.catalogue import catalogue_page_of
from reedling.services.shared.lists import (
    ListPage,
    SheetOutcome,
    entry_code,
    guard,
    keep_list_changes,
    list_words,
    outcome_of,
    refuse_use,
)
from reedling.services.views.lists import list_page
from reedling.store.unit import Unit


def put_entry(
    context: Context, person: Person, name: ListName, code: str | None, entry: dict[str, Any], etag: str
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

    def entries_after(before: ListPage) -> list[dict[str, Any]]:
        guard(before, etag)
        entries = list(before.entries)
        places = [i for i, e in enumerate(entries) if entry_code(name, e) == code]
        if code is not None and not places:
            raise NotFound("catalogue.unknown", f"{list_words(name)} have no entry {code}.")
        if places and entry_code(name, entry) != code:
            refuse_use(before, str(code), "changed")
        if places:
            entries[places[0]] = entry
        else:
            entries.append(entry)
        return entries

    return rewrite_list(context, person, name, entries_after)


def put_sheet(
    context: Context, person: Person, name: ListName, text: str, etag: str, *, only_tell: bool = False
) -> SheetOutcome:
    """Write the entries of a sheet over those with their codes, or add them; nothing is removed.

    With ``only_tell`` it is checked and told, and not written. Raises as :func:`put_entry`, and what
    reading the sheet raises; then nothing is written.
    """
    lines = read_sheet(name, text)
    with context.reading() as unit:
        before = catalogue_page_of(unit, name)
        guard(before, etag)
        held = {entry_code(name, e): e for e in before.entries}
        given = [(line, {**held.get(entry_code(name, entry), {}), **entry}) for line, entry in lines]
        entries = load_entries(name, given)
        refuse_twice(name, [entry_code(name, entry) for entry in entries])
        written = {entry_code(name, entry): entry for entry in entries}
        after = list({**held, **written}.values())
        _check(unit, name, after)
    outcome = outcome_of(before, held, written)
    if only_tell:
        return outcome

    def entries_after(found: ListPage) -> list[dict[str, Any]]:
        guard(found, etag)
        return after

    return replace(outcome, page=rewrite_list(context, person, name, entries_after, note="sheet"))


def remove_entry(context: Context, person: Person, name: ListName, code: str, etag: str) -> ListPage:
    """Take an entry out of its list; refused while something refers to it."""

    def entries_after(before: ListPage) -> list[dict[str, Any]]:
        guard(before, etag)
        kept = [e for e in before.entries if entry_code(name, e) != code]
        if len(kept) == len(before.entries):
            raise NotFound("catalogue.unknown", f"{list_words(name)} have no entry {code}.")
        refuse_use(before, code, "removed")
        return kept

    return rewrite_list(context, person, name, entries_after)


def rewrite_list(
    context: Context,
    person: Person,
    name: ListName,
    entries_after: Callable[[ListPage], list[dict[str, Any]]],
    *,
    note: str = "",
    also: Callable[[Unit], None] = lambda _unit: None,
) -> ListPage:
    """Write what ``entries_after`` makes of a list, checked, and keep who changed what; the list after.

    ``also`` writes what is to be there with the change or not at all; what it raises leaves the list as it was.
    """

    def prepare(unit: Unit) -> tuple[list[dict[str, Any]], Catalogue]:
        before = catalogue_page_of(unit, name)
        return before.entries, _check(unit, name, entries_after(before))

    def write(unit: Unit, prepared: tuple[list[dict[str, Any]], Catalogue]) -> bool:
        before, changed = prepared
        unit.catalogues.replace(changed)
        after = dump_value(changed)[name]
        keep_list_changes(context, unit, person, name, before, after, note=note)
        also(unit)
        return name == "symptoms" and _families(before) != _families(after)

    if context.change(prepare, write):
        note_all_returns(context)
    return list_page(context, name)


def _families(entries: Sequence[Mapping[str, Any]]) -> dict[str, Any]:
    return {e["code"]: e.get("family") for e in entries}


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
