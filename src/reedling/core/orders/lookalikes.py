"""Which assets of the register equipment found on site may be."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from reedling.core.guidance.likeness import one_apart, words_of
from reedling.core.register.assets import PlacedAsset
from reedling.core.runsheet.site_records import FoundEquipment


@dataclass(frozen=True, slots=True, kw_only=True)
class Lookalike:
    """An asset that equipment may be, and why."""

    asset: str
    name: str
    why: str


def lookalikes(found: FoundEquipment, site: str, assets: Iterable[PlacedAsset]) -> tuple[Lookalike, ...]:
    """Assets with its serial number, or one a letter apart, wherever they stand; then those of the site with its
    model or name."""
    serial, name, model = _plain(found.serial), _plain(found.name), _plain(found.model)
    out: list[tuple[int, Lookalike]] = []
    for placed in assets:
        asset, here = placed.asset, placed.asset.site == site
        if serial and _plain(asset.serial) == serial:
            rank, why = 0, "the same serial number"
        elif serial and here and one_apart(_plain(asset.serial), serial):
            rank, why = 1, "a serial number one letter apart"
        elif here and name and _plain(asset.name) == name:
            rank, why = 2, "the same name on the same site"
        elif here and model and _plain(asset.model) == model:
            rank, why = 3, "the same model on the same site"
        else:
            continue
        out.append((rank, Lookalike(asset=asset.code, name=f"{asset.name}, {placed.site.name}", why=why)))
    return tuple(like for _, like in sorted(out, key=lambda pair: (pair[0], pair[1].asset)))


def _plain(text: str) -> str:
    return "".join(words_of(text))
