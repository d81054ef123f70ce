"""Which assets a plate on site belongs to."""

from __future__ import annotations

from collections.abc import Iterable

from reedling.core.register.assets import PlacedAsset, asset_words


def plate_key(code: str) -> str:
    """What two spellings of one plate share: blanks at the ends and capitals of A to Z count for nothing.

    Other letters keep their capitals, as they do where a database compares.

    >>> plate_key(" Hm35-0212") == plate_key("HM35-0212 ")
    True
    """
    return "".join(c.lower() if c.isascii() else c for c in code.strip())


def assets_with_plate(code: str, assets: Iterable[PlacedAsset]) -> tuple[PlacedAsset, ...]:
    """The assets whose serial this is, each once, by the names of site and asset; none for a code that is empty."""
    key = plate_key(code)
    found = {p.asset.code: p for p in assets if key and plate_key(p.asset.serial) == key}
    return tuple(sorted(found.values(), key=lambda p: (p.site.name, p.asset.name, p.asset.code)))


def plate_words(code: str, assets: Iterable[PlacedAsset]) -> str:
    """A sentence that says whose plate was read; empty where none of the assets carries it.

    >>> plate_words("S1", [])
    ''
    """
    found = assets_with_plate(code, assets)
    whose = "; or of ".join(asset_words(p.asset, p.site) for p in found)
    return f"{code.strip()} is the plate of {whose}." if found else ""
