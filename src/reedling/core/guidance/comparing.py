"""What may be asked of an answer: which comparisons make sense of which kind of question, with what value."""

from __future__ import annotations

from collections.abc import Mapping

from reedling.core.guidance.questions import (
    NUMERIC,
    AnyOf,
    Computed,
    DateEntry,
    MeterReading,
    OneOf,
    Question,
    Reading,
    YesNo,
)
from reedling.core.logic.conditions import (
    OPERATORS,
    Comparison,
    Operator,
    is_day,
    is_day_and_time,
)

_PRESENT: tuple[Operator, ...] = ("answered", "not answered")
_NUMBER: tuple[Operator, ...] = ("below", "at most", "above", "at least", "between", "is", *_PRESENT)
OFFERED: Mapping[str, tuple[Operator, ...]] = {
    "tick": _PRESENT,
    "reading": _NUMBER,
    "computed": _NUMBER,
    "meter": _NUMBER,
    "yes_no": ("is", *_PRESENT),
    "one_of": ("is", "is not", "is one of", *_PRESENT),
    "any_of": ("includes any", "includes all", "is exactly", *_PRESENT),
    "text": ("is", "is not", *_PRESENT),
    "date": ("before", "after", "is", *_PRESENT),
    "photo": _PRESENT,
    "signature": _PRESENT,
    "scan": ("is", "is not", *_PRESENT),
    "instruction": (),
    "names": _PRESENT,
    "safety": _PRESENT,
}
"""The comparisons that menus offer, by kind of question, in their order."""
_ALSO_UNDERSTOOD: Mapping[str, tuple[Operator, ...]] = {
    "tick": ("is",),
    "reading": ("is not", "is one of"),
    "computed": ("is not", "is one of"),
    "meter": ("is not", "is one of"),
    "yes_no": ("is not",),
    "any_of": ("includes", "is", "is not"),
    "text": ("is one of",),
    "date": ("is not",),
    "scan": ("is one of",),
}
KIND_WORDS: Mapping[str, str] = {
    "tick": "a tick",
    "reading": "a reading",
    "computed": "a computed value",
    "meter": "a meter reading",
    "yes_no": "yes or no",
    "one_of": "one of several answers",
    "any_of": "any of several answers",
    "text": "a text",
    "date": "a day or time",
    "photo": "a photo",
    "signature": "a signature",
    "scan": "a scan",
    "instruction": "an instruction",
    "names": "a list of names",
    "safety": "a safety note",
}
"""What an answer of each kind is."""


def first_clause(question: Question) -> Comparison:
    """What a condition on a question most likely asks: the comparison that menus begin with.

    Where the likeliest answer opens something it asks for that: a reading outside its limits, a no, the
    first option. Its value is nothing where the author has to write it.

    >>> first_clause(YesNo(id="q", label="Dry")).value
    False
    """
    match question:
        case Reading() | Computed() if question.limits.low is not None:
            return Comparison(question=question.id, operator="below", value=question.limits.low)
        case Reading() | Computed() if question.limits.high is not None:
            return Comparison(question=question.id, operator="above", value=question.limits.high)
        case Reading() | Computed() | MeterReading():
            return Comparison(question=question.id, operator="above", value=None)
        case YesNo():
            return Comparison(question=question.id, operator="is", value=False)
        case OneOf() if question.options:
            return Comparison(question=question.id, operator="is", value=question.options[0].id)
        case AnyOf() if question.options:
            return Comparison(question=question.id, operator="includes any", value=(question.options[0].id,))
        case DateEntry():
            return Comparison(question=question.id, operator="before", value=None)
        case _:
            return Comparison(question=question.id, operator="answered", value=None)


def operators_for(question: Question, *, offered_only: bool = True) -> tuple[Operator, ...]:
    """The comparisons that make sense of a question: those menus offer, or all that are understood."""
    offered = OFFERED[question.kind]
    return offered if offered_only else (*offered, *_ALSO_UNDERSTOOD.get(question.kind, ()))


def compare_with_each_other(one: Question, other: Question) -> bool:
    """Whether the answers of two questions can be held against each other: numbers in one unit, or one kind."""
    if isinstance(one, NUMERIC) or isinstance(other, NUMERIC):
        return isinstance(one, NUMERIC) and isinstance(other, NUMERIC) and one.unit == other.unit
    return one.kind == other.kind


def value_problem(question: Question, c: Comparison) -> tuple[str, str] | None:
    """Why a comparison's value does not fit its question: a code and a sentence; nothing when it does."""
    items = c.value if isinstance(c.value, tuple) else (c.value,)
    if c.operator in _PRESENT:
        return None
    if isinstance(question, OneOf | AnyOf):
        known = {o.id for o in question.options}
        if any(item not in known for item in items):
            return "conditions.option", f"“{question.label}” no longer has that answer."
        if isinstance(question, AnyOf) and c.operator in ("is", "is not") and not isinstance(c.value, tuple):
            return (
                "conditions.option",
                f"“{question.label}” has several answers, and one is never all of them.",
            )
    elif isinstance(question, NUMERIC):
        ends = (*items, c.upper) if c.operator == "between" else items
        if any(isinstance(x, bool) or not isinstance(x, int | float) for x in ends):
            return "conditions.value", f"“{question.label}” is a number, and “{c.value}” is none."
    elif isinstance(question, YesNo):
        if not isinstance(c.value, bool):
            return "conditions.value", f"“{question.label}” is yes or no."
    elif isinstance(question, DateEntry):
        wrong = [x for x in items if not isinstance(x, str) or not (is_day(x) or is_day_and_time(x))]
        if wrong:
            return (
                "conditions.value",
                f"“{wrong[0]}” is no day. Write it as 2026-05-31, or 2026-05-31T14:30 with a time.",
            )
    elif OPERATORS[c.operator].numeric:
        return "conditions.kind", f"“{question.label}” is no number."
    return None
