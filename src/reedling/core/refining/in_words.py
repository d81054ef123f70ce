"""Figures of proposals in words."""

from __future__ import annotations

from reedling.core.logic.conditions import number_text
from reedling.core.statistics.intervals import Share
from reedling.core.statistics.resampling import Ranged


def rounded_minutes(minutes: float) -> float:
    """Minutes as they are told: to a tenth below ten, else whole."""
    return round(minutes, 1) if minutes < 10 else float(round(minutes))


def in_range(found: Ranged) -> str:
    """Minutes with their range."""
    value, low, high = (number_text(rounded_minutes(x)) for x in (found.value, found.low, found.high))
    return f"{value} ({low}–{high})"


def share_in_words(share: Share, of: str = "job") -> str:
    """A share in percent with its range and of how many jobs, or other things."""
    low, high = round(share.low * 100), round(share.high * 100)
    return f"{round((share.share or 0) * 100)} % ({low}–{high}) of {_so_many(share.n_total, of)}"


def so_many_jobs(n: int) -> str:
    """So many jobs."""
    return _so_many(n, "job")


def _so_many(n: int, of: str) -> str:
    return f"1 {of}" if n == 1 else f"{n} {of}s"
