"""Shapes that several routers answer with."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import AfterValidator, AwareDatetime, BaseModel, Field

FIRST_YEAR, LAST_YEAR = 2000, 2100


def _plannable(at: datetime) -> datetime:
    if not FIRST_YEAR <= at.year <= LAST_YEAR:
        raise ValueError(f"the year must be from {FIRST_YEAR} to {LAST_YEAR}")
    return at


PlannableInstant = Annotated[AwareDatetime, AfterValidator(_plannable)]
"""A time that somebody may plan for."""


class Identity(BaseModel):
    """The identity of what was made."""

    id: str


class ReviewNote(BaseModel):
    """Words that go with sending or giving back."""

    note: str = Field(default="", max_length=2000)
