"""Units of measurement, each against pint (a general-purpose library of units)."""

from __future__ import annotations

import math
from typing import Any

import pint
import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.guidance.plans import Plan, Step
from reedling.core.guidance.questions import Reading
from reedling.core.guidance.soundness import plan_problems
from reedling.core.logic.formulas import Named, check_formula, compute
from reedling.core.logic.units import (
    _ATOMS,
    _PREFIXED,
    _PREFIXES,
    MENU,
    alternatives,
    convert,
    convertible,
    is_ambiguous,
    known_unit,
    parse_unit,
)
from reedling.errors import InvalidInput
from tests.lists import LISTS

PINT: Any = pint.UnitRegistry()
SPELLED = {
    "Ω": "ohm", "mΩ": "milliohm", "kΩ": "kiloohm", "MΩ": "megaohm", "GΩ": "gigaohm", "°": "degree",
    "°C": "degC", "°F": "degF", "Δ°F": "delta_degF", "%": "percent", "‰": "permille", "in": "inch",
    "d": "day", "t": "metric_ton", "1": "dimensionless", "N·m": "N*m", "kN·m": "kN*m", "m3/h": "m**3/h",
    "m3": "m**3", "m3/s": "m**3/s", "F": "farad", "C": "coulomb", "Ah": "A*h", "Wh": "W*h", "VA": "V*A",
    "kVA": "kV*A", "lx": "lux/1", "hp": "horsepower", "Torr": "torr", "gpm": "gallon/minute", "Δ°C": "delta_degC", "mH2O": "meter_H2O/1",
}  # fmt: skip
OURS = {"rpm", "ppb", "mmH2O", "mH2O", "inH2O"}
"""``rpm`` counts turns here, angles in pint, which has no ppb; it takes water at 4 °C, we the conventional."""


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


UNKNOWN = [
    "parsec",
    "ba r",
    "m//s",
    "m^9x",
    "ポンプ",
    "__import__",
    "/",
    "m^",
    "NTU",
    "pH",
    "dB",
    "/min",
    "m·",
]


@pytest.mark.parametrize("symbol", UNKNOWN)
def test_an_unknown_unit_is_one_of_its_own_and_equals_itself_only(symbol: str) -> None:
    """A reading in it computes, compares and trips its limits; it never passes for another."""
    assert not known_unit(symbol)
    assert convert(7.0, symbol, symbol) == 7.0
    assert not any(convertible(symbol, other) for other in ("bar", "", "%", *UNKNOWN) if other != symbol)
    names = {"a": Named(unit=symbol), "b": Named(unit=symbol), "p": Named(unit="bar")}
    values = {"a": 4.0, "b": 2.0, "p": 1.0}
    check_formula("mean(a, b) - b / 2", names, symbol)
    assert compute("mean(a, b) - b / 2", names, values, symbol) == 2.0
    check_formula("a / b", names, "%")
    assert compute("a / b", names, values, "%") == 200.0
    for wrong in ("a + p", "a"):
        with pytest.raises(InvalidInput):
            check_formula(wrong, names, "bar")


@pytest.mark.parametrize(
    ("symbol", "theirs"),
    [
        ("mg/l", "mg/l"),
        ("µS/cm", "uS/cm"),
        ("kvar", "kV*A"),
        ("mPa·s", "mPa*s"),
        ("mmHg", "mmHg"),
        ("cSt", "cSt"),
        ("cP", "centipoise"),
        ("nF", "nF"),
        ("mH", "mH"),
        ("mT", "mT"),
        ("kcal", "kcal"),
        ("W/(m2·K)", "W/(m**2*K)"),
        ("kgf", "kgf"),
        ("inHg", "inHg"),
    ],
)
def test_units_of_the_trade_against_the_reference_library(symbol: str, theirs: str) -> None:
    assert known_unit(symbol)
    expected = PINT.Quantity(1.0, theirs).to_base_units()
    assert parse_unit(symbol).factor == pytest.approx(float(expected.magnitude), rel=1e-6)


@pytest.mark.parametrize("prefix", sorted(_PREFIXES))
@pytest.mark.parametrize("base", sorted(set(_PREFIXED) - {"var", "lm", "lx", "Ω", "cal", "St", "P"}))
def test_every_prefix_of_the_si(prefix: str, base: str) -> None:
    if f"{prefix}{base}" in {**_ATOMS, **_PREFIXED, "pH": 0, "dH": 0}:
        pytest.skip("a symbol of its own")
    if f"{prefix}{base}" in ("mcd", "hbar"):
        pytest.skip("the reference library reads it as something else")
    spelled = {"VA": "V*A", "Wh": "W*h", "Ah": "A*h", "C": "coulomb", "F": "farad"}.get(base, base)
    expected = PINT.Quantity(1.0, f"{'u' if prefix == 'µ' else prefix}{spelled}")
    if "*" not in spelled and len(spelled) > 2:
        factor = {"coulomb": "C", "farad": "F"}.get(spelled, spelled)
        expected = PINT.Quantity(1.0, f"{'u' if prefix == 'µ' else prefix}{factor}")
    found = float(expected.to_base_units().magnitude)
    assert parse_unit(f"{prefix}{base}").factor == pytest.approx(found, rel=1e-9)


def test_a_product_after_a_stroke_stands_in_brackets() -> None:
    """ISO 80000-1 (2009), 7.2.2: not more than one stroke, and brackets where it is not plain (from memory)."""
    assert is_ambiguous("W/m2·K")
    assert not known_unit("W/m2·K")
    assert known_unit("W/(m2·K)")
    plan = Plan(
        title="t",
        steps=(
            Step(
                id="s", phase="Diagnose", text="Read", questions=(Reading(id="u", label="U", unit="W/m2·K"),)
            ),
        ),
    )
    assert "units.ambiguous" in [p.code for p in plan_problems(plan, LISTS)]


def test_a_temperature_on_a_scale_is_not_given_as_a_difference() -> None:
    names = {"t": Named(unit="°C")}
    with pytest.raises(InvalidInput, match="for differences"):
        check_formula("t", names, "Δ°F")
    check_formula('t - 20["°C"]', names, "Δ°F")
    with pytest.raises(InvalidInput):
        check_formula('t - 20["°C"]', names, "°F")


def test_a_pressure_is_not_a_temperature() -> None:
    with pytest.raises(InvalidInput, match="bar is a pressure, and °C is a temperature"):
        convert(1, "bar", "°C")


def test_symbols_may_be_written_in_several_ways() -> None:
    assert parse_unit("m³/h") == parse_unit("m³/h")
    assert parse_unit("m³/h").factor == parse_unit("m3/h").factor == parse_unit("m^3/h").factor
    assert parse_unit("m/s2").dimension == parse_unit("m·s-2").dimension
