"""Formulas of computed values for the solver: those that are sums of readings with fixed factors.

A linear formula is decided exactly and fast. A product, a quotient or a root of readings is not: the
caller takes it as any value at all, and asks for it exactly only where it matters.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
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


def exact_value(
    text: str, values: Mapping[str, tuple[Any, str]], unit: str, named: str
) -> tuple[Term, list[Any], list[Any]] | None:
    """The formula over solver terms, with what must hold for it to be defined, and what its parts are.

    Products, quotients, roots and rounding are included; nothing for a count or a collection.
    ``named`` begins the names of the variables it brings.
    """
    try:
        parsed, wanted = parse_formula(text), parse_unit(unit)
    except InvalidInput:
        return None
    exact = _Exact(values=values, named=named)
    found = exact.term(parsed)
    if found is None:
        return None
    return (found - wanted.offset) / wanted.factor, exact.defined, exact.ties


@dataclass(slots=True)
class _Exact:
    """A formula being put into terms: when it is defined, and what its helping variables are tied to."""

    values: Mapping[str, tuple[Any, str]]
    named: str
    defined: list[Any] = field(default_factory=list)
    ties: list[Any] = field(default_factory=list)

    def term(self, e: Expression) -> Term | None:
        """The term of an expression in SI units."""
        match e:
            case Sum():
                left, right = self.term(e.left), self.term(e.right)
                if left is None or right is None:
                    return None
                return left - right if e.minus else left + right
            case Product():
                left, right = self.term(e.left), self.term(e.right)
                if left is None or right is None:
                    return None
                return self._quotient(left, right) if e.over else left * right
            case Power():
                base = self.term(e.base)
                return None if base is None else base * base * (base if e.exponent == 3 else 1.0)
            case Negative():
                part = self.term(e.part)
                return None if part is None else -part
            case Call():
                return self._call(e)
            case _:
                return _term(e, self.values)

    def _call(self, e: Call) -> Term | None:
        found = [self.term(a) for a in e.arguments]
        terms = [t for t in found if t is not None]
        if len(terms) < len(found):
            return None
        if e.function == "sqrt" and not isinstance(terms[0], float):
            self.defined.append(terms[0] >= 0)
            root = self._helping(terms[0])
            self.ties += [root >= 0, root * root == terms[0]]
            return root
        if e.function == "round" and len(terms) == 1 and not isinstance(terms[0], float):
            whole = z3.ToReal(z3.Int(f"{self.named} round {len(self.ties)}", terms[0].ctx))
            self.ties += [whole - terms[0] <= 0.5, terms[0] - whole <= 0.5]
            return whole
        return _call(e, terms)

    def _quotient(self, left: Term, right: Term) -> Term:
        if isinstance(right, float):
            if right == 0:
                self.defined.append(left != left)
                return left
            return left / right
        self.defined.append(right != 0)
        result = self._helping(right)
        self.ties.append(result * right == left)
        return result

    def _helping(self, like: Any) -> Any:
        return z3.Real(f"{self.named} part {len(self.ties)}", like.ctx)
