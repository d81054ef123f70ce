"""What the answers of a plan leave open: its lines with repeats laid out, and the ways each answer can fall.

Every answer that a condition asks about is split where conditions tell answers apart: one of several is
a category, several of many are one yes or no for each option, numbers and dates are cut at every threshold.
Those pieces are the *ways* of a question. A section that repeats asks anew for each repeat, with the
same chances. Given which way each question falls, the plan unfolds exactly as on site: what is hidden has
no answer, and what stays unknown is not wanted.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, timedelta
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from reedling.core.guidance.plans import Plan
from reedling.core.guidance.questions import (
    AnyOf,
    Computed,
    DateEntry,
    MeterReading,
    OneOf,
    Question,
    Reading,
    Scan,
    YesNo,
)
from reedling.core.logic.conditions import (
    PRESENCE,
    Answer,
    Comparison,
    Condition,
    Conjunction,
    Disjunction,
    Negation,
    comparisons,
    evaluate,
    is_day,
    is_day_and_time,
    is_fact,
)
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Runsheet, RunsheetLine, Source
from reedling.core.runsheet.repeats import lay_out

Truths = NDArray[np.bool_]
"""For each of many runs, whether something holds."""
Fallen = Mapping["Variable", NDArray[np.intp]]
"""For each of many runs, which way every question falls, by its number."""


@dataclass(frozen=True, slots=True)
class Variable:
    """Something an answer leaves open: a question of one repeat, or one option of it.

    ``shared`` names what has the same chances: the question in whichever repeat.
    """

    key: str
    shared: str


@dataclass(frozen=True, slots=True)
class Outlook:
    """The lines of one plan or several, and the ways in which each thing left open can fall."""

    lines: tuple[RunsheetLine, ...]
    by_id: Mapping[str, RunsheetLine]
    questions: Mapping[str, tuple[RunsheetLine, Question]]
    ways: Mapping[str, tuple[Answer | None, ...]]
    options: Mapping[str, tuple[str, ...]]


def outlook(plans: Sequence[Plan]) -> Outlook:
    """Lay out plans that are carried out together; a section whose repeats are not known stands once."""
    lines: list[RunsheetLine] = []
    for number, plan in enumerate(plans):
        source = Source(document=str(number), revision="", title=plan.title)
        lines += compile_runsheet([(source, plan)]).lines
    sheet = Runsheet(sources=(), lines=tuple(lines))
    asking: dict[str, Answer] = {}
    laid = lay_out(sheet, asking)
    while waiting := [line.id for line in laid.lines if line.id.endswith("@") and line.id not in asking]:
        asking |= dict.fromkeys(waiting, ("one",))
        laid = lay_out(sheet, asking)
    questions = {q.id: (line, q) for line in laid.lines for q in line.questions}
    asked: dict[str, list[Comparison]] = {}
    for condition in _conditions(laid.lines):
        for c in comparisons(condition):
            asked.setdefault(shared_name(c.question), []).append(_shared(c))
    options: dict[str, tuple[str, ...]] = {}
    ways: dict[str, tuple[Answer | None, ...]] = {}
    by_name = {shared_name(q): found[1] for q, found in questions.items()}
    for name, found in asked.items():
        question = by_name.get(name)
        if isinstance(question, AnyOf):
            options[name] = _options_asked(question, found)
        ways[name] = _ways(question, found)
    return Outlook(
        lines=laid.lines,
        by_id={line.id: line for line in laid.lines},
        questions=questions,
        ways=ways,
        options=options,
    )


def _conditions(lines: Sequence[RunsheetLine]) -> Iterator[Condition | None]:
    for line in lines:
        yield line.condition
        yield from (p.condition for p in line.parts)
        yield from (q.condition for q in line.questions)


def shared_name(question: str) -> str:
    """A question without its repeat.

    >>> shared_name("0:amps@North")
    '0:amps'
    """
    return question.partition("@")[0]


def _shared(c: Comparison) -> Comparison:
    return replace(c, question=shared_name(c.question), against=c.against and shared_name(c.against))


def _options_asked(question: AnyOf, asked: Sequence[Comparison]) -> tuple[str, ...]:
    if any(c.operator in ("is", "is not", "is exactly") for c in asked):
        return tuple(o.id for o in question.options)
    named = {item for c in asked for item in _items(c.value)}
    return tuple(o.id for o in question.options if o.id in named)


def _items(value: object) -> tuple[object, ...]:
    return value if isinstance(value, tuple) else (value,)


def _ways(question: Question | None, asked: Sequence[Comparison]) -> tuple[Answer | None, ...]:
    """Answers that between them meet every way these comparisons can come out, each way once."""
    plain = [c for c in asked if c.against is None]
    candidates: list[Answer | None] = list(_candidates(question, plain))
    may_lack = question is None or question.required != "always"
    if may_lack and any(c.operator in PRESENCE for c in plain):
        candidates.append(None)
    patterns: dict[tuple[object, ...], Answer | None] = {}
    for answer in candidates:
        key = c_key(plain, answer)
        patterns.setdefault(key, answer)
    return tuple(patterns.values())


def c_key(asked: Sequence[Comparison], answer: Answer | None) -> tuple[object, ...]:
    """How each comparison comes out for an answer."""
    if answer is None:
        return ("unanswered",)
    return tuple(evaluate(c, {c.question: answer}) for c in asked)


def _candidates(question: Question | None, asked: Sequence[Comparison]) -> Iterator[Answer]:
    named = [item for c in asked for item in (*_items(c.value), c.upper) if item is not None]
    numbers = sorted({float(x) for x in named if isinstance(x, int | float) and not isinstance(x, bool)})
    match question:
        case YesNo():
            yield from (True, False)
        case OneOf():
            yield from (o.id for o in question.options)
        case Reading() | MeterReading() | Computed():
            yield from _numbers(question, numbers)
        case DateEntry():
            yield from _moments([str(x) for x in named], with_time=question.with_time)
        case Scan() if (question.equals or "").strip():
            yield (question.equals or "").strip()
        case None if numbers:
            yield from _numbers(None, numbers)
        case _:
            yield from dict.fromkeys(x for x in named if isinstance(x, str))
            yield True if any(isinstance(x, bool) for x in named) else "something else"
            yield from (x for x in named if isinstance(x, bool))


def _numbers(question: Question | None, thresholds: Sequence[float]) -> Iterator[float]:
    """Values below, on, between and above the thresholds, as far as the instrument goes."""
    low = question.lowest if isinstance(question, Reading) else None
    low = 0.0 if isinstance(question, MeterReading) else low
    high = question.highest if isinstance(question, Reading) else None
    bounds = [b for b in (low, high) if b is not None]
    cuts = sorted({*thresholds, *bounds}) or [0.0]
    values = [cuts[0] - 1, *cuts, *((a + b) / 2 for a, b in pairwise(cuts)), cuts[-1] + 1]
    for value in values:
        if (low is None or value >= low) and (high is None or value <= high):
            yield value


def _moments(named: Sequence[str], *, with_time: bool) -> Iterator[str]:
    """Days and times before, at, between and after those that are named."""
    known = [text for text in named if is_day(text) or is_day_and_time(text)]
    days = {date.fromisoformat(text[:10]) for text in known} or {date(2026, 1, 1)}
    near = sorted({day + timedelta(days=n) for day in days for n in (-1, 0, 1)})
    if not with_time:
        yield from (str(day) for day in near)
        return
    clocks = sorted({"T00:00", "T23:59", *(text[10:] for text in known if len(text) > 10)})
    yield from (f"{day}{clock}" for day in near for clock in clocks)


@dataclass(slots=True)
class Unfolding:
    """Many runs of an outlook at once: in each, which way every thing left open falls.

    Without ``fallen`` nothing is worked out: it is only noted in ``met`` what the answer hangs on.
    """

    outlook: Outlook
    fallen: Fallen
    n: int
    met: dict[Variable, None] = field(default_factory=dict)
    _wanted: dict[str, Truths] = field(default_factory=dict)
    _asked: dict[str, Truths] = field(default_factory=dict)

    def wanted(self, line: str) -> Truths:
        """In which runs a line is wanted."""
        if line not in self._wanted:
            self._wanted[line] = self._all(True)
            found = self.outlook.by_id[line]
            true, _ = self.truth(found.condition)
            self._wanted[line] = self.above(line) & true
        return self._wanted[line]

    def above(self, line: str) -> Truths:
        """In which runs the line that a line hangs on is wanted."""
        under = self.outlook.by_id[line].under
        return self.wanted(under) if under is not None and under in self.outlook.by_id else self._all(True)

    def truth(self, condition: Condition | None) -> tuple[Truths, Truths]:
        """In which runs a condition is true, and in which false; in the others it stays unknown."""
        match condition:
            case None:
                return self._all(True), self._all(False)
            case Comparison():
                return self._comparison(condition)
            case Conjunction():
                pairs = [self.truth(part) for part in condition.parts]
                return self._every([t for t, _ in pairs]), self._some([f for _, f in pairs])
            case Disjunction():
                pairs = [self.truth(part) for part in condition.parts]
                return self._some([t for t, _ in pairs]), self._every([f for _, f in pairs])
            case Negation():
                true, false = self.truth(condition.part)
                return false, true

    def asked(self, question: str) -> Truths:
        """In which runs a question is asked; facts are there in all."""
        if is_fact(question):
            return self._all(True)
        if question not in self._asked:
            held = self.outlook.questions.get(question)
            self._asked[question] = self._all(False)
            if held is not None:
                line, q = held
                self._asked[question] = self.wanted(line.id) & self.truth(q.condition)[0]
        return self._asked[question]

    def _comparison(self, c: Comparison) -> tuple[Truths, Truths]:
        asked = self.asked(c.question)
        name = shared_name(c.question)
        if c.against is not None:
            asked = asked & self.asked(c.against)
            shared = _shared(c)
            key = f"{c.question} {c.operator} {c.against}"
            holds = self._fall(Variable(key, f"{shared.question} {shared.operator} {shared.against}")) == 0
            return asked & holds, asked & ~holds
        if name in self.outlook.options:
            answered, holds = self._all(True), self._of_options(c, name)
        else:
            ways = self.outlook.ways.get(name, ())
            fall = self._fall(Variable(c.question, name))
            lacking = np.array([way is None for way in ways] or [False])
            answered = ~lacking[fall] if len(ways) > 1 else self._all(True)
            verdicts = [way is not None and evaluate(_shared(c), {name: way}) is True for way in ways]
            holds = np.array(verdicts or [False])[fall]
        there = asked & answered
        if c.operator in PRESENCE:
            return (there, ~there) if c.operator == "answered" else (~there, there)
        return there & holds, there & ~holds

    def _of_options(self, c: Comparison, name: str) -> Truths:
        ticked = {
            option: self._fall(Variable(f"{c.question} {option}", f"{name} {option}")) == 0
            for option in self.outlook.options[name]
        }
        named = [str(item) for item in _items(c.value)]
        own = [ticked.get(item, self._all(False)) for item in named]
        match c.operator:
            case "includes any":
                return self._some(own)
            case "includes" | "includes all":
                return self._every(own)
            case "is" | "is exactly" | "is not":
                exactly = self._every([on if o in named else ~on for o, on in ticked.items()])
                exactly = exactly & all(item in ticked for item in named)
                return ~exactly if c.operator == "is not" else exactly
            case _:
                return self._all(True)

    def _fall(self, variable: Variable) -> NDArray[np.intp]:
        self.met[variable] = None
        held = self.fallen.get(variable)
        return np.zeros(self.n, dtype=np.intp) if held is None else held

    def _all(self, value: bool) -> Truths:
        return np.full(self.n, value)

    def _every(self, parts: Sequence[Truths]) -> Truths:
        out = self._all(True)
        for part in parts:
            out = out & part
        return out

    def _some(self, parts: Sequence[Truths]) -> Truths:
        out = self._all(False)
        for part in parts:
            out = out | part
        return out


def n_ways(found: Outlook, shared: str) -> int:
    """In how many ways something can fall; an option and a comparison of two answers in two."""
    return len(found.ways[shared]) if shared in found.ways else 2


def all_falls(found: Outlook, variables: Sequence[Variable]) -> dict[Variable, NDArray[np.intp]]:
    """Every combination of the ways these can fall."""
    sizes = [n_ways(found, v.shared) for v in variables]
    count = int(np.prod(sizes)) if sizes else 1
    grid = np.indices(sizes).reshape(len(sizes), count) if sizes else np.zeros((0, 1), dtype=np.intp)
    return dict(zip(variables, grid, strict=True))
