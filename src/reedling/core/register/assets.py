"""Sites, the assets that stand there, and what their meters read."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from typing import Literal
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from reedling.core.logic.conditions import Answer

RegisterName = Literal["sites", "assets"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Site:
    """Where assets stand; degrees east and north on the invented map.

    ``zone`` names its time zone (IANA). One that is not given when a site is written becomes that of
    most sites.
    """

    code: str = ""
    name: str = ""
    district: str = ""
    customer: str = ""
    contract: str = ""
    tags: tuple[str, ...] = ()
    east: float = 0.0
    north: float = 0.0
    zone: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Asset:
    """A thing that is maintained: codes of its site, class and model, and its other fields by code."""

    code: str = ""
    name: str = ""
    site: str = ""
    equipment: str = ""
    model: str = ""
    serial: str = ""
    warranty_until: date | None = None
    fields: Mapping[str, Answer] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacedAsset:
    """An asset with the site it stands at."""

    asset: Asset
    site: Site


@dataclass(frozen=True, slots=True, kw_only=True)
class MeterState:
    """What one of an asset's meters read at a time, and the order it was read on."""

    asset: str
    meter: str
    value: float
    at: datetime
    order: str | None = None


def asset_words(asset: Asset, site: Site) -> str:
    """An asset by its name and that of its site."""
    return f"{asset.name}, {site.name}"


def day_on_site(site: Site, at: datetime) -> date:
    """The day it is at a site at an aware instant; that of the instant's own zone where the site's is unknown."""
    try:
        return at.astimezone(ZoneInfo(site.zone)).date()
    except (ZoneInfoNotFoundError, ValueError):
        return at.date()


def meters_at(states: Sequence[MeterState], at: datetime) -> dict[str, float]:
    """What each meter read last by a time, by the meter's code; ``states`` come oldest first."""
    n = bisect_right([s.at for s in states], at)
    return {s.meter: s.value for s in states[:n]}
