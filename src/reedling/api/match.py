"""Match: which plans an order would get, and why."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from reedling.api.access import Ctx, OfficePerson
from reedling.services import take_orders
from reedling.services.take_orders import Matched
from reedling.store.records import Asset

router = APIRouter(prefix="/api", tags=["match"])


class Trial(BaseModel):
    """An order to try."""

    asset: str
    symptom: str


@router.get("/assets")
def assets(_person: OfficePerson, context: Ctx) -> list[Asset]:
    """All assets, by site and name."""
    return list(take_orders.assets(context))


@router.post("/match/try")
def try_order(trial: Trial, _person: OfficePerson, context: Ctx) -> Matched:
    """What this order would get today; nothing is kept."""
    return take_orders.try_order(context, trial.asset, trial.symptom)
