"""Change sites and assets: one at a time, guarded like the lists.

Orders keep what was known when they were logged, so a change here reaches only orders to come.
"""

from __future__ import annotations

from collections import Counter
from typing import Any

from reedling.core.guidance.register import AssetEntry, SiteEntry, asset_problems, site_problems
from reedling.errors import InvalidInput, NotFound, Problem
from reedling.exchange.content import ASSET_ENTRIES, SITE_ENTRIES, dump_value, load_value
from reedling.services.context import Context
from reedling.services.list_pages import (
    ListPage,
    RegisterName,
    Uses,
    guard,
    list_words,
    page_of,
    refuse_use,
)
from reedling.store.records import Asset, Site
from reedling.store.unit import Unit


def register_page(context: Context, name: RegisterName) -> ListPage:
    """All sites, or all assets."""
    with context.store.reading() as unit:
        return _page(unit, name)


def put_place(
    context: Context, name: RegisterName, code: str | None, entry: dict[str, Any], etag: str
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
    with context.store.writing() as unit:
        before = _page(unit, name)
        guard(before, etag)
        codes = {e["code"] for e in before.entries}
        if code is not None and code not in codes:
            raise NotFound("catalogue.unknown", f"{list_words(name)} have no entry {code}.")
        if code is not None and entry.get("code") != code:
            refuse_use(before, code, "changed")
        others = codes - {code}
        if name == "sites":
            site = load_value(SITE_ENTRIES, entry, where="sites")
            _refuse(name, tuple(site_problems(site, others, unit.catalogues.get())))
            unit.places.put_site(_site(unit, site), replaces=code)
        else:
            asset = load_value(ASSET_ENTRIES, entry, where="assets")
            sites = {s.id for s in unit.places.sites()}
            _refuse(name, tuple(asset_problems(asset, others, sites, unit.catalogues.get())))
            unit.places.put_asset(_asset(unit, asset), replaces=code)
        return _page(unit, name)


def remove_place(context: Context, name: RegisterName, code: str, etag: str) -> ListPage:
    """Take out a site without assets, or an asset without orders."""
    with context.store.writing() as unit:
        before = _page(unit, name)
        guard(before, etag)
        if code not in {e["code"] for e in before.entries}:
            raise NotFound("catalogue.unknown", f"{list_words(name)} have no entry {code}.")
        refuse_use(before, code, "removed")
        if name == "sites":
            unit.places.remove_site(code)
        else:
            unit.places.remove_asset(code)
        return _page(unit, name)


def _page(unit: Unit, name: RegisterName) -> ListPage:
    if name == "sites":
        at: dict[str, list[str]] = {}
        for asset in unit.places.assets():
            at.setdefault(asset.site.id, []).append(asset.id)
        used = {site: Uses(assets=there).counted() for site, there in at.items()}
        return page_of(name, [dump_value(_site_entry(s)) for s in unit.places.sites()], used)
    used = {asset: Uses(orders=n).counted() for asset, n in unit.orders.n_by_asset().items()}
    return page_of(name, [dump_value(_asset_entry(a)) for a in unit.places.assets()], used)


def _site_entry(site: Site) -> SiteEntry:
    return SiteEntry(
        code=site.id,
        name=site.name,
        district=site.district,
        customer=site.customer,
        contract=site.contract or None,
        tags=site.tags,
        east=site.east,
        north=site.north,
        zone=site.zone,
    )


def _asset_entry(asset: Asset) -> AssetEntry:
    return AssetEntry(
        code=asset.id,
        name=asset.name,
        site=asset.site.id,
        equipment=asset.equipment,
        model=asset.model or None,
        serial=asset.serial,
        warranty_until=asset.warranty_until,
        fields=asset.fields,
    )


def _site(unit: Unit, entry: SiteEntry) -> Site:
    zones = Counter(site.zone for site in unit.places.sites())
    usual = zones.most_common(1)[0][0] if zones else "UTC"
    return Site(
        id=entry.code,
        name=entry.name,
        district=entry.district,
        east=entry.east,
        north=entry.north,
        zone=entry.zone or usual,
        customer=entry.customer,
        tags=tuple(dict.fromkeys(entry.tags)),
        contract=entry.contract or "",
    )


def _asset(unit: Unit, entry: AssetEntry) -> Asset:
    site = next(s for s in unit.places.sites() if s.id == entry.site)
    return Asset(
        id=entry.code,
        name=entry.name,
        site=site,
        equipment=entry.equipment,
        model=entry.model or "",
        serial=entry.serial,
        fields=entry.fields,
        warranty_until=entry.warranty_until,
    )


def _refuse(name: RegisterName, problems: tuple[Problem, ...]) -> None:
    if problems:
        told = problems[0].message if len(problems) == 1 else f"{len(problems)} things are wrong."
        raise InvalidInput(
            "catalogue.refused", told, where=list_words(name), hint=problems[0].hint, problems=problems
        )
