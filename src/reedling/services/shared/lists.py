"""A list as it is read: its entries, what refers to each, and the tag that guards it against unseen changes."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from reedling.core.changes import ChangeAct
from reedling.core.guidance.documents import LIVE_STATES
from reedling.core.guidance.references import ListEntry, entries_between, entries_named
from reedling.core.guidance.revisions import RevisionState
from reedling.core.people import Person
from reedling.core.register.assets import Asset
from reedling.errors import Conflict
from reedling.exchange.list_sheets import AnyListName
from reedling.services.context import Context
from reedling.services.shared.kept_changes import keep_change
from reedling.services.shared.tags import tag_of
from reedling.store.unit import Unit

IN_USE: tuple[RevisionState, ...] = LIVE_STATES


@dataclass(frozen=True, slots=True, kw_only=True)
class EntryUses:
    """How many things refer to an entry, and the first of them in words."""

    total: int
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ListPage:
    """One list with the tag that guards it, and what uses those of its entries that are used, by code."""

    name: AnyListName
    etag: str
    entries: list[dict[str, Any]]
    used: dict[str, EntryUses]


@dataclass(slots=True, kw_only=True)
class Uses:
    """What refers to one entry: documents being written or in force, entries, assets, sites, orders.

    ``orders`` counts those whose symptom it is, or in which the field recorded it.
    """

    documents: list[str] = field(default_factory=list)
    entries: list[str] = field(default_factory=list)
    assets: list[str] = field(default_factory=list)
    sites: list[str] = field(default_factory=list)
    orders: int = 0

    def counted(self) -> EntryUses:
        """How many they are, and the first few by name."""
        named = [*self.documents, *self.entries, *self.assets, *self.sites]
        told = named[:5]
        if len(named) > len(told):
            told.append(f"{len(named) - len(told)} more")
        if self.orders:
            told.append(f"{self.orders} order{'s' if self.orders > 1 else ''}")
        words = " and ".join(filter(None, (", ".join(told[:-1]), told[-1])))
        return EntryUses(total=len(named) + self.orders, words=words)


def uses_of_entries(unit: Unit) -> Mapping[ListEntry, Uses]:
    """Every entry that something refers to, with what does."""
    out: dict[ListEntry, Uses] = {}

    def of(entry: ListEntry) -> Uses:
        return out.setdefault(entry, Uses())

    for revision in unit.documents.in_states(IN_USE):
        for entry in entries_named(revision.content):
            of(entry).documents.append(f"{revision.document} {revision.letter}")
    for entry, other in entries_between(unit.catalogues.get()):
        of(other).entries.append(entry.code)
    for placed in unit.register.assets():
        for entry in _of_asset(placed.asset):
            of(entry).assets.append(placed.asset.code)
    for site in unit.register.sites():
        if site.contract:
            of(ListEntry("contracts", site.contract)).sites.append(site.code)
    for entry, n_orders in unit.job_figures.codes_recorded():
        of(entry).orders += n_orders
    return out


def _of_asset(asset: Asset) -> Iterator[ListEntry]:
    yield ListEntry("equipment", asset.equipment)
    if asset.model:
        yield ListEntry("models", asset.model)
    for code in asset.fields:
        yield ListEntry("fields", code)


def page_of(name: AnyListName, entries: list[dict[str, Any]], used: dict[str, EntryUses]) -> ListPage:
    """A list with its tag, which changes with any of its entries."""
    return ListPage(name=name, etag=tag_of(name, entries), entries=entries, used=used)


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetOutcome:
    """What a sheet brings to a list, by the codes of its entries; ``page`` is the list as it then is."""

    page: ListPage
    added: list[str]
    changed: list[str]
    same: list[str]


def outcome_of(
    page: ListPage, before: Mapping[str, dict[str, Any]], given: Mapping[str, dict[str, Any]]
) -> SheetOutcome:
    """What entries, by code, bring to those that were there."""
    return SheetOutcome(
        page=page,
        added=[code for code in given if code not in before],
        changed=[code for code, entry in given.items() if code in before and entry != before[code]],
        same=[code for code, entry in given.items() if entry == before.get(code)],
    )


def guard(page: ListPage, etag: str) -> None:
    """Refuse to write over what somebody changed since the tag was read."""
    if etag != page.etag:
        raise Conflict(
            "catalogue.stale",
            "somebody changed this list since you read it.",
            where=list_words(page.name),
            hint="Look at the list as it is now, then make your change again.",
        )


def refuse_use(page: ListPage, code: str, what: str) -> None:
    """Refuse to rename or remove an entry that something refers to."""
    used = page.used.get(code)
    if used is not None:
        raise Conflict(
            "catalogue.in_use",
            f"{code} cannot be {what}: {used.words} {'refers' if used.total == 1 else 'refer'} to it.",
            where=list_words(page.name),
            hint="Change those first; what the field recorded stays.",
        )


def list_words(name: AnyListName) -> str:
    """What a list is called."""
    return name.replace("_", " ")


def entry_code(name: AnyListName, entry: Mapping[str, Any]) -> str:
    """What an entry is known by: its code, or for a technician's entry the two things it joins."""
    if name == "roster":
        return f"{entry.get('technician', '')} {entry.get('skill', '')}"
    if name == "van_stock":
        return f"{entry.get('technician', '')} {entry.get('part', '')}"
    if name == "van_tools":
        return f"{entry.get('technician', '')} {entry.get('tool', '')}"
    return str(entry.get("code", ""))


def keep_list_changes(
    context: Context,
    unit: Unit,
    person: Person | None,
    name: AnyListName,
    before: Sequence[dict[str, Any]],
    after: Sequence[dict[str, Any]],
    *,
    note: str = "",
) -> None:
    """Keep what changed between two states of a list, joined as one change.

    The key of an entry is ``list/code``; a code that changed is one entry taken out and another added.
    """
    old = {entry_code(name, e): e for e in before}
    new = {entry_code(name, e): e for e in after}
    batch = ""
    for code in dict.fromkeys((*old, *new)):
        one, other = old.get(code), new.get(code)
        if one == other:
            continue
        act: ChangeAct = "added" if one is None else "removed" if other is None else "changed"
        batch = keep_change(
            context,
            unit,
            person,
            "list",
            f"{name}/{code}",
            act,
            before=one,
            after=other,
            note=note,
            batch=batch,
        )
