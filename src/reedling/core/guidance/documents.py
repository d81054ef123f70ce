"""Authored documents as they are kept: revisions, edits of drafts, comments, pictures."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, Literal

from reedling.core.guidance.decision_tables import DecisionTable
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.revisions import DocumentKind, RevisionState

Content = IncidentType | Plan | DecisionTable
"""What a document says."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Revision:
    """One revision of a document. ``version`` rises with every saved edit of a draft."""

    document: str
    kind: DocumentKind
    letter: str
    state: RevisionState
    version: int
    content: Content
    created_at: datetime
    changed_at: datetime
    sent_by: str | None = None
    released_at: datetime | None = None
    released_by: str | None = None
    note: str = ""
    effective_on: date | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class RevisionHeading:
    """A revision by what it is called, without what it says."""

    document: str
    kind: DocumentKind
    letter: str
    state: RevisionState
    title: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RevisionStanding:
    """How a revision stands and came to, without what it says."""

    letter: str
    state: RevisionState
    changed_at: datetime
    released_at: datetime | None
    released_by: str | None
    note: str
    effective_on: date | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Edit:
    """One saved edit of a draft."""

    version: int
    at: datetime
    person: str
    summary: str
    patch: list[Any]
    inverse: list[Any]


Act = Literal["began", "copied", "sent", "gave back", "released", "took effect", "withdrew"]


@dataclass(frozen=True, slots=True, kw_only=True)
class RevisionAct:
    """One thing done to a revision as a whole."""

    letter: str
    at: datetime
    person: str
    act: Act
    note: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Comment:
    """Words about a place of a document: a step, a question, or (empty) the whole."""

    id: str
    document: str
    letter: str
    place: str
    text: str
    at: datetime
    person: str
    settled_at: datetime | None = None
    settled_by: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Illustration:
    """A picture that instructions show; with more than one frame it moves. ``id`` is its hash."""

    id: str
    title: str
    media_type: str
    width: int
    height: int
    n_frames: int
    added_at: datetime
    person: str | None = None
