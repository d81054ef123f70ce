"""Change sites and assets: one at a time, guarded like the lists.

Orders keep what was known when they were logged, so a change here reaches only orders to come.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping
from collections.abc import Set as AbstractSet
from dataclasses import dataclass, replace
from typing import Any

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.people import Person
from reedling.core.register.assets import RegisterName, Site
from reedling.core.register.soundness import asset_problems, site_problems
from reedling.errors import InvalidInput, NotFound, Problem
from reedling.exchange.content import ASSETS, SITES, load_value
from reedling.exchange.list_sheets import load_entries, read_sheet, refuse_twice
from reedling.services.context import Context
from reedling.services.shared.lists import (
    ListPage,
    SheetOutcome,
    guard,
    keep_list_changes,
    list_words,
    outcome_of,
    refuse_use,
)
from reedling.services.shared.register import register_entries, register_page_of
from reedling.services.views.lists import register_page
from reedling.store.unit import Unit


def write_register_entry(
    context: Context, person: Person, name: RegisterName, code: str | None, entry: dict[str, Any], etag: str
) -> ListPage:
    """Write a site or asset in place of the one with this code, or add it; gives the register after.

    Raises
    ------
    Conflict
        ``catalogue.stale`` when somebody changed the register since the tag was read; ``catalogue.in_use``
        when the code of a site with assets, or of an asset with orders, would change.
    InvalidInput
        ``catalogue.refused`` with every problem: a class, model, site, contract or time zone that is not
        there, a model of another class, a code used twice.
    """

    def entries_after(before: ListPage) -> Rewritten:
        guard(before, etag)
        codes = {e["code"] for e in before.entries}
        if code is not None and code not in codes:
            raise NotFound("catalogue.unknown", f"{list_words(name)} have no entry {code}.")
        if code is not None and entry.get("code") != code:
            refuse_use(before, code, "changed")
        return Rewritten(put=((code, entry),))

    return rewrite_register(context, person, name, entries_after)


def write_register_sheet(
    context: Context, person: Person, name: RegisterName, text: str, etag: str, *, only_tell: bool = False
) -> SheetOutcome:
    """Write the sites or assets of a sheet over those with their codes, or add them; none is removed.

    With ``only_tell`` it is checked and told, and not written.
    """
    lines = read_sheet(name, text)
    with context.reading() as unit:
        before = register_page_of(unit, name)
        guard(before, etag)
        held = {e["code"]: e for e in before.entries}
        numbers = {f.code for f in unit.catalogues.get().fields if f.number}
        given = [(line, _over(held.get(entry.get("code", ""), {}), entry, numbers)) for line, entry in lines]
        entries = load_entries(name, given)
        refuse_twice(name, [e["code"] for e in entries])
        known = _Known.read(unit)
        problems = [
            replace(p, path=f"/{line}{p.path}", message=f"Line {line}: {p.message}")
            for (line, _), entry in zip(given, entries, strict=True)
            for p in known.problems(name, entry, set())
        ]
        _refuse(name, tuple(problems))
        outcome = outcome_of(before, held, {e["code"]: e for e in entries})
    if only_tell:
        return outcome

    def entries_after(found: ListPage) -> Rewritten:
        guard(found, etag)
        return Rewritten(put=tuple((e["code"] if e["code"] in held else None, e) for e in entries))

    return replace(outcome, page=rewrite_register(context, person, name, entries_after, note="sheet"))


def remove_register_entry(
    context: Context, person: Person, name: RegisterName, code: str, etag: str
) -> ListPage:
    """Take out a site without assets, or an asset without orders."""

    def entries_after(before: ListPage) -> Rewritten:
        guard(before, etag)
        if code not in {e["code"] for e in before.entries}:
            raise NotFound("catalogue.unknown", f"{list_words(name)} have no entry {code}.")
        refuse_use(before, code, "removed")
        return Rewritten(removed=(code,))

    return rewrite_register(context, person, name, entries_after)


@dataclass(frozen=True, slots=True, kw_only=True)
class Rewritten:
    """What to do to a register: entries to write, each in place of a code or of none, and codes to remove."""

    put: tuple[tuple[str | None, dict[str, Any]], ...] = ()
    removed: tuple[str, ...] = ()


def rewrite_register(
    context: Context,
    person: Person,
    name: RegisterName,
    entries_after: Callable[[ListPage], Rewritten],
    *,
    note: str = "",
    also: Callable[[Unit], None] = lambda _unit: None,
) -> ListPage:
    """Do to a register what ``entries_after`` says, checked, and keep who changed what; the register after.

    ``also`` writes what is to be there with the change or not at all; what it raises leaves the register as it was.
    """

    def prepare(unit: Unit) -> tuple[list[dict[str, Any]], Rewritten]:
        before = register_page_of(unit, name)
        wanted = entries_after(before)
        known = _Known.read(unit)
        codes = {e["code"] for e in before.entries} - set(wanted.removed)
        for code, entry in wanted.put:
            _refuse(name, known.problems(name, entry, codes - {code}))
            codes.add(entry["code"])
        return before.entries, wanted

    def write(unit: Unit, prepared: tuple[list[dict[str, Any]], Rewritten]) -> None:
        before, wanted = prepared
        for removed in wanted.removed:
            (unit.register.remove_site if name == "sites" else unit.register.remove_asset)(removed)
        for code, entry in wanted.put:
            if name == "sites":
                site = _with_zone(unit, load_value(SITES, entry, where="sites"))
                unit.register.put_site(site, replaces=code)
            else:
                asset = load_value(ASSETS, entry, where="assets")
                unit.register.put_asset(asset, replaces=code)
        keep_list_changes(context, unit, person, name, before, register_entries(unit, name), note=note)
        also(unit)

    context.change(prepare, write)
    return register_page(context, name)


def _over(held: Mapping[str, Any], entry: Mapping[str, Any], numbers: AbstractSet[str]) -> dict[str, Any]:
    """A line of a sheet over what is there.

    What is recorded as a number is read as one where it can be; an empty cell takes it away.
    """
    given = entry.get("fields")
    if given is None:
        return {**held, **entry}
    read = {code: _number(text) if code in numbers else text for code, text in given.items()}
    recorded = {code: value for code, value in {**held.get("fields", {}), **read}.items() if value != ""}
    return {**held, **entry, "fields": recorded}


def _number(text: str) -> float | str:
    try:
        return float(text)
    except ValueError:
        return text


@dataclass(frozen=True, slots=True)
class _Known:
    """What sites and assets are checked against."""

    lists: Catalogue
    sites: frozenset[str]

    @classmethod
    def read(cls, unit: Unit) -> _Known:
        return cls(unit.catalogues.get(), frozenset(s.code for s in unit.register.sites()))

    def problems(
        self, name: RegisterName, entry: dict[str, Any], others: AbstractSet[str]
    ) -> tuple[Problem, ...]:
        """What is wrong with an entry; ``others`` are the codes it must not have."""
        if name == "sites":
            return tuple(site_problems(load_value(SITES, entry, where="sites"), others, self.lists))
        asset = load_value(ASSETS, entry, where="assets")
        return tuple(asset_problems(asset, others, set(self.sites), self.lists))


def _with_zone(unit: Unit, site: Site) -> Site:
    """The site with the zone of most sites where it says none, and each tag once."""
    zones = Counter(s.zone for s in unit.register.sites())
    usual = zones.most_common(1)[0][0] if zones else "UTC"
    return replace(site, zone=site.zone or usual, tags=tuple(dict.fromkeys(site.tags)))


def _refuse(name: RegisterName, problems: tuple[Problem, ...]) -> None:
    if problems:
        told = problems[0].message if len(problems) == 1 else f"{len(problems)} things are wrong."
        raise InvalidInput(
            "catalogue.refused", told, where=list_words(name), hint=problems[0].hint, problems=problems
        )
