"""Units of measurement: what a symbol stands for, and the same quantity in another unit.

Symbols are those of the SI, with its prefixes, and of the trade where they are in daily use, joined by
``·`` or ``*`` and ``/`` and raised by a digit: ``m3/h``, ``kg/m³``, ``N·m``, ``µS/cm``, ``W/(m2·K)``.
Every unit has a dimension, a factor to the SI unit, and, for °C and °F, the point its scale begins at.
A piece that is not known (NTU, pH, dB) is a dimension of its own: it adds to and compares with itself
and nothing else, in a draft, in the checker and on site alike.

After a ``/`` a product stands in brackets: ``W/m2·K`` could be read in two ways, and ISO 80000-1 (2009,
7.2.2, from memory) does not allow it.

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

Dimension = frozenset[tuple[str, int]]
"""Exponents by base: length L, mass M, time T, electric current I, temperature H, amount N, light J, and
each piece of a symbol that is not known by itself, in quotation marks."""


def _dimension(**exponents: int) -> Dimension:
    return frozenset(exponents.items())


NONE: Dimension = frozenset()
_LENGTH = _dimension(L=1)
_MASS = _dimension(M=1)
_TIME = _dimension(T=1)
_CURRENT = _dimension(I=1)
_HEAT = _dimension(H=1)
_FORCE = _dimension(L=1, M=1, T=-2)
_PRESSURE = _dimension(L=-1, M=1, T=-2)
_ENERGY = _dimension(L=2, M=1, T=-2)
_POWER = _dimension(L=2, M=1, T=-3)
_VOLTAGE = _dimension(L=2, M=1, T=-3, I=-1)
_RESISTANCE = _dimension(L=2, M=1, T=-3, I=-2)
_VOLUME = _dimension(L=3)
_CHARGE = _dimension(T=1, I=1)
_FREQUENCY = _dimension(T=-1)

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
    _dimension(L=2): "an area",
    _dimension(L=1, T=-1): "a speed",
    _dimension(L=1, T=-2): "an acceleration",
    _dimension(L=3, T=-1): "a flow",
    _dimension(L=-3, M=1): "a density",
    _dimension(L=-1, M=1, T=-1): "a viscosity",
    _FREQUENCY: "a frequency",
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


_PREFIXES: Mapping[str, float] = {
    "p": 1e-12,
    "n": 1e-9,
    "µ": 1e-6,
    "m": 1e-3,
    "c": 1e-2,
    "d": 1e-1,
    "h": 1e2,
    "k": 1e3,
    "M": 1e6,
    "G": 1e9,
    "T": 1e12,
}
_PREFIXED: Mapping[str, tuple[Dimension, float]] = {
    "m": (_LENGTH, 1.0),
    "g": (_MASS, 0.001),
    "s": (_TIME, 1.0),
    "A": (_CURRENT, 1.0),
    "K": (_HEAT, 1.0),
    "N": (_FORCE, 1.0),
    "Pa": (_PRESSURE, 1.0),
    "bar": (_PRESSURE, 1e5),
    "J": (_ENERGY, 1.0),
    "Wh": (_ENERGY, 3600.0),
    "cal": (_ENERGY, 4.184),
    "W": (_POWER, 1.0),
    "VA": (_POWER, 1.0),
    "var": (_POWER, 1.0),
    "V": (_VOLTAGE, 1.0),
    "Ω": (_RESISTANCE, 1.0),
    "S": (_dimension(L=-2, M=-1, T=3, I=2), 1.0),
    "C": (_CHARGE, 1.0),
    "Ah": (_CHARGE, 3600.0),
    "F": (_dimension(L=-2, M=-1, T=4, I=2), 1.0),
    "H": (_dimension(L=2, M=1, T=-2, I=-2), 1.0),
    "T": (_dimension(M=1, T=-2, I=-1), 1.0),
    "Wb": (_dimension(L=2, M=1, T=-2, I=-1), 1.0),
    "Hz": (_FREQUENCY, 1.0),
    "l": (_VOLUME, 0.001),
    "L": (_VOLUME, 0.001),
    "mol": (_dimension(N=1), 1.0),
    "cd": (_dimension(J=1), 1.0),
    "lm": (_dimension(J=1), 1.0),
    "lx": (_dimension(L=-2, J=1), 1.0),
    "P": (_dimension(L=-1, M=1, T=-1), 0.1),
    "St": (_dimension(L=2, T=-1), 1e-4),
}
"""Units that take the prefixes of the SI."""
_NOT_PREFIXED = frozenset(("pH", "dH"))
"""What looks like a prefix and a unit, and on site is another thing: acidity, hardness of water."""
_ATOMS: Mapping[str, tuple[Dimension, float]] = {
    "1": (NONE, 1.0),
    "%": (NONE, 0.01),
    "‰": (NONE, 0.001),
    "ppm": (NONE, 1e-6),
    "ppb": (NONE, 1e-9),
    "rad": (NONE, 1.0),
    "°": (NONE, 3.141592653589793 / 180),
    "deg": (NONE, 3.141592653589793 / 180),
    "in": (_LENGTH, 0.0254),
    "ft": (_LENGTH, 0.3048),
    "yd": (_LENGTH, 0.9144),
    "mi": (_LENGTH, 1609.344),
    "ha": (_dimension(L=2), 10000.0),
    "t": (_MASS, 1000.0),
    "lb": (_MASS, 0.45359237),
    "oz": (_MASS, 0.028349523125),
    "min": (_TIME, 60.0),
    "h": (_TIME, 3600.0),
    "d": (_TIME, 86400.0),
    "Δ°C": (_HEAT, 1.0),
    "Δ°F": (_HEAT, 5 / 9),
    "kgf": (_FORCE, 9.80665),
    "lbf": (_FORCE, 4.4482216152605),
    "psi": (_PRESSURE, 6894.757293168361),
    "atm": (_PRESSURE, 101325.0),
    "Torr": (_PRESSURE, 101325 / 760),
    "mmHg": (_PRESSURE, 133.322387415),
    "inHg": (_PRESSURE, 3386.38864034),
    "mmH2O": (_PRESSURE, 9.80665),
    "mH2O": (_PRESSURE, 9806.65),
    "inH2O": (_PRESSURE, 249.08891),
    "BTU": (_ENERGY, 1055.056),
    "hp": (_POWER, 745.6998715822702),
    "rpm": (_FREQUENCY, 1 / 60),
    "gal": (_VOLUME, 0.003785411784),
    "gpm": (_dimension(L=3, T=-1), 0.003785411784 / 60),
}
"""Units that take no prefix. A gallon is the US one; water and mercury columns are the conventional ones."""
_SCALES: Mapping[str, Unit] = {
    "°C": Unit(symbol="°C", dimension=_HEAT, factor=1.0, offset=273.15),
    "°F": Unit(symbol="°F", dimension=_HEAT, factor=5 / 9, offset=459.67 * 5 / 9),
}
_SPELLINGS: Mapping[str, str] = {"ohm": "Ω", "degC": "°C", "degF": "°F", "Nm": "N·m", "kNm": "kN·m"}
_LOOKS_LIKE = str.maketrans({"μ": "µ", "Ω": "Ω", "⋅": "·", "∙": "·"})
"""Signs that look alike: the Greek mu and the micro sign, the ohm sign and the omega, dots."""
_RAISED = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻", "0123456789-")
_PIECE = re.compile(r"^(.*?[^\d^-])(?:\^?(-?\d))?$")
_BRACKETED = re.compile(r"^([^()/]*)/\(([^()/]+)\)$")

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


@lru_cache(maxsize=2048)
def parse_unit(symbol: str) -> Unit:
    """The unit that a symbol stands for; an empty symbol is the plain number.

    What is not known, or could be read in two ways, is a unit of its own.

    >>> parse_unit("m3/h").factor * 3600
    1.0
    >>> parse_unit("NTU").dimension == parse_unit("NTU").dimension != parse_unit("pH").dimension
    True
    """
    text = symbol.strip().translate(_LOOKS_LIKE)
    if text in ("", "1"):
        return Unit(symbol=text, dimension=NONE, factor=1.0)
    text = _SPELLINGS.get(text, text)
    if text in _SCALES:
        return _SCALES[text]
    above, below = _sides(text.translate(_RAISED))
    if is_ambiguous(text) or "" in (*above, *below):
        return Unit(symbol=text, dimension=_own(text), factor=1.0)
    dimension, factor = NONE, 1.0
    for piece, sign in (*((p, 1) for p in above), *((p, -1) for p in below)):
        found, own, power = _piece(piece)
        dimension = combine(dimension, found, sign * power)
        factor *= own ** (sign * power)
    return Unit(symbol=text, dimension=dimension, factor=factor)


def is_ambiguous(symbol: str) -> bool:
    """Whether a product or a second division follows a division without brackets.

    >>> is_ambiguous("W/m2·K"), is_ambiguous("W/(m2·K)"), is_ambiguous("kg·m/s2")
    (True, False, False)
    """
    _, slash, below = symbol.translate(_LOOKS_LIKE).partition("/")
    if not slash or _BRACKETED.match(symbol.strip()):
        return False
    return any(sign in below for sign in "·*/")


def _sides(text: str) -> tuple[list[str], list[str]]:
    """The pieces above and below the stroke."""
    above, slash, below = text.partition("/")
    if below.startswith("(") and below.endswith(")"):
        below = below[1:-1]

    def pieces(side: str) -> list[str]:
        return [p.strip() for p in re.split(r"[·*]", side)]

    return pieces(above), pieces(below) if slash else []


def _own(piece: str) -> Dimension:
    return frozenset(((f"“{piece}”", 1),))


def _piece(piece: str) -> tuple[Dimension, float, int]:
    """A piece's dimension, its factor, and the power it is raised to."""
    known = _atom(piece)
    if known is not None:
        return (*known, 1)
    match = _PIECE.match(piece)
    if match is not None:
        known = _atom(_SPELLINGS.get(match.group(1), match.group(1)))
        power = int(match.group(2) or 1)
        if known is not None and power:
            return (*known, power)
    return _own(piece), 1.0, 1


def _atom(name: str) -> tuple[Dimension, float] | None:
    """What a symbol without powers is, with a prefix where it takes one."""
    if name in _ATOMS:
        return _ATOMS[name]
    if name in _PREFIXED:
        return _PREFIXED[name]
    if name in _NOT_PREFIXED:
        return None
    rest = _PREFIXED.get(name[1:]) if name[:1] in _PREFIXES else None
    return None if rest is None else (rest[0], _PREFIXES[name[0]] * rest[1])


def combine(a: Dimension, b: Dimension, exponent: int) -> Dimension:
    """The dimension of a times b to a power."""
    out = dict(a)
    for base, power in b:
        out[base] = out.get(base, 0) + power * exponent
    return frozenset((base, power) for base, power in out.items() if power)


def root_of(dimension: Dimension) -> Dimension | None:
    """The dimension whose square this is; nothing where there is none."""
    if any(power % 2 for _, power in dimension):
        return None
    return frozenset((base, power // 2) for base, power in dimension)


def known_unit(symbol: str) -> bool:
    """Whether every piece of a symbol is known.

    >>> known_unit("µS/cm"), known_unit("NTU"), known_unit("W/m2·K")
    (True, False, False)
    """
    return not any(base.startswith("“") for base, _ in parse_unit(symbol).dimension)


def convertible(one: str, other: str) -> bool:
    """Whether both are units of one dimension; one that is not known is so with itself only.

    >>> convertible("psi", "bar"), convertible("psi", "°C")
    (True, False)
    """
    return parse_unit(one).dimension == parse_unit(other).dimension


def convert(value: float, unit: str, to: str) -> float:
    """The same quantity in another unit of its dimension, to twelve significant digits.

    Raises
    ------
    InvalidInput
        ``units.dimension`` for units of two dimensions.

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

    >>> dimension_text(parse_unit("bar").dimension), dimension_text(parse_unit("m·A").dimension)
    ('a pressure', 'something in m·A')
    """
    named = DIMENSION_NAMES.get(dimension)
    if named:
        return named
    held = dict(dimension)
    bases = {"L": "m", "M": "kg", "T": "s", "I": "A", "H": "K", "N": "mol", "J": "cd"}
    bases |= {base: base.strip("“”") for base in sorted(held) if base.startswith("“")}
    parts = [said if held[b] == 1 else f"{said}{held[b]}" for b, said in bases.items() if b in held]
    return "something in " + "·".join(parts)


def alternatives(symbol: str) -> tuple[str, ...]:
    """The units of the menu that a reading in this unit could also be entered in."""
    return tuple(other for group in MENU for other in group if other != symbol and convertible(other, symbol))
