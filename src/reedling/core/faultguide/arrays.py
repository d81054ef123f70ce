"""A fault guide as arrays, for what goes through many orders of work."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from reedling.core.faultguide.guides import FaultGuide

Vector = np.ndarray
"""One number for each cause, in the order of the guide."""


@dataclass(frozen=True, slots=True, kw_only=True)
class GuideArrays:
    """The figures of a guide: ``chances`` of the causes, ``yes`` checks by causes, ``fixes`` remedies by causes, and
    minutes: of each check, of each remedy with its parts and its proof, and of the last resort."""

    chances: Vector
    yes: np.ndarray
    fixes: np.ndarray
    check_minutes: tuple[float, ...]
    repair_minutes: Vector
    last_resort_minutes: float


def arrays_of(guide: FaultGuide) -> GuideArrays:
    """The figures of a guide as arrays."""
    n = len(guide.causes)
    return GuideArrays(
        chances=np.asarray(guide.chances, dtype=float),
        yes=np.asarray([c.yes for c in guide.checks], dtype=float).reshape(len(guide.checks), n),
        fixes=np.asarray([r.fixes for r in guide.repairs], dtype=float).reshape(len(guide.repairs), n),
        check_minutes=tuple(c.minutes for c in guide.checks),
        repair_minutes=np.asarray(guide.repair_minutes, dtype=float),
        last_resort_minutes=guide.last_resort_minutes,
    )


def bits_in(yes: np.ndarray, chances: Vector) -> Vector:
    """As :func:`reedling.core.faultguide.guides.bits`, from the chances of yes, checks by causes."""
    told: Vector = _entropies(yes @ chances) - _entropies(yes) @ chances
    return told


def _entropies(p: np.ndarray) -> np.ndarray:
    """Entropy in bits of yes or no, for each chance of yes."""
    with np.errstate(divide="ignore", invalid="ignore"):
        terms = -(p * np.log2(p) + (1 - p) * np.log2(1 - p))
    out: np.ndarray = np.where((p <= 0) | (p >= 1), 0.0, terms)
    return out
