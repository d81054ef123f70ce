"""The stand-in devices as a phone reaches them."""

from __future__ import annotations

import secrets
from typing import Annotated

from fastapi import APIRouter, Query, Response

from reedling.core.register.distances import Position
from reedling.standins.camera import take_picture

router = APIRouter(prefix="/standins", tags=["stand-ins"])


@router.get("/camera.jpg", response_class=Response)
def camera(of: Annotated[str, Query(max_length=200)] = "equipment", seed: int | None = None) -> Response:
    """A picture from the stand-in camera; it holds nothing but a drawing."""
    data = take_picture(of, seed=secrets.randbelow(1_000_000) if seed is None else seed)
    return Response(data, media_type="image/jpeg", headers={"Cache-Control": "no-store"})


@router.get("/position")
def position(east: float, north: float) -> Position:
    """The stand-in receiver: somewhere within about thirty metres of the point asked about."""
    rng = secrets.SystemRandom()
    return Position(east=east + rng.uniform(-3e-4, 3e-4), north=north + rng.uniform(-3e-4, 3e-4))
