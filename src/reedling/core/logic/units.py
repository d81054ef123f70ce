"""Units of measurement: what a symbol stands for, and the same quantity in another unit.

Symbols are those of the SI and of UCUM where they are in daily use, joined by ``·`` or ``*`` and
``/`` and raised by a digit: ``m3/h``, ``kg/m³``, ``N·m``, ``m/s2``, ``1/K``. Every unit has a
dimension over length, mass, time, current, temperature, amount and light, a factor to the SI unit,
and, for °C and °F, the point its scale begins at.

Factors: SI brochure, 9th edition (2019), and NIST SP 811 (2008) for units outside the SI, from
memory; the tests compare each with a reference library of units. ``rpm`` counts turns a minute, so
that 60 rpm is 1 Hz, as on site; it is not an angle.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

from reedling.errors import InvalidInput

Dimension = tuple[int, int, int, int, int, int, int]
"""Exponents of length, mass, time, electric current, temperature, amount and light."""

NONE: Dimension = (0, 0, 0, 0, 0, 0, 0)
_LENGTH: Dimension = (1, 0, 0, 0, 0, 0, 0)
_MASS: Dimension = (0, 1, 0, 0, 0, 0, 0)
_TIME: Dimension = (0, 0, 1, 0, 0, 0, 0)
_CURRENT: Dimension = (0, 0, 0, 1, 0, 0, 0)
_HEAT: Dimension = (0, 0, 0, 0, 1, 0, 0)
_FORCE: Dimension = (1, 1, -2, 0, 0, 0, 0)
_PRESSURE: Dimension = (-1, 1, -2, 0, 0, 0, 0)
_ENERGY: Dimension = (2, 1, -2, 0, 0, 0, 0)
_POWER: Dimension = (2, 1, -3, 0, 0, 0, 0)
_VOLTAGE: Dimension = (2, 1, -3, -1, 0, 0, 0)
_RESISTANCE: Dimension = (2, 1, -3, -2, 0, 0, 0)
_VOLUME: Dimension = (3, 0, 0, 0, 0, 0, 0)

DIMENSION_NAMES: Mapping[Dimension, str] = {
    NONE: "a plain number",
    _LENGTH: "a length",
    _MASS: "a mass",
    _TIME: "a time",
    _CURRENT: "a current",
    _HEAT: "a temperature",
    _FORCE: "a force",
    _PRESSURE: "a pressure",
    _ENERGY: "an energy",
    _POWER: "a power",
    _VOLTAGE: "a voltage",
    _RESISTANCE: "a resistance",
    _VOLUME: "a volume",
    (2, 0, 0, 0, 0, 0, 0): "an area",
    (1, 0, -1, 0, 0, 0, 0): "a speed",
    (1, 0, -2, 0, 0, 0, 0): "an acceleration",
    (3, 0, -1, 0, 0, 0, 0): "a flow",
    (-3, 1, 0, 0, 0, 0, 0): "a density",
    (0, 0, -1, 0, 0, 0, 0): "a frequency",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Unit:
    """A unit: ``value * factor + offset`` is the quantity in SI units.

    ``point`` units (°C, °F) are scales with a beginning of their own: adding two readings of one
    makes no sense, while their difference is a plain temperature difference in kelvin.
    """

    symbol: str
    dimension: Dimension
    factor: float
    offset: float = 0.0

    @property
    def point(self) -> bool:
        """Whether the scale begins somewhere other than nothing."""
        return self.offset != 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Quantity:
    """A number as entered, in the unit it was entered in."""

    value: float
    unit: str


_ATOMS: Mapping[str, tuple[Dimension, float]] = {
    "1": (NONE, 1.0),
    "%": (NONE, 0.01),
    "‰": (NONE, 0.001),
    "ppm": (NONE, 1e-6),
    "rad": (NONE, 1.0),
    "°": (NONE, 3.141592653589793 / 180),
    "deg": (NONE, 3.141592653589793 / 180),
    "m": (_LENGTH, 1.0),
    "km": (_LENGTH, 1000.0),
    "cm": (_LENGTH, 0.01),
    "mm": (_LENGTH, 0.001),
    "µm": (_LENGTH, 1e-6),
    "in": (_LENGTH, 0.0254),
    "ft": (_LENGTH, 0.3048),
    "ha": ((2, 0, 0, 0, 0, 0, 0), 10000.0),
    "kg": (_MASS, 1.0),
    "g": (_MASS, 0.001),
    "t": (_MASS, 1000.0),
    "lb": (_MASS, 0.45359237),
    "s": (_TIME, 1.0),
    "ms": (_TIME, 0.001),
    "min": (_TIME, 60.0),
    "h": (_TIME, 3600.0),
    "d": (_TIME, 86400.0),
    "A": (_CURRENT, 1.0),
    "mA": (_CURRENT, 0.001),
    "µA": (_CURRENT, 1e-6),
    "kA": (_CURRENT, 1000.0),
    "K": (_HEAT, 1.0),
    "Δ°F": (_HEAT, 5 / 9),
    "N": (_FORCE, 1.0),
    "kN": (_FORCE, 1000.0),
    "Pa": (_PRESSURE, 1.0),
    "hPa": (_PRESSURE, 100.0),
    "kPa": (_PRESSURE, 1000.0),
    "MPa": (_PRESSURE, 1e6),
    "bar": (_PRESSURE, 1e5),
    "mbar": (_PRESSURE, 100.0),
    "psi": (_PRESSURE, 6894.757293168361),
    "J": (_ENERGY, 1.0),
    "kJ": (_ENERGY, 1000.0),
    "MJ": (_ENERGY, 1e6),
    "Wh": (_ENERGY, 3600.0),
    "kWh": (_ENERGY, 3.6e6),
    "W": (_POWER, 1.0),
    "kW": (_POWER, 1000.0),
    "MW": (_POWER, 1e6),
    "hp": (_POWER, 745.6998715822702),
    "VA": (_POWER, 1.0),
    "kVA": (_POWER, 1000.0),
    "V": (_VOLTAGE, 1.0),
    "mV": (_VOLTAGE, 0.001),
    "kV": (_VOLTAGE, 1000.0),
    "Ω": (_RESISTANCE, 1.0),
    "mΩ": (_RESISTANCE, 0.001),
    "kΩ": (_RESISTANCE, 1000.0),
    "MΩ": (_RESISTANCE, 1e6),
    "GΩ": (_RESISTANCE, 1e9),
    "C": ((0, 0, 1, 1, 0, 0, 0), 1.0),
    "Ah": ((0, 0, 1, 1, 0, 0, 0), 3600.0),
    "F": ((-2, -1, 4, 2, 0, 0, 0), 1.0),
    "µF": ((-2, -1, 4, 2, 0, 0, 0), 1e-6),
    "Hz": ((0, 0, -1, 0, 0, 0, 0), 1.0),
    "kHz": ((0, 0, -1, 0, 0, 0, 0), 1000.0),
    "rpm": ((0, 0, -1, 0, 0, 0, 0), 1 / 60),
    "l": (_VOLUME, 0.001),
    "L": (_VOLUME, 0.001),
    "ml": (_VOLUME, 1e-6),
    "mol": ((0, 0, 0, 0, 0, 1, 0), 1.0),
    "cd": ((0, 0, 0, 0, 0, 0, 1), 1.0),
    "lx": ((-2, 0, 0, 0, 0, 0, 1), 1.0),
}
_SCALES: Mapping[str, Unit] = {
    "°C": Unit(symbol="°C", dimension=_HEAT, factor=1.0, offset=273.15),
    "°F": Unit(symbol="°F", dimension=_HEAT, factor=5 / 9, offset=459.67 * 5 / 9),
}
_SPELLINGS: Mapping[str, str] = {"ohm": "Ω", "degC": "°C", "degF": "°F", "μm": "µm"}
_RAISED = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻", "0123456789-")
_PIECE = re.compile(r"^([^\d\s^-]+|1)(?:\^?(-?\d))?$")

MENU: tuple[tuple[str, ...], ...] = (
    ("°C", "°F", "K"),
    ("bar", "kPa", "MPa", "psi", "mbar"),
    ("A", "mA", "kA"),
    ("V", "mV", "kV"),
    ("Ω", "kΩ", "MΩ", "GΩ", "mΩ"),
    ("mm", "cm", "m", "km", "in", "ft"),
    ("m3/h", "l/s", "l/min", "m3/s"),
    ("l", "m3", "ml"),
    ("kW", "W", "MW", "hp"),
    ("kWh", "Wh", "kJ", "MJ"),
    ("s", "min", "h", "d"),
    ("kg", "g", "t", "lb"),
    ("N", "kN"),
    ("N·m", "kN·m"),
    ("mm/s", "m/s"),
    ("Hz", "kHz", "rpm"),
    ("%",),
)
"""The units menus offer, those of one dimension together, the commonest first."""


@lru_cache(maxsize=512)
def parse_unit(symbol: str) -> Unit:
    """The unit that a symbol stands for; an empty symbol is the plain number.

    Raises
    ------
    InvalidInput
        ``units.unknown`` when a piece of the symbol is not known.

    >>> parse_unit("m3/h").factor * 3600
    1.0
    """
    text = symbol.strip()
    if text in ("", "1"):
        return Unit(symbol=text, dimension=NONE, factor=1.0)
    text = _SPELLINGS.get(text, text)
    if text in _SCALES:
        return _SCALES[text]
    dimension, factor, sign = NONE, 1.0, 1
    for piece in re.split(r"([·*/])", text.translate(_RAISED)):
        if piece == "/":
            sign = -1
        elif piece in ("·", "*"):
            continue
        else:
            found, own, power = _piece(piece.strip(), symbol)
            exponent = sign * power
            dimension = _combine(dimension, found, exponent)
            factor *= own**exponent
    return Unit(symbol=text, dimension=dimension, factor=factor)


def _piece(piece: str, symbol: str) -> tuple[Dimension, float, int]:
    match = _PIECE.match(piece)
    name = _SPELLINGS.get(match.group(1), match.group(1)) if match else piece
    if match is None or name not in _ATOMS:
        raise InvalidInput(
            "units.unknown",
            f"there is no unit “{symbol}”.",
            where="Unit",
            hint="Write it as the SI does, such as bar, kPa, °C, m3/h, N·m.",
        )
    dimension, factor = _ATOMS[name]
    return dimension, factor, int(match.group(2) or 1)


def _combine(a: Dimension, b: Dimension, exponent: int) -> Dimension:
    return tuple(x + y * exponent for x, y in zip(a, b, strict=True))  # type: ignore[return-value]


def known_unit(symbol: str) -> bool:
    """Whether a symbol stands for a unit."""
    try:
        parse_unit(symbol)
    except InvalidInput:
        return False
    return True


def convertible(one: str, other: str) -> bool:
    """Whether both are units of one dimension.

    >>> convertible("psi", "bar"), convertible("psi", "°C")
    (True, False)
    """
    return known_unit(one) and known_unit(other) and parse_unit(one).dimension == parse_unit(other).dimension


def convert(value: float, unit: str, to: str) -> float:
    """The same quantity in another unit of its dimension, to twelve significant digits.

    Raises
    ------
    InvalidInput
        ``units.unknown`` for an unknown symbol, ``units.dimension`` for units of two dimensions.

    >>> convert(160.0, "°F", "°C")
    71.1111111111
    """
    if unit == to:
        return value
    here, there = parse_unit(unit), parse_unit(to)
    if here.dimension != there.dimension:
        raise InvalidInput(
            "units.dimension",
            f"{unit} is {dimension_text(here.dimension)}, and {to} is {dimension_text(there.dimension)}.",
            where="Unit",
        )
    exact = (value * here.factor + here.offset - there.offset) / there.factor
    return float(f"{exact:.12g}")


def dimension_text(dimension: Dimension) -> str:
    """A dimension in words, or by its SI base units.

    >>> dimension_text(parse_unit("bar").dimension), dimension_text((1, 0, 0, 1, 0, 0, 0))
    ('a pressure', 'something in m·A')
    """
    named = DIMENSION_NAMES.get(dimension)
    if named:
        return named
    bases = ("m", "kg", "s", "A", "K", "mol", "cd")
    parts = [b if e == 1 else f"{b}{e}" for b, e in zip(bases, dimension, strict=True) if e]
    return "something in " + "·".join(parts)


def alternatives(symbol: str) -> tuple[str, ...]:
    """The units of the menu that a reading in this unit could also be entered in."""
    return tuple(other for group in MENU for other in group if other != symbol and convertible(other, symbol))
