"""What is really wrong in the simulated field, and how its technicians work.

Invented. The application never sees this module's truth: it sees what the technicians record.
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import TypeVar

from reedling.core.guidance.questions import (
    MeterReading,
    OneOf,
    Photo,
    Question,
    Reading,
    SafetyNote,
    Scan,
    Signature,
    Tick,
    YesNo,
)
from reedling.core.guidance.revisions import letter_rank
from reedling.core.logic.conditions import Answer
from reedling.core.runsheet.lines import RunsheetLine


@dataclass(frozen=True, slots=True)
class Taken:
    """A part that a cause takes beside what the plan's steps name: how often, and how much."""

    part: str
    chance: float
    quantities: tuple[float, ...] = (1.0,)


@dataclass(frozen=True, slots=True)
class Season:
    """What is more common about one day of the year than half a year later: by ``swing``, 0 to 1, of its weight."""

    peak: int
    swing: float

    def factor(self, at: datetime) -> float:
        """By how much the weight is multiplied at a time of the year; 1 over a whole year."""
        return 1 + self.swing * math.cos(math.tau * (at.timetuple().tm_yday - self.peak) / 365.25)


@dataclass(frozen=True, slots=True)
class Trouble:
    """One cause: how often, how it is coded, what it needs, what its readings are like.

    ``answers`` maps a question (document, colon, identity) to how it comes out. ``fetch`` is
    the chance that the part it needs is not in the van; ``back`` that it returns within weeks;
    ``takes`` is what goes into it that no plan says.
    """

    weight: float
    cause: str
    remedy: str
    answers: Mapping[str, Callable[[random.Random], Answer]]
    fetch: float = 0.0
    back: float = 0.05
    takes: tuple[Taken, ...] = ()
    said: tuple[str, ...] = ()
    """What callers say who saw or heard more than the symptom."""
    also_done: str = ""
    """Something done at most of these jobs that no step asks for."""
    season: Season | None = None


@dataclass(frozen=True, slots=True)
class Kind:
    """One kind of call: which assets, which symptom, how often, what may be wrong."""

    weight: float
    equipment: str
    symptom: str
    reports: tuple[str, ...]
    troubles: tuple[Trouble, ...]
    slow: Mapping[str, float] = field(default_factory=dict)
    """How much longer than written a line takes in truth, by line."""
    slow_by_model: Mapping[tuple[str, str, str], float] = field(default_factory=dict)
    """As ``slow``, by line, revision and model."""
    noted: Mapping[str, tuple[float, tuple[str, ...]]] = field(default_factory=dict)
    """What is noted at a line: how often, and in which words."""
    left_out: Mapping[str, tuple[float, tuple[str, ...]]] = field(default_factory=dict)
    """What a routine visit leaves out: how often, by line, and for which reasons."""
    overtaken: Mapping[str, str] = field(default_factory=dict)
    """What is done instead of a line that is next, by who does not keep to the order; that line follows."""
    season: Season | None = None


Seasonal = TypeVar("Seasonal", Kind, Trouble)


def drawn(rng: random.Random, among: Sequence[Seasonal], at: datetime | None) -> Seasonal:
    """One of these by its weight, with the season at this time; by the weight alone where none is given."""
    factors = [one.season.factor(at) if one.season is not None and at is not None else 1.0 for one in among]
    return rng.choices(among, [one.weight * factor for one, factor in zip(among, factors, strict=True)])[0]


def near(middle: float, spread: float, digits: int = 1) -> Callable[[random.Random], float]:
    """A reading about a value."""
    return lambda rng: round(rng.gauss(middle, spread), digits)


def always(value: Answer) -> Callable[[random.Random], Answer]:
    """The same answer every time."""
    return lambda _rng: value


def among_numbers(*values: float) -> Callable[[random.Random], float]:
    """One of these numbers."""
    return lambda rng: float(rng.choice(values))


def among(*values: str) -> Callable[[random.Random], str]:
    """One of these."""
    return lambda rng: rng.choice(values)


WEED, STORMS, HEAT = Season(peak=225, swing=0.5), Season(peak=345, swing=0.4), Season(peak=200, swing=0.7)
"""Weed grows to the middle of August, storms come before midwinter, and the hottest days are in July."""


def true_answer(
    question: Question, trouble: Trouble, rng: random.Random, facts: Mapping[str, Answer]
) -> Answer | None:
    """How a question comes out on this job; ``None`` for a photo or signature, which have to be taken.

    The repeats of a question come out each by themselves, about the same value.
    """
    told = trouble.answers.get(question.id.split("@", 1)[0])
    if told is not None:
        value = told(rng)
        return (
            _readable(question, value)
            if isinstance(question, Reading) and isinstance(value, float)
            else value
        )
    match question:
        case Photo() | Signature():
            return None
        case Tick() | YesNo() | SafetyNote():
            return True
        case Scan():
            return question.equals or facts.get("asset.serial", "no plate")
        case MeterReading():
            last = facts.get(f"meter.{question.meter}", 4000.0)
            return round((float(last) if isinstance(last, int | float) else 0.0) + rng.uniform(300, 900), 1)
        case OneOf():
            return rng.choice(question.options).id
        case Reading():
            return _readable(question, _middling(question, rng))
        case _:
            return _words(question.label, rng)


def _readable(reading: Reading, value: float) -> float:
    """The value, or the nearest that the instrument can show: what is spread wide falls beyond its scale at times."""
    shown = max(value, 0.1, reading.lowest or 0.1)
    return shown if reading.highest is None else min(shown, reading.highest)


def _middling(reading: Reading, rng: random.Random) -> float:
    lim = reading.limits
    low = lim.low if lim.low is not None else (lim.high or 2.0) * 0.8
    high = lim.high if lim.high is not None else (lim.low or 1.0) * 1.5
    return round(rng.uniform(low, high), 2)


def _words(label: str, rng: random.Random) -> str:
    if "ermit" in label:
        return f"P-{rng.randint(1000, 9999)}"
    return rng.choice(
        ("Topped up and bled, no leak seen.", "As reported.", "Nothing changed lately.", "See photos.")
    )


NOTES = (
    "Seat scored right round, dressed it and set the valve again.",
    "Grit in the oil, seat marked where it sits.",
    "Old scoring on the seat; a new one would be better.",
)
"""What technicians write about a valve seat."""


QUESTIONS = (
    "Where does the gauge screw in on this pack?",
    "There are two test points here. Which one?",
    "No gauge port where the picture has it.",
    "Is the port under the cover plate?",
)
"""What technicians ask about the pressure of the newer pack."""

HELP_BY_MODEL: Mapping[tuple[str, str, str], float] = {
    ("WP-001:pressure", "A", "WR3"): 0.45,
    ("WP-001:pressure", "B", "WR3"): 0.2,
    ("WP-001:pressure", "A", "WR2"): 0.04,
    ("WP-001:pressure", "B", "WR2"): 0.03,
}
"""How often help is asked at a line, by line, revision and model."""

LATEST_KNOWN = "B"
"""The revision that a later one is like, unless it says more."""
LETTERS_SO_FAR: Mapping[str, int] = {"WP-001:pressure": 172}
"""How much the steps that are hard to understand have said up to then, in letters of their detail."""
ENOUGH_MORE = 40
"""So many letters more explain it; a picture does too."""


def truly_slow(kind: Kind, line: RunsheetLine, model: str) -> float:
    """How many times as long as written a line takes in truth."""
    usual = kind.slow.get(line.id, 1.0)
    return usual if _is_explained(line) else kind.slow_by_model.get((*_as_known(line), model), usual)


def asks_for_help(line: RunsheetLine, model: str) -> float:
    """How often help is asked at a line."""
    return 0.02 if _is_explained(line) else HELP_BY_MODEL.get((*_as_known(line), model), 0.0)


def _as_known(line: RunsheetLine) -> tuple[str, str]:
    return line.id, min(line.revision, LATEST_KNOWN, key=letter_rank)


def _is_explained(line: RunsheetLine) -> bool:
    """Whether a line that was hard to understand says enough by now."""
    so_far = LETTERS_SO_FAR.get(line.id)
    return so_far is not None and (len(line.detail) >= so_far + ENOUGH_MORE or bool(line.pictures))
