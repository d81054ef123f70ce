"""A number that a finished job read or worked out, as charts and trust questions take it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptReading:
    """A number that a finished job read or worked out, with whose, of which asset, and when it was finished."""

    question: str
    each: str
    value: float
    out: bool
    order: str
    asset: str
    model: str
    technician: str
    at: datetime
