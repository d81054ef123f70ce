"""Formulas of computed values for the solver: those that are sums of readings with fixed factors.

A linear formula is decided exactly and fast; a product or quotient of readings is not, and is left to
the caller to treat as any value at all.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import z3

from reedling.core.logic.formulas import (
    Call,
    Expression,
    Name,
    Negative,
    Number,
    Power,
    Product,
    Sum,
    parse_formula,
)
from reedling.core.logic.units import parse_unit
from reedling.errors import InvalidInput

Term = Any
"""A number, or a term of the solver."""


def formula_value(text: str, values: Mapping[str, tuple[Any, str]], unit: str) -> Term | None:
    """The formula over solver terms with their units, in a unit; nothing where it is not linear."""
    try:
        found = _term(parse_formula(text), values)
        wanted = parse_unit(unit)
    except InvalidInput:
        return None
    return None if found is None else (found - wanted.offset) / wanted.factor


def _term(e: Expression, values: Mapping[str, tuple[Any, str]]) -> Term | None:
    match e:
        case Number():
            known = parse_unit(e.unit)
            return e.value * known.factor + known.offset
        case Name():
            if e.name not in values or isinstance(values[e.name][0], list):
                return None
            term, unit = values[e.name]
            known = parse_unit(unit)
            return term * known.factor + known.offset if z3.is_real(term) else None
        case Sum():
            left, right = _term(e.left, values), _term(e.right, values)
            if left is None or right is None:
                return None
            return left - right if e.minus else left + right
        case Product():
            return _product(_term(e.left, values), _term(e.right, values), over=e.over)
        case Power():
            base = _term(e.base, values)
            return base**e.exponent if isinstance(base, float) else None
        case Negative():
            part = _term(e.part, values)
            return None if part is None else -part
        case Call():
            return _call(e, [_term(a, values) for a in e.arguments])


def _product(left: Term | None, right: Term | None, *, over: bool) -> Term | None:
    if left is None or right is None:
        return None
    if over:
        return left / right if isinstance(right, float) and right != 0 else None
    return left * right if isinstance(left, float) or isinstance(right, float) else None


def _call(e: Call, terms: Sequence[Term | None]) -> Term | None:
    known = [t for t in terms if t is not None]
    if len(known) < len(terms):
        return None
    match e.function:
        case "sum":
            return sum(known[1:], known[0])
        case "mean":
            return sum(known[1:], known[0]) / float(len(known))
        case "min" | "max":
            return _end(known, smallest=e.function == "min")
        case "abs":
            return abs(known[0]) if isinstance(known[0], float) else z3.If(known[0] < 0, -known[0], known[0])
        case _:
            return None


def _end(terms: Sequence[Term], *, smallest: bool) -> Term:
    best = terms[0]
    for term in terms[1:]:
        if isinstance(best, float) and isinstance(term, float):
            best = min(best, term) if smallest else max(best, term)
        else:
            best = z3.If(term < best if smallest else term > best, term, best)
    return best
