"""Shapes that several routers answer with."""

from __future__ import annotations

from pydantic import BaseModel, Field


class Identity(BaseModel):
    """The identity of what was made."""

    id: str


class ReviewNote(BaseModel):
    """Words that go with sending or giving back."""

    note: str = Field(default="", max_length=2000)
