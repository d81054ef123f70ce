"""What is really wrong with the rest of the plant: calls and routine visits of the demo's wider library. Invented."""

from __future__ import annotations

from dataclasses import replace

from reedling.standins.field_truth import HEAT, Kind
from reedling.standins.wider.gates import HUNTS, OVER_TORQUE, YEARLY
from reedling.standins.wider.power_and_control import RUN_FAILED, SILENT, STARTER_FAULT
from reedling.standins.wider.pumping import HOT, LOW_FLOW, SEAL_LEAK, WEEKLY
from reedling.standins.wider.screening import CHAIN_OFF, SEASON_START, WILL_NOT_PARK

WIDER_KINDS: tuple[Kind, ...] = (
    WILL_NOT_PARK,
    CHAIN_OFF,
    SEAL_LEAK,
    LOW_FLOW,
    SILENT,
    HUNTS,
    OVER_TORQUE,
    RUN_FAILED,
    STARTER_FAULT,
    replace(HOT, season=HEAT),
)
"""Calls of the wider library; their weights are shares of all calls."""

WIDER_ROUTINES: tuple[tuple[Kind, int], ...] = ((SEASON_START, 24), (YEARLY, 10), (WEEKLY, 60))
"""Routine visits of the wider library, with how many of each lie in the history."""
