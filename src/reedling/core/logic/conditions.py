"""Conditions: when a step, question or part is wanted.

A condition is data (a tree of ``all``, ``any``, ``not`` over comparisons), never text to be
parsed. It is evaluated in three-valued logic, and prints as a sentence.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Literal

from reedling.core.logic.kleene import Truth, conjoin, disjoin, negate
from reedling.core.logic.units import Quantity

Answer = bool | float | str | tuple[str, ...] | Quantity
"""What a question was answered with: yes/no, a number in the question's own unit, a text, date or
option, several options, a number as entered in another unit."""

Answers = Mapping[str, Answer]
"""Answers by question; a question that is not in the mapping is unanswered."""

Operator = Literal[
    "answered",
    "is",
    "is not",
    "is one of",
    "includes",
    "below",
    "at most",
    "above",
    "at least",
    "between",
    "before",
    "after",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """One question against a constant, or against another question in the same unit.

    ``value`` is the constant; for ``between`` it is the lower end and ``upper`` the upper end,
    both included; for ``answered`` it is unused. Where ``against`` names a question, its answer
    stands for the constant.
    """

    question: str
    operator: Operator
    value: bool | float | str | tuple[str, ...] | None = None
    upper: float | None = None
    against: str | None = None
    kind: Literal["comparison"] = "comparison"


@dataclass(frozen=True, slots=True, kw_only=True)
class AllOf:
    """True when every part is true."""

    parts: tuple[Condition, ...]
    kind: Literal["all"] = "all"


@dataclass(frozen=True, slots=True, kw_only=True)
class AnyOf:
    """True when at least one part is true."""

    parts: tuple[Condition, ...]
    kind: Literal["any"] = "any"


@dataclass(frozen=True, slots=True, kw_only=True)
class Negation:
    """True when its part is false."""

    part: Condition
    kind: Literal["not"] = "not"


Condition = Comparison | AllOf | AnyOf | Negation


@dataclass(frozen=True, slots=True, kw_only=True)
class QuestionName:
    """How a question is spoken of in a sentence: its label, unit and the labels of its options."""

    label: str
    unit: str = ""
    options: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class OperatorRow:
    """One operator: its key, the words between question and value, and how it compares."""

    key: Operator
    words: str
    compare: Callable[[Answer, Comparison], bool]
    numeric: bool = False


def _number(value: object) -> float:
    """The number behind a numeric comparison; NaN (which compares false) for anything else."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        return float("nan")
    return float(value)


def _between(answer: Answer, c: Comparison) -> bool:
    return _number(c.value) <= _number(answer) <= _number(c.upper)


def _one_of(answer: Answer, c: Comparison) -> bool:
    return isinstance(c.value, tuple) and answer in c.value


def _includes(answer: Answer, c: Comparison) -> bool:
    return isinstance(answer, tuple) and c.value in answer


def _earlier(one: object, other: object) -> bool:
    """Whether an ISO 8601 date or time lies before another; a day against a time counts its start."""
    return isinstance(one, str) and isinstance(other, str) and one < other


OPERATORS: Mapping[Operator, OperatorRow] = {
    row.key: row
    for row in (
        OperatorRow("answered", "is answered", lambda _a, _c: True),
        OperatorRow("is", "is", lambda a, c: a == c.value),
        OperatorRow("is not", "is not", lambda a, c: a != c.value),
        OperatorRow("is one of", "is", _one_of),
        OperatorRow("includes", "includes", _includes),
        OperatorRow("below", "is below", lambda a, c: _number(a) < _number(c.value), True),
        OperatorRow("at most", "is at most", lambda a, c: _number(a) <= _number(c.value), True),
        OperatorRow("above", "is above", lambda a, c: _number(a) > _number(c.value), True),
        OperatorRow("at least", "is at least", lambda a, c: _number(a) >= _number(c.value), True),
        OperatorRow("between", "is between", _between, True),
        OperatorRow("before", "is before", lambda a, c: _earlier(a, c.value)),
        OperatorRow("after", "is after", lambda a, c: _earlier(c.value, a)),
    )
}
"""Every operator, in the order menus offer them."""


def evaluate(condition: Condition | None, answers: Answers) -> Truth:
    """Truth of a condition under the answers given so far.

    An unanswered question makes its comparison unknown, ``answered`` included: it is not yet
    known whether the answer will come. No condition at all is true.

    >>> low = Comparison(question="pressure", operator="below", value=90.0)
    >>> evaluate(low, {"pressure": 84.0}), evaluate(low, {})
    (True, None)
    """
    match condition:
        case None:
            return True
        case Comparison():
            answer = answers.get(condition.question)
            if answer is None:
                return None
            if condition.against is not None:
                other = answers.get(condition.against)
                if other is None or isinstance(other, Quantity):
                    return None
                condition = replace(condition, value=other)
            return OPERATORS[condition.operator].compare(answer, condition)
        case AllOf():
            return conjoin(evaluate(part, answers) for part in condition.parts)
        case AnyOf():
            return disjoin(evaluate(part, answers) for part in condition.parts)
        case Negation():
            return negate(evaluate(condition.part, answers))


def comparisons(condition: Condition | None) -> Iterator[Comparison]:
    """Every comparison in the condition, left to right."""
    match condition:
        case None:
            return
        case Comparison():
            yield condition
        case AllOf() | AnyOf():
            for part in condition.parts:
                yield from comparisons(part)
        case Negation():
            yield from comparisons(condition.part)


FACTS = ("asset.", "order.", "site.", "customer.", "meter.")
"""What the name of a fact begins with: conditions may ask about the order and its asset too."""


def is_fact(question: str) -> bool:
    """Whether a condition's question is a fact of the order, known before anybody sets off.

    >>> is_fact("asset.model"), is_fact("pressure")
    (True, False)
    """
    return question.startswith(FACTS)


def rename_questions(condition: Condition | None, rename: Callable[[str], str]) -> Condition | None:
    """The same condition asking about renamed questions; facts keep their names."""
    match condition:
        case None:
            return None
        case Comparison():
            return replace(
                condition,
                question=_renamed(condition.question, rename),
                against=condition.against and _renamed(condition.against, rename),
            )
        case AllOf() | AnyOf():
            parts = tuple(p for part in condition.parts if (p := rename_questions(part, rename)))
            return replace(condition, parts=parts)
        case Negation():
            part = rename_questions(condition.part, rename)
            return None if part is None else replace(condition, part=part)


def _renamed(question: str, rename: Callable[[str], str]) -> str:
    return question if is_fact(question) else rename(question)


def questions_of(condition: Condition | None) -> Iterator[str]:
    """Every question the condition asks about, left to right, facts included."""
    for c in comparisons(condition):
        yield c.question
        if c.against is not None:
            yield c.against


def spread_over(condition: Condition | None, instances: Mapping[str, tuple[str, ...]]) -> Condition | None:
    """The condition with each repeated question asked of all its repeats: true when any of them is.

    ``instances`` gives the repeats of a question; a question that does not repeat is not in it.
    """
    match condition:
        case None:
            return None
        case Comparison():
            if condition.question not in instances:
                return condition
            return AnyOf(parts=tuple(replace(condition, question=q) for q in instances[condition.question]))
        case AllOf() | AnyOf():
            parts = tuple(p for part in condition.parts if (p := spread_over(part, instances)))
            return replace(condition, parts=parts)
        case Negation():
            part = spread_over(condition.part, instances)
            return None if part is None else replace(condition, part=part)


def number_text(value: float) -> str:
    """A number as written: no trailing zeros, a true minus sign.

    >>> number_text(90.0), number_text(-11.25)
    ('90', '−11.25')
    """
    return f"{value:.10g}".replace("-", "−")


def sentence(condition: Condition | None, names: Mapping[str, QuestionName]) -> str:
    """The condition in words, as a technician or engineer would say it.

    A question that ``names`` does not know is called "a question that is gone".

    >>> names = {"p": QuestionName(label="Pressure", unit="bar")}
    >>> sentence(Comparison(question="p", operator="below", value=90.0), names)
    'pressure is below 90 bar'
    """
    return _phrase(condition, names, nested=False)


def _phrase(condition: Condition | None, names: Mapping[str, QuestionName], *, nested: bool) -> str:
    match condition:
        case None:
            return "always"
        case Comparison():
            return _comparison_phrase(condition, names)
        case AllOf() | AnyOf():
            if not condition.parts:
                return "always" if condition.kind == "all" else "never"
            word = " and " if condition.kind == "all" else " or "
            text = word.join(_phrase(part, names, nested=True) for part in condition.parts)
            return f"({text})" if nested and len(condition.parts) > 1 else text
        case Negation():
            return f"not ({_phrase(condition.part, names, nested=False)})"


def _comparison_phrase(c: Comparison, names: Mapping[str, QuestionName]) -> str:
    name = _name_of(c.question, names)
    if name is None:
        return f"a question that is gone {OPERATORS[c.operator].words} …"
    label = lower_first(name.label)
    words = OPERATORS[c.operator].words
    if c.operator == "answered":
        return f"{label} {words}"
    if c.operator == "between":
        return (
            f"{label} {words} {_value_phrase(c.value, name)} and {_value_phrase(c.upper, name)}{_unit(name)}"
        )
    if c.against is not None:
        other = _name_of(c.against, names)
        return f"{label} {words} {lower_first(other.label) if other else 'a question that is gone'}"
    unit = _unit(name) if isinstance(c.value, int | float) and not isinstance(c.value, bool) else ""
    return f"{label} {words} {_value_phrase(c.value, name)}{unit}"


def _name_of(question: str, names: Mapping[str, QuestionName]) -> QuestionName | None:
    if question not in names and is_fact(question):
        return QuestionName(label=fact_label(question))
    return names.get(question)


def fact_label(fact: str) -> str:
    """A fact of the order in words.

    >>> fact_label("asset.rated_current")
    "the asset's rated current"
    """
    whose, what = fact.split(".", 1)
    return f"the {whose}'s {what.replace('_', ' ').replace('-', ' ')}"


def _unit(name: QuestionName) -> str:
    return f" {name.unit}" if name.unit else ""


def _value_phrase(value: object, name: QuestionName) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        return number_text(float(value))
    if isinstance(value, tuple):
        return " or ".join(_value_phrase(item, name) for item in value)
    if value is None:
        return "…"
    return lower_first(name.options.get(str(value), str(value)))


def lower_first(text: str) -> str:
    """The text with a small first letter, unless its first word is an abbreviation.

    >>> lower_first("Oil level"), lower_first("PLC fault")
    ('oil level', 'PLC fault')
    """
    if len(text) > 1 and text[1].isupper():
        return text
    return text[:1].lower() + text[1:]
