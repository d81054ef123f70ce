"""Questions: what a step needs answered before it counts as done, and what an answer says.

A question has an identity that lasts: conditions and evidence refer to it through any rewording or
move. The identity is unique within its document. As a step's proof, a question is what shows that
the step was done; on a form it is a line of the sheet.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from reedling.core.logic.conditions import (
    Answer,
    Condition,
    QuestionName,
    is_day,
    is_day_and_time,
    lower_first,
    number_text,
)
from reedling.core.logic.formulas import usable_name
from reedling.core.logic.units import Quantity, convert, convertible

Severity = Literal["Note", "Watch", "Act", "Stop"]
SEVERITIES: tuple[Severity, ...] = ("Note", "Watch", "Act", "Stop")
"""How serious a finding is, mildest first."""
Owner = Literal["technician", "planner", "engineer", "keeper"]
"""Who sees to a finding; the keeper is the customer's person on site."""
Required = Literal["always", "never", "when"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Raise:
    """A finding that an answer raises: when, how serious, whose, and due in how many days.

    The condition may ask about the question itself and those before it.
    """

    when: Condition
    severity: Severity = "Act"
    says: str = ""
    owner: Owner = "planner"
    due_days: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """What every question has.

    ``name`` is what formulas call it (the identity serves where it is empty). It is asked when its
    ``condition`` is true; it must be answered always, never, or when ``required_when`` is true.
    ``prefill`` names a fact that is offered as its answer, or "last" for the answer of the last
    visit; ``write_back`` names the field of the asset or order that the answer is written to once
    the job is finished.
    """

    id: str
    label: str
    name: str = ""
    detail: str = ""
    condition: Condition | None = None
    required: Required = "always"
    required_when: Condition | None = None
    prefill: str | None = None
    write_back: str | None = None
    raises: tuple[Raise, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Tick(Asked):
    """Done, with nothing more to say."""

    label: str = "Done"
    kind: Literal["tick"] = "tick"


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """The reading is wanted from ``low`` to ``high``, both included, in the reading's unit.

    ``low_low`` and ``high_high`` lie further out: beyond them the finding is a Stop. ``owner`` and
    ``due_days`` say who sees to a reading outside, and by when.
    """

    low_low: float | None = None
    low: float | None = None
    high: float | None = None
    high_high: float | None = None
    owner: Owner = "planner"
    due_days: int | None = None

    @property
    def any_set(self) -> bool:
        """Whether there is a limit at all."""
        return any(x is not None for x in (self.low_low, self.low, self.high, self.high_high))


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading(Asked):
    """A number read off an instrument, in a stated unit, with limits.

    ``units`` are the others it may be entered in. ``lowest`` and ``highest`` are the ends of what
    the instrument can show, where the author gave them; an answer beyond them is refused.
    """

    unit: str
    units: tuple[str, ...] = ()
    limits: Limits = Limits()
    lowest: float | None = None
    highest: float | None = None
    kind: Literal["reading"] = "reading"


@dataclass(frozen=True, slots=True, kw_only=True)
class MeterReading(Asked):
    """The state of one of the asset's meters. Below the last one, a reason is asked for."""

    meter: str
    unit: str = "h"
    kind: Literal["meter"] = "meter"


@dataclass(frozen=True, slots=True, kw_only=True)
class Computed(Asked):
    """A value worked out from other answers by a formula; nobody enters it. It may have limits."""

    formula: str = ""
    unit: str = ""
    limits: Limits = Limits()
    decimals: int = 2
    kind: Literal["computed"] = "computed"


@dataclass(frozen=True, slots=True, kw_only=True)
class YesNo(Asked):
    """A question answered yes or no."""

    kind: Literal["yes_no"] = "yes_no"


@dataclass(frozen=True, slots=True, kw_only=True)
class Option:
    """One of the answers a technician may choose."""

    id: str
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class OneOf(Asked):
    """A question answered with exactly one of the options."""

    options: tuple[Option, ...]
    kind: Literal["one_of"] = "one_of"


@dataclass(frozen=True, slots=True, kw_only=True)
class AnyOf(Asked):
    """A question answered with some of the options, or none of them."""

    options: tuple[Option, ...]
    kind: Literal["any_of"] = "any_of"


@dataclass(frozen=True, slots=True, kw_only=True)
class TextEntry(Asked):
    """A question answered in the technician's own words; ``ready`` are answers to start from."""

    ready: tuple[str, ...] = ()
    kind: Literal["text"] = "text"


@dataclass(frozen=True, slots=True, kw_only=True)
class DateEntry(Asked):
    """A question answered with a day, or with a day and a time (ISO 8601)."""

    with_time: bool = False
    kind: Literal["date"] = "date"


Moment = Literal["before", "nameplate", "after", "any"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Photo(Asked):
    """A picture to be taken; ``label`` says of what. The answer is the picture's identity.

    With ``keep_place`` the picture keeps where it was taken, if the camera wrote it; otherwise that is
    taken out.
    """

    moment: Moment = "any"
    keep_place: bool = False
    kind: Literal["photo"] = "photo"


@dataclass(frozen=True, slots=True, kw_only=True)
class Signature(Asked):
    """A name signed on the glass; ``label`` says whose. The answer is the picture's identity."""

    by: Literal["technician", "keeper"] = "keeper"
    kind: Literal["signature"] = "signature"


@dataclass(frozen=True, slots=True, kw_only=True)
class Scan(Asked):
    """A code read with the scanner: it must equal the asset's serial, or the value stated."""

    equals: str | None = None
    kind: Literal["scan"] = "scan"


@dataclass(frozen=True, slots=True, kw_only=True)
class Instruction(Asked):
    """Something to read and look at, with pictures by their identity; it asks for no answer."""

    pictures: tuple[str, ...] = ()
    kind: Literal["instruction"] = "instruction"


@dataclass(frozen=True, slots=True, kw_only=True)
class Names(Asked):
    """Which pumps, phases or doors there are, as found on site: the answer is their names.

    It is made when a section repeats over what is found on site; nobody authors it.
    """

    kind: Literal["names"] = "names"


@dataclass(frozen=True, slots=True, kw_only=True)
class SafetyNote(Asked):
    """A step's safety note, which has to be acknowledged; ``label`` is the note.

    It is made from the step; nobody authors it.
    """

    kind: Literal["safety"] = "safety"


Question = (
    Tick
    | Reading
    | MeterReading
    | Computed
    | YesNo
    | OneOf
    | AnyOf
    | TextEntry
    | DateEntry
    | Photo
    | Signature
    | Scan
    | Instruction
    | Names
    | SafetyNote
)
NUMERIC = (Reading, MeterReading, Computed)
"""Kinds whose answer is a number in a unit."""
UNASKED = (Computed, Instruction)
"""Kinds that nobody answers."""

Place = Literal["within", "below low-low", "below low", "above high", "above high-high"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """What a reading says about its limits; ``severity`` is ``None`` when it lies within."""

    place: Place
    severity: Severity | None
    sentence: str


def judge_reading(reading: Reading | Computed, value: float) -> Verdict:
    """Compare a value, in the reading's own unit, with its limits.

    A value on a limit lies within. Outside low or high is a finding to Act on; outside low-low
    or high-high it is a Stop.

    >>> gauge = Reading(id="p", label="Pressure", unit="bar", limits=Limits(low=90, high=120))
    >>> judge_reading(gauge, 84).sentence
    '84 bar is below 90 bar.'
    """
    lim = reading.limits
    checks: tuple[tuple[float | None, bool, Place, Severity, str], ...] = (
        (lim.low_low, True, "below low-low", "Stop", "below"),
        (lim.high_high, False, "above high-high", "Stop", "above"),
        (lim.low, True, "below low", "Act", "below"),
        (lim.high, False, "above high", "Act", "above"),
    )
    text = f"{_shown_number(reading, value)} {reading.unit}".strip()
    for bound, lower, place, severity, word in checks:
        if bound is not None and (value < bound if lower else value > bound):
            said, limit = (f"{number} {reading.unit}".strip() for number in told_apart(reading, value, bound))
            return Verdict(place=place, severity=severity, sentence=f"{said} is {word} {limit}.")
    return Verdict(place="within", severity=None, sentence=f"{text} is within its limits.")


def _shown_number(question: Question, value: float) -> str:
    """A number as text: a computed value rounded to its decimals, any other to six significant digits, more
    than any gauge shows."""
    shown = round(value, question.decimals) if isinstance(question, Computed) else float(f"{value:.6g}")
    return number_text(shown)


def told_apart(reading: Question, value: float, bound: float) -> tuple[str, str]:
    """A value and the limit it is beyond, with as many digits as tell the two apart.

    >>> told_apart(Computed(id="u", label="Unbalance", unit="%", decimals=0), 2.003, 2.0)
    ('2.003', '2')
    """
    limit = number_text(bound)
    if _read_back(limit) != bound:
        limit = _plain_digits(repr(bound))
    shown = _shown_number(reading, value)
    if _read_back(shown) != bound and (_read_back(shown) < bound) == (value < bound):
        return shown, limit
    for digits in range(6, 18):
        shown = f"{value:.{digits}g}"
        if float(shown) != bound and (float(shown) < bound) == (value < bound):
            return _plain_digits(shown), limit
    return _plain_digits(repr(value)), _plain_digits(repr(bound))


def _read_back(shown: str) -> float:
    return float(shown.replace("−", "-"))


def _plain_digits(shown: str) -> str:
    return shown.replace("-", "−").removesuffix(".0")


def wanted_range(reading: Reading | Computed) -> str:
    """The limits in words for the person reading the gauge; empty when there are none.

    >>> wanted_range(Reading(id="p", label="P", unit="bar", limits=Limits(low=90, high=120)))
    'want 90 to 120 bar'
    """
    low = reading.limits.low if reading.limits.low is not None else reading.limits.low_low
    high = reading.limits.high if reading.limits.high is not None else reading.limits.high_high
    if low is not None and high is not None:
        text = f"want {number_text(low)} to {number_text(high)} {reading.unit}"
    elif low is not None:
        text = f"want {number_text(low)} {reading.unit} or more"
    elif high is not None:
        text = f"want {number_text(high)} {reading.unit} or less"
    else:
        text = ""
    return text.strip()


def in_own_unit(question: Question, answer: Answer) -> Answer:
    """An answer as conditions, limits and formulas see it: a number in the question's own unit, words
    without blanks at their ends.

    Raises
    ------
    InvalidInput
        What :func:`reedling.core.logic.units.convert` does, for a unit that :func:`answer_problem` refuses.

    >>> gauge = Reading(id="p", label="Pressure", unit="bar", units=("psi",))
    >>> in_own_unit(gauge, Quantity(value=145.0, unit="psi"))
    9.99739807509
    """
    if isinstance(answer, Quantity) and isinstance(question, NUMERIC):
        return convert(answer.value, answer.unit, question.unit)
    return answer.strip() if isinstance(answer, str) else answer


def answer_problem(
    question: Question, answer: Answer, facts: Mapping[str, Answer] | None = None
) -> str | None:
    """Why an answer does not fit its question, in a sentence; nothing when it does.

    ``facts`` are those of the order, for a scan that must equal the asset's serial.
    """
    match question:
        case Tick() | SafetyNote():
            fits, wanted = answer is True, "a tick"
        case YesNo():
            fits, wanted = isinstance(answer, bool), "yes or no"
        case Reading() | MeterReading():
            return _number_problem(question, answer)
        case OneOf():
            fits = any(answer == option.id for option in question.options)
            wanted = "one of " + ", ".join(option.label for option in question.options)
        case AnyOf():
            known = {option.id for option in question.options}
            fits = isinstance(answer, tuple) and set(answer) <= known and len(set(answer)) == len(answer)
            wanted = "some of " + ", ".join(option.label for option in question.options)
        case TextEntry():
            fits, wanted = isinstance(answer, str) and bool(answer.strip()), "some words"
        case DateEntry():
            fits = isinstance(answer, str) and (is_day_and_time if question.with_time else is_day)(answer)
            wanted = "a day and a time, such as 2026-05-31T14:30" if question.with_time else "a day"
        case Photo():
            fits, wanted = isinstance(answer, str) and bool(answer), "a photo"
        case Signature():
            fits, wanted = isinstance(answer, str) and bool(answer), "a signature"
        case Scan():
            return _scan_problem(question, answer, facts or {})
        case Names():
            fits, wanted = isinstance(answer, tuple) and _are_names(answer), "names, each once, 50 at most"
        case Computed() | Instruction():
            fits, wanted = False, "no answer"
    return None if fits else f"“{question.label}” wants {wanted}, got {_got(answer)}."


def _got(answer: Answer) -> str:
    return f"{number_text(answer.value)} {answer.unit}" if isinstance(answer, Quantity) else repr(answer)


def _are_names(answer: tuple[str, ...]) -> bool:
    plain = [name for name in answer if name.strip() and "@" not in name and len(name) <= 40]
    return len(plain) == len(answer) == len(set(answer)) <= 50


def _number_problem(question: Reading | MeterReading, answer: Answer) -> str | None:
    if isinstance(answer, Quantity):
        allowed = (question.unit, *(question.units if isinstance(question, Reading) else ()))
        if answer.unit not in allowed or not convertible(answer.unit, question.unit):
            return f"“{question.label}” is read in {' or '.join(allowed)}, got {answer.unit}."
        value: float | None = convert(answer.value, answer.unit, question.unit)
    else:
        value = float(answer) if isinstance(answer, int | float) and not isinstance(answer, bool) else None
    low = question.lowest if isinstance(question, Reading) else 0.0
    high = question.highest if isinstance(question, Reading) else None
    if (
        value is not None
        and math.isfinite(value)
        and (low is None or value >= low)
        and (high is None or value <= high)
    ):
        return None
    span = "" if low is None and high is None else f" from {_end(low)} to {_end(high)}"
    return f"“{question.label}” wants a number in {question.unit or 'no unit'}{span}, got {_got(answer)}."


def _end(value: float | None) -> str:
    return "…" if value is None else number_text(value)


def _scan_problem(question: Scan, answer: Answer, facts: Mapping[str, Answer]) -> str | None:
    if not isinstance(answer, str) or not answer.strip():
        return f"“{question.label}” wants a scan, got {_got(answer)}."
    wanted = wanted_scan(question, facts)
    if wanted is None or answer.strip() == wanted:
        return None
    what = "the serial of this asset" if question.equals is None else "the code wanted"
    return f"“{question.label}”: {answer.strip()} is not {what}, {wanted}. Check that it is the right one."


def wanted_scan(question: Scan, facts: Mapping[str, Answer]) -> str | None:
    """What a scan must read, without blanks at its ends: the code stated, else the asset's serial."""
    stated = question.equals.strip() if question.equals is not None else ""
    wanted = stated or str(facts.get("asset.serial") or "").strip()
    return wanted or None


def answer_text(question: Question, answer: Answer) -> str:
    """An answer as a person would write it down.

    Raises
    ------
    InvalidInput
        What :func:`in_own_unit` does.

    >>> answer_text(Reading(id="p", label="P", unit="bar"), Quantity(value=145.0, unit="psi"))
    '145 psi (9.997 bar)'
    """
    if isinstance(answer, bool):
        said = {"tick": "done", "safety": "read"}.get(question.kind, "yes")
        return said if answer else "no"
    if isinstance(answer, Quantity):
        own = in_own_unit(question, answer)
        entered = f"{number_text(answer.value)} {answer.unit}"
        same = not isinstance(question, NUMERIC) or question.unit == answer.unit
        return entered if same else f"{entered} ({float(own):.4g} {question.unit})"  # type: ignore[arg-type, union-attr]
    if isinstance(answer, int | float):
        unit = question.unit if isinstance(question, NUMERIC) else ""
        return f"{_shown_number(question, float(answer))} {unit}".strip()
    if isinstance(answer, tuple):
        labels = _labels(question)
        return ", ".join(labels.get(item, item) for item in answer) or "none"
    if isinstance(question, OneOf):
        return _labels(question).get(answer, answer)
    if isinstance(question, DateEntry):
        return answer.replace("T", " ")
    return question.kind if isinstance(question, Photo | Signature) else answer


def _labels(question: Question) -> Mapping[str, str]:
    return {o.id: o.label for o in question.options} if isinstance(question, OneOf | AnyOf) else {}


def question_name(question: Question) -> QuestionName:
    """How conditions speak of this question."""
    return QuestionName(
        label=question.label,
        unit=question.unit if isinstance(question, NUMERIC) else "",
        options=_labels(question),
    )


def formula_name(question: Question) -> str:
    """What formulas call the question: its name, or its identity spelled as a name.

    >>> formula_name(Reading(id="i-1", label="Current", unit="A"))
    'i_1'
    """
    return usable_name(question.name or question.id)


def question_line(questions: Sequence[Question]) -> str:
    """What a step asks to see, in one short line.

    >>> question_line([Photo(id="a", label="Lock"), Tick(id="b", label="Done")])
    'photo of lock'
    """
    words = []
    for question in questions:
        match question:
            case Tick() | Instruction() | SafetyNote():
                continue
            case Reading():
                wanted = wanted_range(question)
                words.append(
                    f"{lower_first(question.label)} in {question.unit}" + (f", {wanted}" if wanted else "")
                )
            case Photo():
                words.append(f"photo of {lower_first(question.label)}")
            case Signature():
                words.append(f"signature, {lower_first(question.label)}")
            case Computed():
                words.append(f"{lower_first(question.label)}, worked out")
            case _:
                words.append(lower_first(question.label))
    return "; ".join(words)
