"""What is really wrong in the simulated field, and how its technicians work.

Invented. The application never sees this module's truth: it sees what the technicians record.
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
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


_RAKE_PROVED = {"WP-001:peak": near(9.6, 0.6), "WP-001:set-at": near(110, 0.8)}
_PUMP_PROVED = {
    "WP-002:l1": near(29.4, 1.2),
    "WP-002:l2": near(29.1, 1.2),
    "WP-002:l3": near(29.6, 1.2),
    "WP-002:set-a": near(32, 0.6),
    "WP-002:dead": always(True),
    "WP-002:ran": always(True),
    "WP-002:megohm-after": near(180, 30, 0),
}
_LEVEL_PROVED = {
    "WP-003:leave": always(True),
    "WP-003:auto-on": always(True),
    "WP-003:difference": near(0.4, 1.1),
    "WP-003:ma-after": near(11.5, 1.5),
}

WEED, STORMS, HEAT = Season(peak=225, swing=0.5), Season(peak=345, swing=0.4), Season(peak=200, swing=0.7)
"""Weed grows to the middle of August, storms come before midwinter, and the hottest days are in July."""

KINDS: tuple[Kind, ...] = (
    Kind(
        weight=0.42,
        equipment="screen-rake",
        symptom="stalls",
        season=WEED,
        overtaken={"WP-001:plate": "WP-001:isolate"},
        reports=(
            "Rake stops about half way up.",
            "Rake stalled twice overnight, reset by control.",
            "Will lift empty, stalls with weed on.",
        ),
        troubles=(
            Trouble(
                0.45,
                "debris",
                "cleared",
                {"WP-001:bar": near(112, 6, 0), "WP-001:debris-found": always(True), **_RAKE_PROVED},
                season=WEED,
                said=(
                    "Rake groans and stops, branches in the channel.",
                    "A lot of weed since the storm, rake stuck.",
                    "Something wedged behind the tines, it hums and stops.",
                ),
            ),
            Trouble(
                0.30,
                "relief-valve",
                "reseated",
                {
                    "WP-001:bar": near(78, 6, 0),
                    "WP-001:seat": among("scored", "scored", "dirt"),
                    **_RAKE_PROVED,
                },
                fetch=0.55,
                takes=(Taken("OIL-32", 0.6, (2, 3, 3, 5)),),
                said=(
                    "Lifts slowly and gives up, no weed on it.",
                    "Weak, hisses at the valve block, then stops.",
                    "Creeps up empty, sinks back by itself.",
                ),
            ),
            Trouble(
                0.15,
                "low-oil",
                "topped-up",
                {"WP-001:bar": near(83, 4, 0), "WP-001:seat": always("sound"), **_RAKE_PROVED},
                back=0.3,
                takes=(Taken("OIL-32", 1.0, (4, 5, 8)), Taken("HOSE-WR3", 0.2)),
                said=(
                    "Oil on the floor under the rake, it jerks.",
                    "Foaming tank, jerks on the way up.",
                    "Jerks and stops, puddle below the hose.",
                ),
            ),
            Trouble(
                0.10,
                "worn-chain",
                "replaced",
                {
                    **_RAKE_PROVED,
                    "WP-001:bar": near(116, 3, 0),
                    "WP-001:debris-found": always(False),
                    "WP-001:peak": near(11.3, 0.5),
                },
                fetch=0.6,
                back=0.2,
                takes=(Taken("CHAIN-12B", 1.0, (3, 3, 6)),),
                said=(
                    "Clanks loudly, chain jumps.",
                    "Bangs on the way up, chain hangs loose.",
                ),
            ),
        ),
        slow={"WP-001:debris": 0.75, "WP-001:isolate": 1.15, "WP-001:other": 1.2},
        slow_by_model={
            ("WP-001:pressure", "A", "WR3"): 2.9,
            ("WP-001:pressure", "A", "WR2"): 1.6,
            ("WP-001:pressure", "B", "WR3"): 1.9,
            ("WP-001:pressure", "B", "WR2"): 1.5,
        },
    ),
    Kind(
        weight=0.36,
        equipment="submersible-pump",
        symptom="trips",
        season=STORMS,
        reports=(
            "Trips after two or three minutes.",
            "Breaker out this morning, would not hold.",
            "Tripped twice since the storm.",
        ),
        troubles=(
            Trouble(
                0.5,
                "fouled-impeller",
                "cleared",
                {
                    "WP-002:megohm": near(120, 40, 0),
                    "WP-002:impeller": among("jammed", "stiff", "stiff"),
                    **_PUMP_PROVED,
                },
                back=0.15,
                season=STORMS,
                also_done="Cleaned the strainer basket",
                said=(
                    "Rattles, then trips, rags in the wet well.",
                    "Hums without turning, then trips.",
                    "Little flow since the storm, trips when it labours.",
                ),
            ),
            Trouble(
                0.18,
                "motor-insulation",
                "replaced",
                {
                    "WP-002:megohm": near(0.7, 0.2),
                    "WP-002:where-low": always("motor"),
                    "WP-002:impeller": always("free"),
                    **_PUMP_PROVED,
                },
                fetch=0.8,
                said=(
                    "Trips at once, smells burnt.",
                    "Breaker goes with a bang, damp in the housing.",
                ),
            ),
            Trouble(
                0.12,
                "cable-insulation",
                "replaced",
                {
                    "WP-002:megohm": near(0.8, 0.2),
                    "WP-002:where-low": always("cable"),
                    "WP-002:impeller": always("free"),
                    **_PUMP_PROVED,
                },
                fetch=0.4,
                season=STORMS,
                said=(
                    "Trips whenever it rains.",
                    "Cable chafed at the hatch, trips at once.",
                ),
            ),
            Trouble(
                0.2,
                "overload-setting",
                "reset",
                {"WP-002:megohm": near(150, 40, 0), "WP-002:impeller": always("free"), **_PUMP_PROVED},
                back=0.2,
                season=HEAT,
                said=(
                    "Runs well for an hour, then trips on warm days.",
                    "Trips since the panel was worked on.",
                ),
            ),
        ),
        slow={"WP-002:lift": 1.35, "WP-002:ask": 1.5},
        noted={
            "WP-002:lift": (
                0.16,
                (
                    "Shackle seized, had to free it with oil.",
                    "Lifting shackle rusted fast, cut it off.",
                    "Could not open the shackle by hand.",
                    "Shackle stuck again, new one wanted.",
                ),
            ),
        },
    ),
    Kind(
        weight=0.22,
        equipment="level-sensor",
        symptom="frozen",
        reports=("Flat line since midnight.", "Level does not follow the staff gauge."),
        troubles=(
            Trouble(
                0.55,
                "fouled-sensor",
                "cleaned",
                {"WP-003:ma": near(11, 2), "WP-003:moves": always(True), **_LEVEL_PROVED},
                back=0.12,
                season=WEED,
                said=(
                    "Reading drifts slowly, grease on the water.",
                    "Level reads high, scum in the well.",
                ),
            ),
            Trouble(
                0.25,
                "loose-terminal",
                "remade",
                {"WP-003:ma": near(2.6, 0.6), "WP-003:wiring": among("loose", "no-supply"), **_LEVEL_PROVED},
                takes=(Taken("GLAND-20", 0.6, (1, 1, 2)),),
                said=(
                    "Reading comes and goes when the door slams.",
                    "Flickers between zero and full.",
                ),
            ),
            Trouble(
                0.2,
                "failed-sensor",
                "replaced",
                {
                    "WP-003:ma": near(12, 1.5),
                    "WP-003:moves": always(False),
                    **_LEVEL_PROVED,
                },
                fetch=0.5,
                said=(
                    "Stuck at one value since the lightning.",
                    "Reads the same in air and in water.",
                ),
            ),
        ),
        slow={"WP-003:clean": 1.3},
    ),
)


_PHASES = {f"WP-005:survey/l{n}": near(29.3, 0.7) for n in (1, 2, 3)}
SURVEY = Kind(
    weight=0,
    equipment="station",
    symptom="half-yearly",
    reports=("Due this month.",),
    troubles=(
        Trouble(
            0.6,
            "nothing-found",
            "none-needed",
            {
                **_PHASES,
                "WP-005:survey/megohm": near(140, 40, 0),
                "WP-005:survey/pt": near(121, 3, 2),
                "WP-005:survey/dry": always(True),
                "WP-005:ran": always(True),
            },
        ),
        Trouble(
            0.4,
            "dry-bearing",
            "greased",
            {
                **_PHASES,
                "WP-005:survey/l2": near(33.5, 0.6),
                "WP-005:survey/megohm": near(60, 30, 0),
                "WP-005:survey/pt": near(132.5, 1.0, 2),
                "WP-005:survey/dry": lambda rng: rng.random() < 0.7,
                "WP-005:ran": always(True),
                "WP-005:grams": near(90, 20, 0),
            },
        ),
    ),
)
"""The routine visit: not drawn with the call-outs, it falls due."""


def true_answer(
    question: Question, trouble: Trouble, rng: random.Random, facts: Mapping[str, Answer]
) -> Answer | None:
    """How a question comes out on this job; ``None`` for a photo or signature, which have to be taken.

    The repeats of a question come out each by themselves, about the same value.
    """
    told = trouble.answers.get(question.id.split("@", 1)[0])
    if told is not None:
        value = told(rng)
        return max(value, 0.1) if isinstance(value, float) and question.kind == "reading" else value
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
            return _middling(question, rng)
        case _:
            return _words(question.label, rng)


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


UNSERVED: tuple[tuple[Kind, int], ...] = (
    (
        Kind(
            weight=0,
            equipment="conveyor",
            symptom="stalls",
            reports=("Belt stops under load.", "Belt creeps, then stands."),
            troubles=(
                Trouble(0.6, "debris", "cleared", {}, back=0.3),
                Trouble(0.4, "dry-bearing", "greased", {}),
            ),
        ),
        6,
    ),
    (
        Kind(
            weight=0,
            equipment="tilting-gate",
            symptom="hunts",
            reports=("Gate opens and shuts all night.",),
            troubles=(Trouble(1.0, "fouled-sensor", "cleaned", {}),),
        ),
        4,
    ),
)
"""Calls for which there is no plan, with how many of each came in."""

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


@dataclass(frozen=True, slots=True, kw_only=True)
class Habit:
    """How somebody works: how long steps take them, as a factor; how that changes; whether they copy readings."""

    pace: float
    learns_over_days: float = 0.0
    """A new technician is slower at first, by half at the start and by nothing after so many days."""
    copies: bool = False
    """Writes down the same figure again and again where nothing seems wrong; hands in one photo for several."""
    blurs: float = 0.02
    """How often a photo is blurred."""
    strays: float = 0.02
    """How often somebody does not keep to the order where it is easily left."""

    def pace_at(self, since: timedelta) -> float:
        """The factor so long after the history began."""
        if not self.learns_over_days:
            return self.pace
        left = max(0.0, 1 - since / timedelta(days=self.learns_over_days))
        return self.pace * (1 + 0.5 * left)

    def copied(self, reading: Reading, value: Answer | None) -> Answer | None:
        """What a box-ticker writes instead of a reading within its limits."""
        lim = reading.limits
        if not isinstance(value, float) or lim.low is None or lim.high is None:
            return value
        return round((lim.low + lim.high) / 2, 1) if lim.low <= value <= lim.high else value


HABITS = (
    Habit(pace=1.1),
    Habit(pace=0.84, blurs=0.16, strays=0.35),
    Habit(pace=1.0, learns_over_days=200),
    Habit(pace=0.95),
    Habit(pace=0.7, copies=True),
    Habit(pace=1.05),
)
"""Careful, hurried, newly trained, steady, a box-ticker, steady."""


def habits_of(technicians: Iterable[str]) -> dict[str, Habit]:
    """Who has which habit, in the order given; there is one who copies."""
    honest = [habit for habit in HABITS if not habit.copies]
    return {
        person: HABITS[n] if n < len(HABITS) else honest[n % len(honest)]
        for n, person in enumerate(technicians)
    }
