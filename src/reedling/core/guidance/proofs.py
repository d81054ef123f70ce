"""Proofs: what a step needs before it counts as done, and what an answer to one says.

A proof asks a question, so it has an identity that lasts: conditions and evidence refer to it,
through any rewording or move. The identity is unique within its document.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from reedling.core.logic.conditions import Answer, QuestionName, lower_first, number_text

Severity = Literal["Note", "Watch", "Act", "Stop"]
SEVERITIES: tuple[Severity, ...] = ("Note", "Watch", "Act", "Stop")
"""How serious a finding is, mildest first."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Tick:
    """Done, with nothing more to say."""

    id: str
    label: str = "Done"
    kind: Literal["tick"] = "tick"


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """The reading is wanted from ``low`` to ``high``, both included, in the reading's unit.

    ``low_low`` and ``high_high`` lie further out: beyond them the finding is a Stop.
    """

    low_low: float | None = None
    low: float | None = None
    high: float | None = None
    high_high: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """A number read off an instrument, in a stated unit, with limits.

    ``lowest`` and ``highest`` are the ends of what the instrument can show, where the author
    gave them; an answer beyond them is refused.
    """

    id: str
    label: str
    unit: str
    limits: Limits = Limits()
    lowest: float | None = None
    highest: float | None = None
    kind: Literal["reading"] = "reading"


@dataclass(frozen=True, slots=True, kw_only=True)
class YesNo:
    """A question answered yes or no."""

    id: str
    label: str
    kind: Literal["yes_no"] = "yes_no"


@dataclass(frozen=True, slots=True, kw_only=True)
class Option:
    """One of the answers a technician may choose."""

    id: str
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class OneOf:
    """A question answered with exactly one of the options."""

    id: str
    label: str
    options: tuple[Option, ...]
    kind: Literal["one_of"] = "one_of"


@dataclass(frozen=True, slots=True, kw_only=True)
class TextEntry:
    """A question answered in the technician's own words."""

    id: str
    label: str
    kind: Literal["text"] = "text"


Moment = Literal["before", "nameplate", "after", "any"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Photo:
    """A picture to be taken; ``label`` says of what. The answer is the picture's identity."""

    id: str
    label: str
    moment: Moment = "any"
    kind: Literal["photo"] = "photo"


Proof = Tick | Reading | YesNo | OneOf | TextEntry | Photo

Place = Literal["within", "below low-low", "below low", "above high", "above high-high"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """What a reading says about its limits; ``severity`` is ``None`` when it lies within."""

    place: Place
    severity: Severity | None
    sentence: str


def judge_reading(reading: Reading, value: float) -> Verdict:
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
    text = f"{number_text(value)} {reading.unit}".strip()
    for bound, lower, place, severity, word in checks:
        if bound is not None and (value < bound if lower else value > bound):
            limit_text = f"{number_text(bound)} {reading.unit}".strip()
            return Verdict(place=place, severity=severity, sentence=f"{text} is {word} {limit_text}.")
    return Verdict(place="within", severity=None, sentence=f"{text} is within its limits.")


def wanted_range(reading: Reading) -> str:
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


def answer_problem(proof: Proof, answer: Answer) -> str | None:
    """Why an answer does not fit its question, in a sentence; nothing when it does."""
    match proof:
        case Tick():
            fits, wanted = answer is True, "a tick"
        case YesNo():
            fits, wanted = isinstance(answer, bool), "yes or no"
        case Reading():
            number = isinstance(answer, int | float) and not isinstance(answer, bool)
            fits = number and _can_show(proof, float(answer))  # type: ignore[arg-type]
            wanted = f"a number in {proof.unit}".strip() + _span_words(proof)
        case OneOf():
            fits = any(answer == option.id for option in proof.options)
            wanted = "one of " + ", ".join(option.label for option in proof.options)
        case TextEntry():
            fits, wanted = isinstance(answer, str) and bool(answer.strip()), "some words"
        case Photo():
            fits, wanted = isinstance(answer, str) and bool(answer), "a photo"
    return None if fits else f"“{proof.label}” wants {wanted}, got {answer!r}."


def _can_show(reading: Reading, value: float) -> bool:
    low = float("-inf") if reading.lowest is None else reading.lowest
    high = float("inf") if reading.highest is None else reading.highest
    return low <= value <= high and abs(value) < float("inf")


def _span_words(reading: Reading) -> str:
    if reading.lowest is None and reading.highest is None:
        return ""
    ends = ["…" if end is None else number_text(end) for end in (reading.lowest, reading.highest)]
    return f" from {ends[0]} to {ends[1]}"


def answer_text(proof: Proof, answer: Answer) -> str:
    """An answer as a person would write it down.

    >>> answer_text(Reading(id="p", label="P", unit="bar"), 84.0)
    '84 bar'
    """
    if isinstance(answer, bool):
        return "done" if isinstance(proof, Tick) else ("yes" if answer else "no")
    if isinstance(answer, int | float):
        unit = proof.unit if isinstance(proof, Reading) else ""
        return f"{number_text(float(answer))} {unit}".strip()
    if isinstance(answer, tuple):
        return ", ".join(answer)
    if isinstance(proof, OneOf):
        return next((o.label for o in proof.options if o.id == answer), answer)
    return "photo" if isinstance(proof, Photo) else answer


def question_name(proof: Proof) -> QuestionName:
    """How conditions speak of this proof."""
    return QuestionName(
        label=proof.label,
        unit=proof.unit if isinstance(proof, Reading) else "",
        options={o.id: o.label for o in proof.options} if isinstance(proof, OneOf) else {},
    )


def proof_line(proofs: Sequence[Proof]) -> str:
    """What a step asks to see, in one short line.

    >>> proof_line([Photo(id="a", label="Lock"), Tick(id="b")])
    'photo of lock'
    """
    words = []
    for proof in proofs:
        match proof:
            case Tick():
                continue
            case Reading():
                wanted = wanted_range(proof)
                words.append(
                    f"{lower_first(proof.label)} in {proof.unit}" + (f", {wanted}" if wanted else "")
                )
            case Photo():
                words.append(f"photo of {lower_first(proof.label)}")
            case _:
                words.append(lower_first(proof.label))
    return "; ".join(words)
