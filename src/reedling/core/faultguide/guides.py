"""A fault guide and what answers make of it: the chances of the causes, and how much a check would tell.

The model: exactly one cause is present; checks are independent of each other given the cause; after each remedy it is
proved whether the equipment works, and a last resort with its minutes ends every order of work.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from math import fsum, log2
from typing import Literal

from reedling.errors import InvalidInput

DoingKind = Literal["check", "repair", "last resort"]
"""What may be done next: look at something, try a remedy, send for a specialist."""


@dataclass(frozen=True, kw_only=True)
class Check:
    """Something to look at that is so or not; ``yes`` gives the chance that it is so, 0 to 1, for each cause."""

    id: str
    label: str
    minutes: float
    yes: tuple[float, ...]


@dataclass(frozen=True, kw_only=True)
class Repair:
    """A remedy; ``fixes`` gives the chance that it puts the equipment right, for each cause.

    ``cost_minutes`` is what its parts cost, in minutes at the rate stated.
    """

    id: str
    label: str
    minutes: float
    fixes: tuple[float, ...]
    cost_minutes: float = 0.0


@dataclass(frozen=True, kw_only=True)
class FaultGuide:
    """Causes with their chances, which sum to 1; checks, remedies, and the minutes of a proof and of the last resort."""

    causes: tuple[str, ...]
    chances: tuple[float, ...]
    checks: tuple[Check, ...]
    repairs: tuple[Repair, ...]
    prove_minutes: float
    last_resort_minutes: float

    @property
    def repair_minutes(self) -> tuple[float, ...]:
        """What each remedy takes with its parts and the proof after it."""
        return tuple(r.minutes + r.cost_minutes + self.prove_minutes for r in self.repairs)


def check_guide(guide: FaultGuide) -> None:
    """A guide holds together: chances between 0 and 1 that sum to 1, one figure for each cause, minutes above 0.

    Raises
    ------
    InvalidInput
        ``guides.chances`` or ``guides.minutes``.
    """
    n = len(guide.causes)
    rows = [guide.chances, *(c.yes for c in guide.checks), *(r.fixes for r in guide.repairs)]
    if n == 0 or any(len(row) != n for row in rows):
        raise InvalidInput("guides.chances", "there is not one figure for each cause.", where="Fault guide")
    if any(not 0 <= p <= 1 for row in rows for p in row) or abs(fsum(guide.chances) - 1) > 1e-6:
        raise InvalidInput(
            "guides.chances",
            "chances lie between 0 and 1, and those of the causes sum to 1.",
            where="Fault guide",
        )
    minutes = [*(c.minutes for c in guide.checks), *guide.repair_minutes, guide.last_resort_minutes]
    if any(not m > 0 for m in minutes):
        raise InvalidInput("guides.minutes", "every minute figure is above 0.", where="Fault guide")


def posterior(
    guide: FaultGuide, answers: Mapping[int, bool], failed: Collection[int] = ()
) -> tuple[float, ...] | None:
    """The chances of the causes after answers, by the place of the check, and remedies that did not help.

    Bayes' rule over one cause with checks independent given it. Nothing where the answers cannot be together.
    """
    chances = guide.chances
    for check, is_yes in answers.items():
        yes = guide.checks[check].yes
        chances = tuple([c * (y if is_yes else 1 - y) for c, y in zip(chances, yes, strict=True)])
    for repair in failed:
        chances = tuple([c * (1 - f) for c, f in zip(chances, guide.repairs[repair].fixes, strict=True)])
    total = fsum(chances)
    return tuple([c / total for c in chances]) if total > 0 else None


def bits(guide: FaultGuide, chances: Sequence[float]) -> tuple[float, ...]:
    """How much each check would tell about the cause: mutual information in bits, at these chances.

    Shannon, C. E. (1948). Bell System Technical Journal 27(3), 379-423.
    """
    return tuple(
        _entropy(fsum(c * y for c, y in zip(chances, check.yes, strict=True)))
        - fsum(c * _entropy(y) for c, y in zip(chances, check.yes, strict=True) if c > 0)
        for check in guide.checks
    )


def _entropy(p: float) -> float:
    """Entropy in bits of yes or no, for the chance of yes."""
    return 0.0 if p <= 0 or p >= 1 else -(p * log2(p) + (1 - p) * log2(1 - p))
