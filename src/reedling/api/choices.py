"""The words that fields choose from, as the core has them: nothing here depends on what is stored."""

from __future__ import annotations

from typing import get_args

from pydantic import BaseModel

from reedling.api.access import Anyone
from reedling.api.guarded import guarded_router
from reedling.core.guidance.comparing import OFFERED
from reedling.core.guidance.decision_tables import PRIORITIES
from reedling.core.guidance.finish_rules import WEIGHTS, Weight
from reedling.core.guidance.phases import PHASES, Phase
from reedling.core.guidance.skills import LEVELS, Level
from reedling.core.logic.conditions import OPERATORS, Operator
from reedling.core.people import ROLES, Role
from reedling.core.runsheet.events import ReturnReason

router = guarded_router("/api/v1", "choices")


class OperatorChoice(BaseModel):
    """One operator as menus offer it: for which kinds of question, and whether its value is a set."""

    key: Operator
    words: str
    numeric: bool
    several: bool
    kinds: list[str]


class Choices(BaseModel):
    """What fields choose from, each in the order in which menus offer it; least urgent and least able first."""

    roles: list[Role]
    phases: list[Phase]
    levels: list[Level]
    usual_level: Level
    priorities: list[str]
    return_reasons: list[ReturnReason]
    finish_weights: list[Weight]
    operators: list[OperatorChoice]


@router.get("/choices")
def choices(_person: Anyone) -> Choices:
    """The words that fields choose from."""
    return Choices(
        roles=list(ROLES),
        phases=list(PHASES),
        levels=list(LEVELS),
        usual_level="Solo",
        priorities=list(PRIORITIES),
        return_reasons=list(get_args(ReturnReason)),
        finish_weights=list(WEIGHTS),
        operators=[
            OperatorChoice(
                key=row.key,
                words=row.words,
                numeric=row.numeric,
                several=row.several,
                kinds=[kind for kind, offered in OFFERED.items() if row.key in offered],
            )
            for row in OPERATORS.values()
        ],
    )
