"""Formulas of computed values: arithmetic over questions by name, checked before it is ever run.

A formula is one line such as ``(max(i1, i2, i3) - mean(i1, i2, i3)) / mean(i1, i2, i3)``. It is read
with Python's own parser and kept only when every piece of it is on a short list: numbers, names of
questions, ``+ - * /``, a square or a cube, and the functions of :data:`FUNCTIONS`. A number takes a
unit in brackets behind it: ``9.81["m/s2"]``. Nothing is ever executed.

Values are worked out in SI units and the result is given in the unit asked for, so a flow in m3/h and
a head in m make a power in kW without a factor to remember. A missing answer, a division by zero or
a root of a negative number makes the result unknown. A name that stands for all repeats of a
question is a collection, and belongs inside ``min max mean sum count``.
"""

from __future__ import annotations

import ast
import keyword
import math
import unicodedata
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import NoReturn

from reedling.core.logic.units import (
    NONE,
    Dimension,
    combine,
    dimension_text,
    is_ambiguous,
    known_unit,
    parse_unit,
    root_of,
)
from reedling.errors import InvalidInput

LONGEST = 500
"""Characters a formula may have; a longer one is split into computed values."""
DEEPEST = 120
"""How deep its pieces may lie in each other; a sum of so many is one piece in the other."""
Value = float | None | tuple[float | None, ...]
"""What a name stands for: a number in its unit, unknown, or one of these for each repeat."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Named:
    """A question as a formula sees it: its unit, and whether the name stands for all repeats."""

    unit: str = ""
    each: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Number:
    """A constant with its unit."""

    value: float
    unit: str
    at: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Name:
    """A question by its name."""

    name: str
    at: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Sum:
    """Left plus right, or left minus right."""

    left: Expression
    right: Expression
    minus: bool
    at: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Product:
    """Left times right, or left over right."""

    left: Expression
    right: Expression
    over: bool
    at: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Power:
    """A square or a cube."""

    base: Expression
    exponent: int
    at: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Negative:
    """Minus its part."""

    part: Expression
    at: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Call:
    """A function of its arguments."""

    function: str
    arguments: tuple[Expression, ...]
    at: int


Expression = Number | Name | Sum | Product | Power | Negative | Call

FUNCTIONS: Mapping[str, str] = {
    "min": "the smallest",
    "max": "the largest",
    "mean": "the mean",
    "sum": "all added up",
    "count": "how many are answered",
    "abs": "without its sign",
    "sqrt": "the square root",
    "round": "to the nearest whole number, or to so many places",
}
"""Every function a formula may use, and what it gives."""
GATHERING = frozenset(("min", "max", "mean", "sum", "count"))
"""Functions of any number of values; a collection belongs inside one of them."""


@lru_cache(maxsize=2048)
def parse_formula(text: str) -> Expression:
    """Read a formula.

    Raises
    ------
    InvalidInput
        ``formulas.syntax`` for a text that is not arithmetic, ``formulas.refused`` for a piece that
        is not on the list, ``formulas.long`` for one that is too long. ``where`` is the column.
    """
    if len(text) > LONGEST:
        _refuse("formulas.long", f"it has {len(text)} characters, and {LONGEST} are allowed.", 0)
    if not text.strip():
        _refuse("formulas.syntax", "there is nothing here yet.", 0)
    try:
        tree = ast.parse(text.strip(), mode="eval").body
    except SyntaxError as error:
        _refuse("formulas.syntax", "this is not a formula from here on.", max(0, (error.offset or 1) - 1))
    except (ValueError, RecursionError, MemoryError):
        _refuse("formulas.syntax", "this is not a formula.", 0)
    if _depth(tree) > DEEPEST:
        _refuse(
            "formulas.long",
            f"its pieces lie more than {DEEPEST} deep in each other.",
            0,
            "Split it into several computed values.",
        )
    return _read(tree)


def _depth(tree: ast.AST) -> int:
    """How deep a tree is, without going down it by recursion."""
    deepest, waiting = 0, [(tree, 1)]
    while waiting:
        node, depth = waiting.pop()
        deepest = max(deepest, depth)
        waiting.extend(
            (child, depth + 1) for child in ast.iter_child_nodes(node) if isinstance(child, ast.expr)
        )
    return deepest


@lru_cache(maxsize=8192)
def usable_name(text: str) -> str:
    """What a formula can call a question of this name: letters, digits and _, and no word that means more.

    >>> usable_name("i-1"), usable_name("in"), usable_name("T²"), usable_name("max"), usable_name("2nd")
    ('i_1', 'in_', 'T2', 'max_', '_2nd')
    """
    plain = unicodedata.normalize("NFKC", text.strip())
    spelled = "".join(c if f"a{c}".isidentifier() else "_" for c in plain) or "_"
    if not spelled.isidentifier():
        spelled = f"_{spelled}"
    return f"{spelled}_" if keyword.iskeyword(spelled) or spelled in FUNCTIONS else spelled


def _refuse(code: str, message: str, at: int, hint: str = "") -> NoReturn:
    raise InvalidInput(code, message, where=f"Formula, character {at + 1}", hint=hint)


def _read(node: ast.expr) -> Expression:
    at = node.col_offset
    match node:
        case ast.Constant(value=int() | float() as value) if not isinstance(value, bool):
            return _number(value, "", at)
        case ast.Subscript(
            value=ast.Constant(value=int() | float() as value), slice=ast.Constant(value=str() as unit)
        ) if not isinstance(value, bool):
            return _number(value, unit, at)
        case ast.Name(id=name):
            if name in FUNCTIONS:
                _refuse("formulas.syntax", f"“{name}” needs its values in brackets behind it.", at)
            return Name(name=name, at=at)
        case ast.BinOp(op=ast.Add() | ast.Sub() as op):
            return Sum(left=_read(node.left), right=_read(node.right), minus=isinstance(op, ast.Sub), at=at)
        case ast.BinOp(op=ast.Mult() | ast.Div() as op):
            left, right = _read(node.left), _read(node.right)
            return Product(left=left, right=right, over=isinstance(op, ast.Div), at=at)
        case ast.BinOp(op=ast.Pow(), right=ast.Constant(value=int() as exponent)) if exponent in (2, 3):
            return Power(base=_read(node.left), exponent=exponent, at=at)
        case ast.BinOp(op=ast.Pow()):
            _refuse("formulas.refused", "only a square (** 2) or a cube (** 3) is allowed.", at)
        case ast.UnaryOp(op=ast.USub()):
            return Negative(part=_read(node.operand), at=at)
        case ast.UnaryOp(op=ast.UAdd()):
            return _read(node.operand)
        case ast.Call(func=ast.Name(id=function), keywords=[]) if function in FUNCTIONS:
            return _call(function, node.args, at)
        case ast.Call(func=ast.Name(id=function)):
            _refuse("formulas.refused", f"there is no function “{function}”.", at, f"There are {_known()}.")
        case ast.Attribute():
            _refuse("formulas.refused", "a dot reaches into nothing here.", at, "Use the question's name.")
    _refuse(
        "formulas.refused",
        "this is not arithmetic.",
        at,
        f"Use numbers, names of questions, + - * / and {_known()}.",
    )


def _known() -> str:
    return ", ".join(FUNCTIONS)


def _number(value: float, unit: str, at: int) -> Number:
    try:
        plain = float(value)
    except OverflowError:
        plain = math.inf
    if not math.isfinite(plain):
        _refuse("formulas.refused", "this number is too large.", at)
    if not known_unit(unit):
        hint = "Put what is below the stroke in brackets." if is_ambiguous(unit) else ""
        _refuse("units.unknown", f"there is no unit “{unit}”.", at, hint)
    return Number(value=plain, unit=unit, at=at)


def _call(function: str, nodes: list[ast.expr], at: int) -> Call:
    most = {"abs": 1, "sqrt": 1, "round": 2}.get(function, 50)
    if not 1 <= len(nodes) <= most:
        _refuse("formulas.syntax", f"“{function}” takes {'one value' if most == 1 else f'1 to {most}'}.", at)
    return Call(function=function, arguments=tuple(_read(n) for n in nodes), at=at)


def formula_names(text: str) -> tuple[str, ...]:
    """The questions a formula asks for, each once; none when it cannot be read.

    >>> formula_names("max(a, b) / a")
    ('a', 'b')
    """
    try:
        return tuple(dict.fromkeys(_names(parse_formula(text))))
    except InvalidInput:
        return ()


def _names(e: Expression) -> Iterator[str]:
    match e:
        case Name():
            yield e.name
        case Sum() | Product():
            yield from _names(e.left)
            yield from _names(e.right)
        case Power():
            yield from _names(e.base)
        case Negative():
            yield from _names(e.part)
        case Call():
            for argument in e.arguments:
                yield from _names(argument)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Kind:
    """What can be said of a value before it is known."""

    dimension: Dimension = NONE
    point: bool = False
    each: bool = False


def check_formula(text: str, names: Mapping[str, Named], unit: str) -> None:
    """Refuse a formula that cannot give a value in the unit.

    Raises
    ------
    InvalidInput
        As :func:`parse_formula`; ``formulas.name`` for a name that is no question,
        ``formulas.dimension`` where units do not go together, ``formulas.each`` where a collection
        stands for a number.
    """
    kind = _kind(parse_formula(text), names)
    if kind.each:
        _refuse("formulas.each", "this is a value for each repeat.", 0, "Put it into max( ) or mean( ).")
    wanted = parse_unit(unit)
    if kind.dimension != wanted.dimension:
        _refuse(
            "formulas.dimension",
            f"it gives {dimension_text(kind.dimension)}, and “{unit or 'no unit'}” is "
            f"{dimension_text(wanted.dimension)}.",
            0,
        )
    if kind.point and unit.strip().startswith("Δ"):
        _refuse(
            "formulas.dimension",
            f"it gives a temperature on a scale, and {unit} is for differences.",
            0,
            "Give it in °C, °F or K, or take the difference first.",
        )
    if wanted.point and not kind.point:
        _refuse(
            "formulas.dimension", f"it gives a temperature difference, which is in K and not in {unit}.", 0
        )


def _kind(e: Expression, names: Mapping[str, Named]) -> _Kind:
    match e:
        case Number():
            unit = parse_unit(e.unit)
            return _Kind(dimension=unit.dimension, point=unit.point)
        case Name():
            return _name_kind(e, names)
        case Sum():
            return _sum_kind(e, names)
        case Product():
            left, right = _plain(e.left, names), _plain(e.right, names)
            return _Kind(dimension=combine(left.dimension, right.dimension, -1 if e.over else 1))
        case Power():
            base = _plain(e.base, names).dimension
            return _Kind(dimension=combine(NONE, base, e.exponent))
        case Negative():
            return _plain(e.part, names)
        case Call():
            return _call_kind(e, names)


def _name_kind(e: Name, names: Mapping[str, Named]) -> _Kind:
    named = names.get(e.name)
    if named is None:
        near = ", ".join(sorted(names)[:8])
        _refuse(
            "formulas.name",
            f"there is no number called “{e.name}”.",
            e.at,
            f"There are {near}." if near else "Add a reading first.",
        )
    unit = parse_unit(named.unit)
    return _Kind(dimension=unit.dimension, point=unit.point, each=named.each)


def _single(e: Expression, names: Mapping[str, Named]) -> _Kind:
    kind = _kind(e, names)
    if kind.each:
        _refuse(
            "formulas.each", "this stands for every repeat.", e.at, "Put it into max( ), mean( ) or sum( )."
        )
    return kind


def _plain(e: Expression, names: Mapping[str, Named]) -> _Kind:
    kind = _single(e, names)
    if kind.point:
        _refuse(
            "formulas.dimension",
            "a temperature on a scale can only be compared or subtracted.",
            e.at,
            'Take the difference first, such as t - 20["°C"].',
        )
    return kind


def _sum_kind(e: Sum, names: Mapping[str, Named]) -> _Kind:
    left, right = _single(e.left, names), _single(e.right, names)
    if left.dimension != right.dimension:
        word = "taken from" if e.minus else "added to"
        one, other = (right, left) if e.minus else (left, right)
        _refuse(
            "formulas.dimension",
            f"{dimension_text(one.dimension)} cannot be {word} {dimension_text(other.dimension)}.",
            e.right.at,
        )
    if right.point and (not e.minus or not left.point):
        if e.minus or left.point:
            _refuse(
                "formulas.dimension", "two temperatures on a scale can be subtracted, not added.", e.right.at
            )
        return right
    return _Kind(dimension=left.dimension, point=left.point and not right.point)


def _call_kind(e: Call, names: Mapping[str, Named]) -> _Kind:
    if e.function == "count":
        for argument in e.arguments:
            _kind(argument, names)
        return _Kind()
    if e.function in GATHERING:
        kinds = [_kind(argument, names) for argument in e.arguments]
        first = kinds[0]
        for argument, kind in zip(e.arguments, kinds, strict=True):
            if (kind.dimension, kind.point) != (first.dimension, first.point):
                _refuse(
                    "formulas.dimension",
                    f"“{e.function}” of {dimension_text(first.dimension)} and "
                    f"{dimension_text(kind.dimension)} makes no sense.",
                    argument.at,
                )
        if e.function == "sum" and first.point:
            _refuse("formulas.dimension", "temperatures on a scale cannot be added up.", e.at)
        return _Kind(dimension=first.dimension, point=first.point)
    kind = _plain(e.arguments[0], names)
    if e.function == "sqrt":
        root = root_of(kind.dimension)
        if root is None:
            _refuse("formulas.dimension", f"{dimension_text(kind.dimension)} has no square root.", e.at)
        return _Kind(dimension=root)
    if e.function == "round" and kind.dimension != NONE:
        _refuse(
            "formulas.dimension",
            f"only a plain number is rounded, and this is {dimension_text(kind.dimension)}.",
            e.at,
            "Divide by a unit first, or set the places of the result.",
        )
    return kind


def compute(text: str, names: Mapping[str, Named], values: Mapping[str, Value], unit: str) -> float | None:
    """The value of a formula in a unit, to twelve significant digits; nothing while it is unknown.

    A formula that :func:`check_formula` refuses gives nothing.

    >>> volts = {n: Named(unit="V") for n in "abc"}
    >>> unbalance = "max(abs(a - mean(a, b, c)), abs(b - mean(a, b, c)), abs(c - mean(a, b, c))) / mean(a, b, c)"
    >>> compute(unbalance, volts, {"a": 460.0, "b": 467.0, "c": 450.0}, "%")
    1.96078431373
    """
    if not _is_sound(text, tuple(sorted(names.items(), key=lambda item: item[0])), unit):
        return None
    try:
        wanted = parse_unit(unit)
        found = _value(parse_formula(text), names, values)
    except (InvalidInput, ZeroDivisionError, OverflowError, ValueError):
        return None
    if found is None or isinstance(found, tuple):
        return None
    result = (found - wanted.offset) / wanted.factor
    return float(f"{result:.12g}") if math.isfinite(result) else None


@lru_cache(maxsize=4096)
def _is_sound(text: str, names: tuple[tuple[str, Named], ...], unit: str) -> bool:
    try:
        check_formula(text, dict(names), unit)
    except InvalidInput:
        return False
    return True


def _value(e: Expression, names: Mapping[str, Named], values: Mapping[str, Value]) -> Value:
    match e:
        case Number():
            return _to_si(e.value, e.unit)
        case Name():
            found = values.get(e.name)
            unit = names[e.name].unit if e.name in names else ""
            if isinstance(found, tuple):
                return tuple(_to_si(item, unit) for item in found)
            return _to_si(found, unit)
        case Sum():
            left, right = _one(e.left, names, values), _one(e.right, names, values)
            if left is None or right is None:
                return None
            return left - right if e.minus else left + right
        case Product():
            left, right = _one(e.left, names, values), _one(e.right, names, values)
            if left is None or right is None:
                return None
            return left / right if e.over else left * right
        case Power():
            base = _one(e.base, names, values)
            return None if base is None else base**e.exponent
        case Negative():
            part = _one(e.part, names, values)
            return None if part is None else -part
        case Call():
            return _call_value(e, names, values)


def _one(e: Expression, names: Mapping[str, Named], values: Mapping[str, Value]) -> float | None:
    found = _value(e, names, values)
    return None if isinstance(found, tuple) else found


def _to_si(value: float | None, unit: str) -> float | None:
    if value is None:
        return None
    known = parse_unit(unit)
    return value * known.factor + known.offset


def _mean(items: Sequence[float]) -> float:
    return math.fsum(items) / len(items)


_GATHER: Mapping[str, Callable[[Sequence[float]], float]] = {
    "min": min,
    "max": max,
    "mean": _mean,
    "sum": math.fsum,
}


def _call_value(e: Call, names: Mapping[str, Named], values: Mapping[str, Value]) -> float | None:
    items: list[float | None] = []
    for argument in e.arguments:
        found = _value(argument, names, values)
        items.extend(found if isinstance(found, tuple) else (found,))
    known = [item for item in items if item is not None]
    if e.function == "count":
        return float(len(known))
    if len(known) < len(items) or not known:
        return None
    if e.function in _GATHER:
        return _GATHER[e.function](known)
    if e.function == "abs":
        return abs(known[0])
    if e.function == "sqrt":
        return math.sqrt(known[0])
    return float(round(known[0], int(known[1]) if len(known) > 1 else 0))
