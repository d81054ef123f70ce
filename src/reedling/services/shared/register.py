"""Sites and assets as a list shows them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from reedling.core.register.assets import RegisterName
from reedling.exchange.content import dump_value
from reedling.services.shared.lists import (
    ListPage,
    Uses,
    page_of,
)
from reedling.store.unit import Unit


def register_page_of(unit: Unit, name: RegisterName) -> ListPage:
    """All sites, or all assets, with what refers to each."""
    if name == "sites":
        at: dict[str, list[str]] = {}
        for placed in unit.register.assets():
            at.setdefault(placed.site.code, []).append(placed.asset.code)
        used = {site: Uses(assets=there).counted() for site, there in at.items()}
    else:
        used = {asset: Uses(orders=n).counted() for asset, n in unit.orders.n_by_asset().items()}
    return page_of(name, register_entries(unit, name), used)


def register_entries(unit: Unit, name: RegisterName) -> list[dict[str, Any]]:
    """All sites, or all assets, as plain data."""
    if name == "sites":
        return [dump_value(s) for s in unit.register.sites()]
    return [dump_value(a.asset) for a in unit.register.assets()]


def entries_of_assets(unit: Unit, assets: Sequence[str]) -> list[dict[str, Any]]:
    """These assets, as the register shows them."""
    found = unit.register.assets_of(frozenset(assets))
    return [dump_value(found[a].asset) for a in assets if a in found]
