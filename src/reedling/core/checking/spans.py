"""Between what ends the numbers of a plan lie: by their instruments, and worked out by interval arithmetic.

(R. E. Moore, *Interval Analysis*, 1966: the ends of a result from the ends of what goes into it. The
ends found contain all that can come out, and may be wider where a question is used more than once.)
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence

from reedling.core.guidance.plans import Plan, steps_and_questions
from reedling.core.guidance.questions import Computed, MeterReading, Reading, formula_name
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

Span = tuple[float, float]
ANYTHING: Span = (-math.inf, math.inf)


def spans_of(plan: Plan) -> Mapping[str, tuple[float | None, float | None]]:
    """By question with a number, the least and the most it can be, in its own unit; nothing where open."""
    questions = {q.id: q for _, q in steps_and_questions(plan)}
    named = {(q.id.rpartition("/")[0], formula_name(q)): q.id for q in questions.values()}
    found: dict[str, Span] = {}

    def span(identity: str, busy: frozenset[str]) -> Span:
        """In SI units."""
        if identity in found:
            return found[identity]
        q = questions[identity]
        if isinstance(q, Reading | MeterReading):
            low = q.lowest if isinstance(q, Reading) else 0.0
            high = q.highest if isinstance(q, Reading) else None
            found[identity] = _in_si((low, high), q.unit)
        elif isinstance(q, Computed) and identity not in busy:
            scope = identity.rpartition("/")[0]

            def of_name(name: str) -> Span:
                used = named.get((scope, name))
                return ANYTHING if used is None else span(used, busy | {identity})

            found[identity] = _of_formula(q.formula, of_name)
        else:
            return ANYTHING
        return found[identity]

    return {
        identity: _in_own_unit(span(identity, frozenset()), q.unit)
        for identity, q in questions.items()
        if isinstance(q, Reading | MeterReading | Computed)
    }


def _in_si(ends: tuple[float | None, float | None], unit: str) -> Span:
    known = parse_unit(unit)
    low, high = ends
    return (
        -math.inf if low is None else low * known.factor + known.offset,
        math.inf if high is None else high * known.factor + known.offset,
    )


def _in_own_unit(span: Span, unit: str) -> tuple[float | None, float | None]:
    known = parse_unit(unit)
    low, high = (
        float(f"{(end - known.offset) / known.factor:.12g}") if math.isfinite(end) else None for end in span
    )
    return low, high


def _of_formula(text: str, of_name: Callable[[str], Span]) -> Span:
    try:
        found = _span(parse_formula(text), of_name)
    except (InvalidInput, OverflowError):
        return ANYTHING
    return ANYTHING if any(math.isnan(end) for end in found) else found


def _span(e: Expression, of_name: Callable[[str], Span]) -> Span:
    match e:
        case Number():
            known = parse_unit(e.unit)
            value = e.value * known.factor + known.offset
            return value, value
        case Name():
            return of_name(e.name)
        case Sum():
            a, b = _span(e.left, of_name), _span(e.right, of_name)
            return (a[0] - b[1], a[1] - b[0]) if e.minus else (a[0] + b[0], a[1] + b[1])
        case Product():
            a, b = _span(e.left, of_name), _span(e.right, of_name)
            return _quotient(a, b) if e.over else _product(a, b)
        case Power():
            low, high = _span(e.base, of_name)
            ends = (low**e.exponent, high**e.exponent)
            least = 0.0 if e.exponent == 2 and low <= 0 <= high else min(ends)
            return least, max(ends)
        case Negative():
            low, high = _span(e.part, of_name)
            return -high, -low
        case Call():
            return _call(e.function, [_span(a, of_name) for a in e.arguments])


def _product(a: Span, b: Span) -> Span:
    ends = [0.0 if 0.0 in (x, y) else x * y for x in a for y in b]
    return min(ends), max(ends)


def _quotient(a: Span, b: Span) -> Span:
    if b[0] <= 0 <= b[1]:
        return ANYTHING
    return _product(a, (1 / b[1], 1 / b[0]))


def _call(function: str, spans: Sequence[Span]) -> Span:
    lows, highs = [s[0] for s in spans], [s[1] for s in spans]
    match function:
        case "min":
            return min(lows), min(highs)
        case "max":
            return max(lows), max(highs)
        case "mean":
            return min(lows), max(highs)
        case "abs":
            ends = [abs(lows[0]), abs(highs[0])]
            return (0.0 if lows[0] <= 0 <= highs[0] else min(ends)), max(ends)
        case "sqrt":
            return math.sqrt(max(0.0, lows[0])), math.sqrt(max(0.0, highs[0])) if highs[0] > 0 else 0.0
        case "count":
            return 0.0, math.inf
        case "round" if len(spans) == 1:
            return math.floor(lows[0]) if math.isfinite(lows[0]) else lows[0], (
                math.ceil(highs[0]) if math.isfinite(highs[0]) else highs[0]
            )
        case _:
            return ANYTHING
