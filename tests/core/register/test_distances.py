"""Distances on the Earth, and what is noted of an arrival."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from math import cos, pi, radians

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from sklearn.metrics.pairwise import haversine_distances

from reedling.core.register.assets import Site
from reedling.core.register.distances import (
    EARTH_KM,
    FAR_KM,
    Position,
    arrival_words,
    km_between,
    position_of,
    way_words,
    ways_between,
)

PLACES = st.builds(Position, east=st.floats(-180, 180), north=st.floats(-90, 90))


@given(PLACES, PLACES)
def test_distances_are_those_of_the_reference_library(one: Position, other: Position) -> None:
    """scikit-learn's haversine_distances, in radians on a ball of radius 1."""
    found = haversine_distances(np.radians([[one.north, one.east], [other.north, other.east]]))[0, 1]
    assert km_between(one, other) == pytest.approx(EARTH_KM * found, rel=1e-6, abs=1e-6)
    assert km_between(other, one) == pytest.approx(km_between(one, other), abs=1e-9)


def test_the_worked_example_of_a_handbook() -> None:
    """Los Angeles to New York, 0.623585 radians (E. Williams, Aviation Formulary; from memory)."""
    lax = Position(east=-(118 + 24 / 60), north=33 + 57 / 60)
    jfk = Position(east=-(73 + 47 / 60), north=40 + 38 / 60)
    assert km_between(lax, jfk) / EARTH_KM == pytest.approx(0.623585, abs=1e-6)


def test_half_round_the_earth_is_half_its_girth() -> None:
    assert km_between(Position(east=0, north=0), Position(east=180, north=0)) == pytest.approx(pi * EARTH_KM)
    assert km_between(Position(east=7, north=90), Position(east=99, north=-90)) == pytest.approx(
        pi * EARTH_KM
    )


@given(st.floats(-179, 179), st.floats(-80, 80), st.floats(0, 3))
def test_an_arrival_is_noted_from_half_a_kilometre(east: float, north: float, km: float) -> None:
    """Along a parallel; the plane is good enough so near."""
    site = Site(name="Farrow Lode", east=east, north=north)
    at = Position(east=east + km / (EARTH_KM * radians(1) * cos(radians(north))), north=north)
    if abs(km - FAR_KM) > 0.001 and (east or north):
        assert bool(arrival_words(site, at)) is (km > FAR_KM)


def test_a_way_is_told_within_a_day_at_the_sites() -> None:
    """Half past eleven at night in UTC is the next morning in Tokyo."""
    here = Site(code="h", east=0.1, north=0.3, zone="UTC")
    there = Site(code="t", east=0.1, north=0.31, zone="UTC")
    tokyo = Site(code="j", east=0.1, north=0.31, zone="Asia/Tokyo")
    late = datetime(2026, 6, 1, 23, 30, tzinfo=UTC)
    assert way_words((here, late), (there, late)) == "1.1 km from the one before"
    assert way_words((here, late), (tokyo, late)) == ""
    assert way_words((here, late), (there, late + timedelta(hours=1))) == ""
    assert way_words((here, late), (here, late)) == "same site"
    assert way_words((here, late), (Site(code="n", zone="UTC"), late)) == ""


def test_where_a_place_is_not_known_nothing_is_said() -> None:
    here, nowhere = Site(name="Here", east=0.1, north=0.3), Site(name="Nowhere")
    assert arrival_words(here, None) == ""
    assert arrival_words(nowhere, Position(east=5, north=5)) == ""
    places = [position_of(site) for site in (here, nowhere, here, here)]
    assert ways_between(places) == (None, None, None, 0.0)
    assert ways_between([]) == ()
