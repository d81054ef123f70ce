"""Answers as the solver knows them: a variable for each kind of question, what comparisons say of it, and back."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

import z3

from reedling.core.checking.moments import FIRST, LAST, MINUTES_A_DAY, minutes_of, moment
from reedling.core.guidance.questions import (
    AnyOf,
    Computed,
    DateEntry,
    MeterReading,
    OneOf,
    Question,
    Reading,
    SafetyNote,
    Scan,
    Tick,
    YesNo,
)
from reedling.core.logic.conditions import Answer, Comparison, Operator


@dataclass(slots=True, kw_only=True)
class Unknowns:
    """The unknowns of a plan's formulas, in one solver context: one for each question, by its kind.

    ``texts`` are those that conditions name, by question: the answers that can be told apart. ``suffix``
    stands behind the names of variables of a further repeat.
    """

    context: Any
    texts: dict[str, list[str]] = field(default_factory=dict)
    suffix: str = ""

    def true(self) -> Any:
        """The formula that always holds."""
        return z3.BoolVal(True, self.context)

    def false(self) -> Any:
        """The formula that never holds."""
        return z3.BoolVal(False, self.context)

    def both(self, parts: Iterable[Any]) -> Any:
        """All of these formulas."""
        return z3.And([self.true(), *parts])

    def either(self, parts: Iterable[Any]) -> Any:
        """Any of these formulas."""
        return z3.Or([self.false(), *parts])

    def variable(self, question: Question) -> tuple[Any, Any]:
        """The variable of a question, and the formula that keeps it within what can be answered."""
        if isinstance(question, Tick | SafetyNote):
            value = z3.Bool(f"{question.id}{self.suffix}", self.context)
            return value, value
        if isinstance(question, YesNo):
            return z3.Bool(f"{question.id}{self.suffix}", self.context), self.true()
        if isinstance(question, AnyOf):
            return [
                z3.Bool(f"{question.id} {o.id}{self.suffix}", self.context) for o in question.options
            ], self.true()
        if isinstance(question, Reading | MeterReading | Computed):
            value = z3.Real(f"{question.id}{self.suffix}", self.context)
            low = (
                question.lowest
                if isinstance(question, Reading)
                else 0.0
                if isinstance(question, MeterReading)
                else None
            )
            high = question.highest if isinstance(question, Reading) else None
            ends = [value >= low] if low is not None else []
            ends += [value <= high] if high is not None else []
            return value, self.both(ends)
        known = len(self.texts.get(question.id, []))
        n = len(question.options) if isinstance(question, OneOf) else known + 1
        value = z3.Int(f"{question.id}{self.suffix}", self.context)
        if isinstance(question, Scan) and (question.equals or "").strip():
            # Only the code stated is taken, so that it is the one text there is.
            stated = [
                i
                for i, text in enumerate(self.texts.get(question.id, []))
                if text.strip() == (question.equals or "").strip()
            ]
            return value, value == (stated[0] if stated else known)
        if isinstance(question, DateEntry):
            return value, z3.And(value >= FIRST, value < LAST)
        return value, z3.And(value >= 0, value < n)

    def holds(self, c: Comparison, question: Question | None, value: Any) -> Any:
        """When a comparison with a constant holds of a variable; ``asked`` is its question, nothing for a fact."""
        if isinstance(question, Reading | MeterReading | Computed) or (
            question is None and not self.texts.get(c.question)
        ):
            return self.number_holds(c, value)
        if isinstance(question, AnyOf):
            return self._some_of_holds(c, question, value)
        if isinstance(question, DateEntry):
            return self._moment_holds(c, question, value)
        if c.operator in ("is", "is not"):
            same = self._same(c.question, question, value, c.value)
            return same if c.operator == "is" else z3.Not(same)
        if c.operator == "is one of" and isinstance(c.value, tuple):
            return self.either(self._same(c.question, question, value, item) for item in c.value)
        return self.false()

    def alike(
        self, one: Question | None, other: Question | None, a: Any, b: Any, operator: Operator
    ) -> Any | None:
        """When two answers of one kind are the same, or one lies before the other; nothing where unknown."""
        if isinstance(one, DateEntry) and isinstance(other, DateEntry):
            if not (one.with_time and other.with_time):
                a, b = a / MINUTES_A_DAY, b / MINUTES_A_DAY
            return {"before": a < b, "after": a > b}.get(operator, a == b)
        if operator not in ("is", "is not"):
            return None
        if isinstance(one, YesNo) and isinstance(other, YesNo):
            return a == b
        if isinstance(one, OneOf) and isinstance(other, OneOf):
            places = {o.id: i for i, o in enumerate(other.options)}
            pairs = ((i, places[o.id]) for i, o in enumerate(one.options) if o.id in places)
            return self.either(z3.And(a == i, b == j) for i, j in pairs)
        return None

    def number_holds(self, c: Comparison, value: Any, other: Any = None) -> Any:
        """When a number is as the comparison says, against its constant or another number."""
        low = as_number(c.value) if other is None else other
        if low is None:
            if c.operator == "is one of" and isinstance(c.value, tuple):
                return self.either(value == n for item in c.value if (n := as_number(item)) is not None)
            return self.true() if c.operator == "is not" else self.false()
        match c.operator:
            case "below":
                return value < low
            case "at most":
                return value <= low
            case "above":
                return value > low
            case "at least":
                return value >= low
            case "between":
                high = as_number(c.upper)
                return self.false() if high is None else z3.And(value >= low, value <= high)
            case "is":
                return value == low
            case "is not":
                return value != low
            case _:
                return self.false()

    def _some_of_holds(self, c: Comparison, question: AnyOf, value: Any) -> Any:
        chosen = dict(zip((o.id for o in question.options), value, strict=True))
        match c.operator:
            case "includes" | "includes all":
                return self.both(chosen.get(str(item), self.false()) for item in _items(c.value))
            case "includes any":
                return self.either(chosen.get(str(item), self.false()) for item in _items(c.value))
            case "is exactly":
                return self._exactly(_items(c.value), chosen)
            case "is" if isinstance(c.value, tuple):
                return self._exactly(c.value, chosen)
            case "is not" if isinstance(c.value, tuple):
                return z3.Not(self._exactly(c.value, chosen))
            case "is not":
                return self.true()
            case _:
                return self.false()

    def _same(self, question: str, asked: Question | None, value: Any, constant: object) -> Any:
        if isinstance(asked, YesNo | Tick | SafetyNote):
            return value == constant if isinstance(constant, bool) else self.false()
        known = [o.id for o in asked.options] if isinstance(asked, OneOf) else self.texts.get(question, [])
        if not isinstance(constant, str):
            return self.false()
        return self.either(value == i for i, text in enumerate(known) if text.strip() == constant.strip())

    def _exactly(self, items: tuple[object, ...], chosen: Mapping[str, Any]) -> Any:
        if any(str(item) not in chosen for item in items):
            return self.false()
        return self.both(on if option in items else z3.Not(on) for option, on in chosen.items())

    def _moment_holds(self, c: Comparison, question: DateEntry, value: Any) -> Any:
        """A date or time against another, in minutes; a day against a time is the whole day."""
        named = [m for item in _items(c.value) if (m := minutes_of(item)) is not None]
        if c.operator in ("before", "after") and len(named) == 1:
            (start, end) = (
                named[0]
                if question.with_time
                else (d := named[0][0] // MINUTES_A_DAY * MINUTES_A_DAY, d + MINUTES_A_DAY)
            )
            return value < start if c.operator == "before" else value >= end
        spans = (
            named
            if question.with_time
            else [
                (s // MINUTES_A_DAY * MINUTES_A_DAY, s // MINUTES_A_DAY * MINUTES_A_DAY + MINUTES_A_DAY)
                for s, _ in named
            ]
        )
        meets = self.either(z3.And(value >= start, value < end) for start, end in spans)
        if c.operator in ("is", "is one of"):
            return meets
        return z3.Not(meets) if c.operator == "is not" else self.false()

    def read(self, question: str, asked: Question | None, model: Any, value: Any) -> Answer:
        """The answer that a model of the solver gives to a variable."""
        if isinstance(asked, AnyOf):
            pairs = zip(asked.options, value, strict=True)
            return tuple(o.id for o, on in pairs if z3.is_true(model.eval(on, model_completion=True)))
        found = model.eval(value, model_completion=True)
        if isinstance(asked, YesNo | Tick | SafetyNote):
            return bool(z3.is_true(found))
        if z3.is_real(found):
            return _plain(_as_float(found))
        index = int(found.as_long())
        if isinstance(asked, OneOf):
            return asked.options[index].id if asked.options else ""
        texts = self.texts.get(question, [])
        if isinstance(asked, DateEntry):
            return moment(index, with_time=asked.with_time)
        return texts[index] if index < len(texts) else "something else"


def as_number(value: object) -> float | None:
    """The number that a value is; nothing for yes, no and anything else."""
    number = isinstance(value, int | float) and not isinstance(value, bool)
    return float(value) if number else None  # type: ignore[arg-type]


def _as_float(value: Any) -> float:
    if z3.is_rational_value(value):
        return float(value.as_fraction())
    return float(value.approx(12).as_fraction())


def _plain(value: float) -> float:
    """The value, shortened where that loses nothing."""
    short = round(value, 4)
    return short if short == value else value


def _items(value: object) -> tuple[object, ...]:
    return value if isinstance(value, tuple) else (value,)
