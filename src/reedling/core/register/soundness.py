"""What is plainly wrong with a site or an asset as it is written."""

from __future__ import annotations

from collections.abc import Iterator
from collections.abc import Set as AbstractSet
from math import isfinite
from zoneinfo import available_timezones

from reedling.core.guidance.catalogue import Catalogue, EquipmentTree
from reedling.core.logic.conditions import Answer
from reedling.core.register.assets import Asset, Site
from reedling.errors import Problem


def site_problems(site: Site, others: AbstractSet[str], lists: Catalogue) -> Iterator[Problem]:
    """Every problem of a site; ``others`` are the codes of the other sites. Paths are its keys."""
    yield from _code(site.code, others)
    for key in ("name", "district"):
        if not getattr(site, key).strip():
            yield _error("catalogue.empty", f"/{key}", f"The site has no {key}.", "Give it one.")
    if site.contract and site.contract not in {c.code for c in lists.contracts}:
        yield _unknown("/contract", f"There is no contract {site.contract}.")
    if site.zone and site.zone not in available_timezones():
        yield _unknown("/zone", f"{site.zone} is no time zone; they are named like Europe/London.")
    if not (-180 <= site.east <= 180 and -90 <= site.north <= 90):
        bounds = "East is from -180 to 180 degrees, north from -90 to 90."
        yield _error(
            "catalogue.quantity", "/east", bounds, "Write degrees, with a point before the fraction."
        )


def asset_problems(
    asset: Asset, others: AbstractSet[str], sites: AbstractSet[str], lists: Catalogue
) -> Iterator[Problem]:
    """Every problem of an asset; ``others`` are the codes of the other assets, ``sites`` those of all sites.

    An asset is of its model's class, or of one below it.
    """
    yield from _code(asset.code, others)
    if not asset.name.strip():
        yield _error("catalogue.empty", "/name", "The asset has no name.", "Give it one.")
    if not asset.site:
        yield _error("catalogue.empty", "/site", "The asset stands at no site.", "Choose one.")
    elif asset.site not in sites:
        yield _unknown("/site", f"There is no site {asset.site}.")
    tree = EquipmentTree.of(lists.equipment)
    if not asset.equipment:
        yield _error("catalogue.empty", "/equipment", "The asset is of no class.", "Choose one.")
    elif asset.equipment not in tree.classes:
        yield _unknown("/equipment", f"There is no equipment class {asset.equipment}.")
    if asset.model:
        model = next((m for m in lists.models if m.code == asset.model), None)
        if model is None:
            yield _unknown("/model", f"There is no model {asset.model}.")
        elif asset.equipment and not tree.is_a(asset.equipment, model.equipment):
            own, other = tree.name(asset.equipment), tree.name(model.equipment)
            yield _unknown("/model", f"{model.name} is a model of {other}, not of {own}.")
    fields = {f.code: f for f in lists.fields}
    for code, value in asset.fields.items():
        field_of = fields.get(code)
        if field_of is None:
            yield _unknown("/fields", f"There is no asset field {code}.")
        elif field_of.number and not _is_number(value):
            yield _error("catalogue.field", "/fields", f"{field_of.name} is a number.", "Write a number.")


def _is_number(value: Answer) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and isfinite(value)


def _error(code: str, path: str, message: str, hint: str) -> Problem:
    return Problem(code=code, path=path, message=message, hint=hint)


def _unknown(path: str, message: str) -> Problem:
    return _error("catalogue.reference", path, message, "Choose one from the list.")


def _code(code: str, others: AbstractSet[str]) -> Iterator[Problem]:
    if not code.strip():
        yield _error("catalogue.code", "/code", "It has no code.", "Give it one.")
    elif code in others:
        yield _error("catalogue.code", "/code", f"{code} stands 2 times.", "Choose another code.")
