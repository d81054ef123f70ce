"""Solved jobs and what is asked of them, as words and codes that tell jobs apart."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from reedling.core.guidance.likeness import words_of

LEAST_LETTERS = 3
"""Shorter words tell nothing."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Remedied:
    """What was wrong and what put it right, by their codes."""

    cause: str
    remedy: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FaultCall:
    """What is known of an order before anybody looked: the caller's words, the symptom, the asset."""

    report: str
    symptom: str
    model: str
    equipment: str
    asset: str = ""

    @property
    def words(self) -> tuple[str, ...]:
        """The caller's words, each once."""
        return tuple(dict.fromkeys(w for w in words_of(self.report) if len(w) >= LEAST_LETTERS))

    @property
    def signs(self) -> tuple[str, ...]:
        """Everything that tells this call from others: words, symptom, model and class, each marked as what it is."""
        codes = (("symptom", self.symptom), ("model", self.model), ("class", self.equipment))
        return (
            *(f"word {w}" for w in self.words),
            *(f"{kind} {code}" for kind, code in codes if code),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class SolvedJob:
    """A closed job with its call and its fix; ``confirmed`` says that a technician marked the fix as found here."""

    order: str
    call: FaultCall
    fix: Remedied
    finished_at: datetime
    confirmed: bool = False
