"""Units of measurement, each against pint (a general-purpose library of units)."""

from __future__ import annotations

import math
from typing import Any

import pint
import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.logic.units import _ATOMS, MENU, alternatives, convert, convertible, parse_unit
from reedling.errors import InvalidInput

PINT: Any = pint.UnitRegistry()
SPELLED = {
    "Ω": "ohm", "mΩ": "milliohm", "kΩ": "kiloohm", "MΩ": "megaohm", "GΩ": "gigaohm", "°": "degree",
    "°C": "degC", "°F": "degF", "Δ°F": "delta_degF", "%": "percent", "‰": "permille", "in": "inch",
    "d": "day", "t": "metric_ton", "1": "dimensionless", "N·m": "N*m", "kN·m": "kN*m", "m3/h": "m**3/h",
    "m3": "m**3", "m3/s": "m**3/s", "F": "farad", "C": "coulomb", "Ah": "A*h", "Wh": "W*h", "VA": "V*A",
    "kVA": "kV*A", "lx": "lux/1", "hp": "horsepower",
}  # fmt: skip
OURS = {"rpm", "lx"}
"""``rpm`` counts turns here, angles in pint; a lux contains a solid angle there."""


def theirs(symbol: str) -> Any:
    return PINT.Unit(SPELLED.get(symbol, symbol))


@pytest.mark.parametrize("symbol", sorted(set(_ATOMS) - OURS))
def test_every_unit_has_the_factor_of_the_reference_library(symbol: str) -> None:
    base = PINT.Quantity(1.0, theirs(symbol)).to_base_units()
    kilogram_base = base.to_root_units()
    expected = float(kilogram_base.to_base_units().magnitude)
    assert parse_unit(symbol).factor == pytest.approx(expected, rel=1e-9)


@pytest.mark.parametrize("group", [g for g in MENU if len(g) > 1 and "rpm" not in g], ids=lambda g: g[0])
@given(value=st.floats(-1e6, 1e6))
def test_conversions_agree_with_the_reference_library(group: tuple[str, ...], value: float) -> None:
    for unit in group:
        for other in group:
            expected = PINT.Quantity(value, theirs(unit)).to(theirs(other)).magnitude
            assert convert(value, unit, other) == pytest.approx(expected, rel=1e-9, abs=1e-7)


@pytest.mark.parametrize("group", MENU, ids=lambda g: g[0])
def test_a_menu_holds_units_of_one_dimension(group: tuple[str, ...]) -> None:
    assert all(convertible(group[0], unit) for unit in group)
    assert set(alternatives(group[0])) >= set(group[1:])


def test_values_of_the_handbooks() -> None:
    assert convert(1, "bar", "psi") == pytest.approx(14.5038, abs=1e-4)  # NIST SP 811, appendix B
    assert convert(212, "°F", "°C") == pytest.approx(100)
    assert convert(-40, "°C", "°F") == pytest.approx(-40)
    assert convert(1, "kWh", "MJ") == pytest.approx(3.6)
    assert convert(3000, "rpm", "Hz") == 50  # a two-pole machine at 50 Hz, common practice


@given(st.floats(-1e9, 1e9), st.sampled_from([g for g in MENU if len(g) > 1]))
def test_there_and_back_is_where_it_began(value: float, group: tuple[str, ...]) -> None:
    back = convert(convert(value, group[0], group[1]), group[1], group[0])
    assert math.isclose(back, value, rel_tol=1e-9, abs_tol=1e-8)


@pytest.mark.parametrize("symbol", ["parsec", "ba r", "m//s", "m^9x", "ポンプ", "__import__", "/", "m^"])
def test_an_unknown_unit_is_refused_by_name(symbol: str) -> None:
    with pytest.raises(InvalidInput) as caught:
        parse_unit(symbol)
    assert caught.value.code == "units.unknown"
    assert symbol in caught.value.message


def test_a_pressure_is_not_a_temperature() -> None:
    with pytest.raises(InvalidInput, match="bar is a pressure, and °C is a temperature"):
        convert(1, "bar", "°C")


def test_symbols_may_be_written_in_several_ways() -> None:
    assert parse_unit("m³/h") == parse_unit("m³/h")
    assert parse_unit("m³/h").factor == parse_unit("m3/h").factor == parse_unit("m^3/h").factor
    assert parse_unit("m/s2").dimension == parse_unit("m·s-2").dimension
