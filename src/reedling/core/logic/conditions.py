"""Conditions: when a step, question or part is wanted.

A condition is data (a tree of ``all``, ``any``, ``not`` over comparisons), never text to be
parsed. It is evaluated in three-valued logic, and prints as a sentence.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from datetime import date
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
    "not answered",
    "is",
    "is not",
    "is one of",
    "is exactly",
    "includes",
    "includes any",
    "includes all",
    "below",
    "at most",
    "above",
    "at least",
    "between",
    "before",
    "after",
]


OfRepeats = Literal["same", "any", "every"]
"""Which of the repeats of a section a comparison from outside it is about."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """One question against a constant, or against another question in the same unit.

    ``value`` is the constant; for ``between`` it is the lower end and ``upper`` the upper end,
    both included; for ``answered`` and ``not answered`` it is unused. Where ``against`` names a
    question, its answer stands for the constant.

    Where the question is repeated and asked about from outside its section, ``repeats`` says of which
    repeats: of "any" one; of "every" one (true where there is none); or of the "same" one as the other
    comparisons of the condition that say so: there is one repeat of which all of them are true together.
    """

    question: str
    operator: Operator
    value: bool | float | str | tuple[str, ...] | None = None
    upper: float | None = None
    against: str | None = None
    repeats: OfRepeats = "same"
    kind: Literal["comparison"] = "comparison"


@dataclass(frozen=True, slots=True, kw_only=True)
class Conjunction:
    """True when every part is true."""

    parts: tuple[Condition, ...]
    kind: Literal["all"] = "all"


@dataclass(frozen=True, slots=True, kw_only=True)
class Disjunction:
    """True when at least one part is true."""

    parts: tuple[Condition, ...]
    kind: Literal["any"] = "any"


@dataclass(frozen=True, slots=True, kw_only=True)
class Negation:
    """True when its part is false."""

    part: Condition
    kind: Literal["not"] = "not"


Condition = Comparison | Conjunction | Disjunction | Negation


@dataclass(frozen=True, slots=True, kw_only=True)
class QuestionName:
    """How a question is spoken of in a sentence: its label, unit and the labels of its options.

    For one that is repeated, and asked about from outside, ``section`` names what repeats and ``per``
    is the word for one of its repeats.
    """

    label: str
    unit: str = ""
    options: Mapping[str, str] = field(default_factory=dict)
    section: str = ""
    per: str = ""


@dataclass(frozen=True, slots=True)
class OperatorRow:
    """One operator: its key, the words between question and value, and how it compares.

    ``numeric`` ones hold of numbers only; the value of ``several`` ones is a set of options.
    """

    key: Operator
    words: str
    compare: Callable[[Answer, Comparison], bool]
    numeric: bool = False
    several: bool = False


def _number(value: object) -> float:
    """The number behind a numeric comparison; NaN (which compares false) for anything else."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        return float("nan")
    return float(value)


def _between(answer: Answer, c: Comparison) -> bool:
    return _number(c.value) <= _number(answer) <= _number(c.upper)


def _one_of(answer: Answer, c: Comparison) -> bool:
    return isinstance(c.value, tuple) and any(_same(answer, item) for item in c.value)


def _same(one: object, other: object) -> bool:
    """Whether two answers say the same: several options are a set, a day is any time of it."""
    if isinstance(one, tuple) and isinstance(other, tuple):
        return set(one) == set(other)
    if isinstance(one, bool) != isinstance(other, bool):
        return False
    if isinstance(one, str) and isinstance(other, str):
        one, other = one.strip(), other.strip()
    return _to_the_coarser(one, other) == _to_the_coarser(other, one)


def _chosen(value: object) -> frozenset[object]:
    return frozenset(value) if isinstance(value, tuple) else frozenset([value])


def _includes(answer: Answer, c: Comparison) -> bool:
    return isinstance(answer, tuple) and _chosen(c.value) <= set(answer)


def _includes_any(answer: Answer, c: Comparison) -> bool:
    return isinstance(answer, tuple) and bool(_chosen(c.value) & set(answer))


def _exactly(answer: Answer, c: Comparison) -> bool:
    return isinstance(answer, tuple) and set(answer) == _chosen(c.value)


def _earlier(one: object, other: object) -> bool:
    """Whether a date or time (ISO 8601) lies before another; a day against a time is the whole day."""
    if not isinstance(one, str) or not isinstance(other, str):
        return False
    return str(_to_the_coarser(one, other)) < str(_to_the_coarser(other, one))


def _to_the_coarser(one: object, other: object) -> object:
    """A time as its day where it is held against a day; anything else as it is."""
    if isinstance(one, str) and isinstance(other, str) and is_day(other) and is_day(one[:10]):
        return one[:10]
    return one


def is_day(text: str) -> bool:
    """Whether a text is a day as ISO 8601 writes it in full.

    >>> is_day("2026-05-31"), is_day("2026-5-31"), is_day("2026-02-30")
    (True, False, False)
    """
    if not _DAY.fullmatch(text):
        return False
    try:
        date.fromisoformat(text)
    except ValueError:
        return False
    return True


def is_day_and_time(text: str) -> bool:
    """Whether a text is a day and a time to the minute, as ISO 8601 writes it in full.

    >>> is_day_and_time("2026-05-31T14:30"), is_day_and_time("2026-05-31T24:30")
    (True, False)
    """
    return bool(_TIME.fullmatch(text[10:])) and is_day(text[:10])


_DAY = re.compile(r"[0-9]{4}-[0-9]{2}-[0-9]{2}")
_TIME = re.compile(r"T([01][0-9]|2[0-3]):[0-5][0-9]")


OPERATORS: Mapping[Operator, OperatorRow] = {
    row.key: row
    for row in (
        OperatorRow("answered", "is answered", lambda _a, _c: True),
        OperatorRow("not answered", "is not answered", lambda _a, _c: False),
        OperatorRow("is", "is", lambda a, c: _same(a, c.value)),
        OperatorRow("is not", "is not", lambda a, c: not _same(a, c.value)),
        OperatorRow("is one of", "is", _one_of, several=True),
        OperatorRow("is exactly", "is exactly", _exactly, several=True),
        OperatorRow("includes", "includes", _includes),
        OperatorRow("includes any", "includes any of", _includes_any, several=True),
        OperatorRow("includes all", "includes all of", _includes, several=True),
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


def never(_question: str) -> bool:
    """Says of every question that an answer may still come."""
    return False


def evaluate(condition: Condition | None, answers: Answers, settled: Callable[[str], bool] = never) -> Truth:
    """Truth of a condition under the answers given so far.

    An unanswered question makes its comparison unknown, ``answered`` and ``not answered`` included: it is
    not yet known whether the answer will come. Once the question is ``settled``, so that none will come,
    these two are known. No condition at all is true.

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
                if condition.operator in PRESENCE and settled(condition.question):
                    return condition.operator == "not answered"
                return None
            if condition.against is not None:
                other = answers.get(condition.against)
                if other is None or isinstance(other, Quantity):
                    return None
                condition = replace(condition, value=other)
            return OPERATORS[condition.operator].compare(answer, condition)
        case Conjunction():
            return conjoin(evaluate(part, answers, settled) for part in condition.parts)
        case Disjunction():
            return disjoin(evaluate(part, answers, settled) for part in condition.parts)
        case Negation():
            return negate(evaluate(condition.part, answers, settled))


PRESENCE = ("answered", "not answered")
"""Operators that ask whether there is an answer, not what it is."""


def comparisons(condition: Condition | None) -> Iterator[Comparison]:
    """Every comparison in the condition, left to right."""
    match condition:
        case None:
            return
        case Comparison():
            yield condition
        case Conjunction() | Disjunction():
            for part in condition.parts:
                yield from comparisons(part)
        case Negation():
            yield from comparisons(condition.part)


FACTS = ("asset.", "order.", "site.", "customer.", "meter.", "job.")
"""What the name of a fact begins with: conditions may ask about the order and its asset too."""


def is_fact(question: str) -> bool:
    """Whether a condition's question is a fact: of the order, known before anybody sets off, or of the job itself.

    >>> is_fact("asset.model"), is_fact("pressure")
    (True, False)
    """
    return question.startswith(FACTS)


def with_comparisons(
    condition: Condition | None, change: Callable[[Comparison], Comparison]
) -> Condition | None:
    """The same condition with each comparison as ``change`` gives it."""
    match condition:
        case None:
            return None
        case Comparison():
            return change(condition)
        case Conjunction() | Disjunction():
            parts = tuple(p for part in condition.parts if (p := with_comparisons(part, change)))
            return replace(condition, parts=parts)
        case Negation():
            part = with_comparisons(condition.part, change)
            return None if part is None else replace(condition, part=part)


def rename_questions(condition: Condition | None, rename: Callable[[str], str]) -> Condition | None:
    """The same condition asking about renamed questions; facts keep their names."""

    def renamed(comparison: Comparison) -> Comparison:
        return replace(
            comparison,
            question=_renamed(comparison.question, rename),
            against=comparison.against and _renamed(comparison.against, rename),
        )

    return with_comparisons(condition, renamed)


def _renamed(question: str, rename: Callable[[str], str]) -> str:
    return question if is_fact(question) else rename(question)


def questions_of(condition: Condition | None) -> Iterator[str]:
    """Every question the condition asks about, left to right, facts included."""
    for c in comparisons(condition):
        yield c.question
        if c.against is not None:
            yield c.against


@dataclass(frozen=True, slots=True)
class Repeated:
    """A repeated question: the section it belongs to, and the question of each repeat, in order."""

    section: str
    questions: tuple[str, ...]


def spread_over(condition: Condition | None, repeated: Mapping[str, Repeated]) -> Condition | None:
    """The condition with each repeated question asked of its repeats, as :class:`Comparison` says.

    Comparisons about the "same" repeat are bound together at the smallest part of the condition that
    holds all of them. A question that does not repeat is not in ``repeated``.
    """
    if condition is None or not any(q in repeated for q in questions_of(condition)):
        return condition
    match condition:
        case Comparison():
            return _of_repeats(condition, repeated)
        case Negation():
            return replace(condition, part=_spread(condition.part, repeated))
        case Conjunction() | Disjunction():
            shared = shared_section(condition, lambda q: repeated[q].section if q in repeated else "")
            if not shared:
                return replace(condition, parts=tuple(_spread(p, repeated) for p in condition.parts))
            n = next(len(r.questions) for r in repeated.values() if r.section == shared)
            return Disjunction(
                parts=tuple(_spread(_at(condition, repeated, shared, i), repeated) for i in range(n))
            )


def _spread(condition: Condition, repeated: Mapping[str, Repeated]) -> Condition:
    found = spread_over(condition, repeated)
    assert found is not None
    return found


def shared_section(group: Conjunction | Disjunction, section_of: Callable[[str], str]) -> str:
    """The section of which two or more parts of a group speak of the same repeat; empty for none.

    ``section_of`` gives the section of a repeated question, and nothing for one that does not repeat.
    """
    met: set[str] = set()
    for part in group.parts:
        own = {
            section
            for c in comparisons(part)
            if c.repeats == "same"
            for q in (c.question, c.against)
            if q is not None and (section := section_of(q))
        }
        for section in sorted(own):
            if section in met:
                return section
        met |= own
    return ""


def _of_repeats(c: Comparison, repeated: Mapping[str, Repeated]) -> Condition:
    """One comparison asked of every repeat of each section that it speaks of."""
    asked = next(q for q in (c.question, c.against) if q is not None and q in repeated)
    section = repeated[asked].section
    each = tuple(
        _spread(_placed(c, repeated, section, i), repeated) for i in range(len(repeated[asked].questions))
    )
    return Conjunction(parts=each) if c.repeats == "every" else Disjunction(parts=each)


def _placed(c: Comparison, repeated: Mapping[str, Repeated], section: str, place: int) -> Comparison:
    def of_place(question: str) -> str:
        held = repeated.get(question)
        return held.questions[place] if held is not None and held.section == section else question

    return replace(c, question=of_place(c.question), against=c.against and of_place(c.against))


def _at(condition: Condition, repeated: Mapping[str, Repeated], section: str, place: int) -> Condition:
    """The condition with the section's questions those of one repeat, where it speaks of the same one."""
    match condition:
        case Comparison():
            return _placed(condition, repeated, section, place) if condition.repeats == "same" else condition
        case Negation():
            return replace(condition, part=_at(condition.part, repeated, section, place))
        case Conjunction() | Disjunction():
            parts = tuple(_at(p, repeated, section, place) for p in condition.parts)
            return replace(condition, parts=parts)


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
    return _phrase(condition, names, frozenset(), nested=False)


def _phrase(
    condition: Condition | None, names: Mapping[str, QuestionName], bound: frozenset[str], *, nested: bool
) -> str:
    """``bound`` are the sections of which one repeat is spoken of already."""
    match condition:
        case None:
            return "always"
        case Comparison():
            return _comparison_phrase(condition, names, bound)
        case Conjunction() | Disjunction():
            if not condition.parts:
                return "always" if condition.kind == "all" else "never"
            shared = shared_section(condition, lambda q: _free_section(q, names, bound))
            before = ""
            if shared:
                per = next(name.per for name in names.values() if name.section == shared)
                before, bound = f"for the same {per}, ", bound | {shared}
            word = " and " if condition.kind == "all" else " or "
            text = before + word.join(_phrase(part, names, bound, nested=True) for part in condition.parts)
            return f"({text})" if nested and len(condition.parts) > 1 else text
        case Negation():
            return f"not ({_phrase(condition.part, names, bound, nested=False)})"


def _free_section(question: str, names: Mapping[str, QuestionName], bound: frozenset[str]) -> str:
    section = names[question].section if question in names else ""
    return "" if section in bound else section


def _comparison_phrase(c: Comparison, names: Mapping[str, QuestionName], bound: frozenset[str]) -> str:
    name = _name_of(c.question, names)
    words = OPERATORS[c.operator].words
    if name is None:
        return f"a question that is gone {words} …"
    label = lower_first(name.label) + _of_which(c, name, bound)
    if c.operator in PRESENCE:
        return f"{label} {words}"
    if c.operator == "between":
        return (
            f"{label} {words} {_value_phrase(c.value, name)} and {_value_phrase(c.upper, name)}{_unit(name)}"
        )
    if c.against is not None:
        other = _name_of(c.against, names)
        if other is None:
            return f"{label} {words} a question that is gone"
        return f"{label} {words} {lower_first(other.label)}{_of_which(c, other, bound)}"
    if isinstance(c.value, tuple):
        return f"{label} {_several_phrase(c.operator, words, c.value, name)}"
    unit = _unit(name) if isinstance(c.value, int | float) and not isinstance(c.value, bool) else ""
    return f"{label} {words} {_value_phrase(c.value, name)}{unit}"


def _of_which(c: Comparison, name: QuestionName, bound: frozenset[str]) -> str:
    """Of which repeats a comparison speaks, in words; nothing where it does not, or one is spoken of."""
    if not name.section or (name.section in bound and c.repeats == "same"):
        return ""
    return f" of {'every' if c.repeats == 'every' else 'any'} {name.per or 'one'}"


def _several_phrase(operator: Operator, words: str, items: tuple[str, ...], name: QuestionName) -> str:
    """Several options with the word that says how they are meant."""
    if operator in ("is", "is not"):
        words = f"{words} exactly"
    joint = "or" if operator in ("is one of", "includes any") else "and"
    said = [_option_phrase(item, name) for item in items]
    if any(" " in one for one in said):
        said = [f"“{one}”" for one in said]
    return f"{words} {f' {joint} '.join(said) or 'none'}"


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
    if value is None:
        return "…"
    words = _option_phrase(str(value), name)
    # An option of several words may begin with a verb, or have "or" in it: where it ends must be plain.
    return f"“{words}”" if " " in words else words


def _option_phrase(option: str, name: QuestionName) -> str:
    return lower_first(name.options.get(option, option))


def lower_first(text: str) -> str:
    """The text with a small first letter, unless its first word is an abbreviation.

    >>> lower_first("Oil level"), lower_first("PLC fault")
    ('oil level', 'PLC fault')
    """
    if len(text) > 1 and text[1].isupper():
        return text
    return text[:1].lower() + text[1:]
