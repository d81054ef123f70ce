"""How far it is from one place to another, and whether somebody who said they arrived was there."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from itertools import pairwise
from math import asin, cos, hypot, radians, sin

from reedling.core.register.assets import Site, day_on_site

EARTH_KM = 6371.0088
"""The mean radius of the Earth (International Union of Geodesy and Geophysics, GRS 80)."""
FAR_KM = 0.5
"""Farther than this from its site an arrival is noted: receivers err by some ten metres, sites are some hundred wide."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Position:
    """Degrees east and north."""

    east: float
    north: float


def km_between(one: Position, other: Position) -> float:
    """The way along the surface in kilometres, by the haversine formula (Sinnott 1984, Sky and Telescope 68, 159).

    >>> round(km_between(Position(east=0, north=0), Position(east=1, north=0)), 1)
    111.2
    """
    north, other_north = radians(one.north), radians(other.north)
    half = hypot(
        sin((other_north - north) / 2),
        sin(radians(other.east - one.east) / 2) * (cos(north) * cos(other_north)) ** 0.5,
    )
    return 2 * EARTH_KM * asin(min(1.0, half))


def position_of(site: Site) -> Position | None:
    """Where a site is; nothing where nobody wrote it down, which is the same as 0 east and 0 north."""
    return Position(east=site.east, north=site.north) if site.east or site.north else None


def ways_between(places: Iterable[Position | None]) -> tuple[float | None, ...]:
    """The way to each place from the one before it in kilometres, in a straight line.

    Nothing for the first, and where either is not known.

    >>> lode, hern = Position(east=0.1, north=0.3), Position(east=0.13, north=0.3)
    >>> [km and round(km, 1) for km in ways_between([lode, hern, hern, None, lode])]
    [None, 3.3, 0.0, None, None]
    """
    known = tuple(places)
    ways = (km_between(one, other) if one and other else None for one, other in pairwise(known))
    return (None, *ways) if known else ()


def distance_words(km: float) -> str:
    """A distance as it is read.

    >>> distance_words(0.347), distance_words(3.21), distance_words(48.7)
    ('350 m', '3.2 km', '49 km')
    """
    if km < 0.995:
        return f"{round(km * 100) * 10} m"
    return f"{km:.1f} km" if km < 9.95 else f"{km:.0f} km"


def way_words(before: tuple[Site, datetime], then: tuple[Site, datetime]) -> str:
    """How far a visit is from the one planned before it, each a site and an aware instant; empty on another day of the
    sites, or where the place of either is not known.

    >>> from datetime import UTC
    >>> ten = datetime(2026, 6, 1, 10, tzinfo=UTC)
    >>> lode, hern = Site(code="l", east=0.1, north=0.3), Site(code="h", east=0.13, north=0.3)
    >>> way_words((lode, ten), (hern, ten)), way_words((lode, ten), (lode, ten))
    ('3.3 km from the one before', 'same site')
    """
    (site, at), (other, later) = before, then
    if day_on_site(site, at) != day_on_site(other, later):
        return ""
    if site.code == other.code:
        return "same site"
    _, km = ways_between((position_of(site), position_of(other)))
    return "" if km is None else f"{distance_words(km)} from the one before"


def arrival_words(site: Site, at: Position | None) -> str:
    """What is noted of an arrival far from its site; empty where it was there, or either place is not known.

    >>> arrival_words(Site(name="Farrow Lode", east=0.1, north=0.3), Position(east=0.13, north=0.3))
    'Arrived 3.3 km from Farrow Lode.'
    """
    km = km_off_site(site, at)
    return "" if km is None else f"Arrived {distance_words(km)} from {site.name}."


def km_off_site(site: Site, at: Position | None) -> float | None:
    """How far from its site an arrival was in kilometres; nothing where it was there, or either place is not known."""
    there = position_of(site)
    if at is None or there is None:
        return None
    km = km_between(at, there)
    return km if km > FAR_KM else None
