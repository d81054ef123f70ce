"""Shapes that several routers answer with."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any

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


Offset = Annotated[int, Query(ge=0, le=1_000_000, description="How many of the list to pass over.")]
Limit = Annotated[int, Query(ge=1, le=200, description="How many to give at the most; `total` counts all.")]
"""Lists that may be long come in pages by these two; logs, which grow while they are read, by ``before``."""

TAGGED: dict[int | str, dict[str, Any]] = {
    200: {
        "headers": {
            "ETag": {
                "description": "What If-Match names when this is changed.",
                "required": True,
                "schema": {"type": "string"},
            }
        }
    }
}
"""Said of routes whose answer can be changed: it carries the tag that the change names."""


class Identity(BaseModel):
    """The identity of what was made."""

    id: str


class ReviewNote(BaseModel):
    """Words that go with sending or giving back."""

    note: str = Field(default="", max_length=2000)
