"""The six phases of a site job; they order a runsheet, so nobody types order numbers."""

from __future__ import annotations

from typing import Literal

Phase = Literal["Arrive", "Make safe", "Diagnose", "Put right", "Prove", "Leave"]

PHASES: tuple[Phase, ...] = ("Arrive", "Make safe", "Diagnose", "Put right", "Prove", "Leave")
"""The phases in the order a job goes through them."""


def phase_rank(phase: Phase) -> int:
    """Position of the phase in a job, from 0 for Arrive."""
    return PHASES.index(phase)
