"""Shapes that several routers answer with."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from fastapi import Header, Query
from pydantic import AfterValidator, AwareDatetime, BaseModel, Field

FIRST_YEAR, LAST_YEAR = 2000, 2100


def _plannable(at: datetime) -> datetime:
    if not FIRST_YEAR <= at.year <= LAST_YEAR:
        raise ValueError(f"the year must be from {FIRST_YEAR} to {LAST_YEAR}")
    return at


PlannableInstant = Annotated[AwareDatetime, AfterValidator(_plannable)]
"""A time that somebody may plan for."""


IfMatch = Annotated[
    str,
    Header(
        description="The ETag of what is changed, as it was read: somebody else's change is not written over."
    ),
]

Begin = Annotated[
    bool, Query(description="Begin the next revision first, where the document has no draft; one action.")
]


class Identity(BaseModel):
    """The identity of what was made."""

    id: str


class ReviewNote(BaseModel):
    """Words that go with sending or giving back."""

    note: str = Field(default="", max_length=2000)
