"""How the technicians of the simulated field work: careful, hurried, new, or ticking boxes. Invented."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import timedelta

from reedling.core.guidance.questions import (
    Reading,
)
from reedling.core.logic.conditions import Answer


@dataclass(frozen=True, slots=True, kw_only=True)
class Habit:
    """How somebody works: how long steps take them, as a factor; how that changes; whether they copy readings."""

    pace: float
    learns_over_days: float = 0.0
    """A new technician is slower at first, by half at the start and by nothing after so many days."""
    copies: bool = False
    """Writes down the same figure again and again where nothing seems wrong; hands in one photo for several."""
    passes_over: float = 0.0
    """How often a step is ticked without being done; never one that asks for a reading, a picture or parts."""
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
    Habit(pace=0.7, copies=True, passes_over=0.2),
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
