"""Authored documents as they are kept: revisions, edits of drafts, comments, pictures."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, Literal

from reedling.core.guidance.decision_tables import DecisionTable, documents_of
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import references
from reedling.core.guidance.revisions import DocumentKind, RevisionState
from reedling.core.guidance.written_guides import WrittenGuide, plans_linked

Content = IncidentType | Plan | DecisionTable | WrittenGuide
"""What a document says."""


UNRELEASED_STATES: tuple[RevisionState, ...] = ("Draft", "In review")
"""A revision is being written or reviewed, and no order has it."""

OPEN_REVISION_STATES: tuple[RevisionState, ...] = (*UNRELEASED_STATES, "On trial")
"""A revision is being written, reviewed or tried; a document has at most one such."""

LIVE_STATES: tuple[RevisionState, ...] = (*OPEN_REVISION_STATES, "Released")
"""A revision is being written or in force: what it refers to is in use."""


def documents_named(content: Content) -> tuple[str, ...]:
    """Every document that this content refers to, each once.

    Plans and forms refer to standard steps and forms, incident types to plans and forms, decision
    tables to all of them, fault guides to their incident type and plans.
    """
    match content:
        case Plan():
            named: Iterable[str] = references(content)
        case DecisionTable():
            named = documents_of(content)
        case IncidentType():
            named = (*content.plans, *content.forms)
        case WrittenGuide():
            named = (*([content.incident_type] if content.incident_type else ()), *plans_linked(content))
    return tuple(dict.fromkeys(named))


def at_hand(states: Sequence[RevisionState]) -> int:
    """Which of a document's revisions, oldest first, is to be worked on: open, else in force, else the newest.

    >>> at_hand(["Superseded", "Released", "Draft"]), at_hand(["Superseded", "Released"]), at_hand(["Withdrawn"])
    (2, 1, 0)
    """
    for wanted in (OPEN_REVISION_STATES, ("Released",)):
        for number, state in enumerate(states):
            if state in wanted:
                return number
    return len(states) - 1


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
    """The state of a revision and how it got there, without its content; ``released_by`` is a name."""

    letter: str
    state: RevisionState
    changed_at: datetime
    released_at: datetime | None
    released_by: str | None
    note: str
    effective_on: date | None


@dataclass(frozen=True, slots=True, kw_only=True)
class DocumentAtHand:
    """A document with its revisions, oldest first, and the one to work on."""

    kind: DocumentKind
    standings: tuple[RevisionStanding, ...]
    revision: Revision


@dataclass(frozen=True, slots=True, kw_only=True)
class Edit:
    """One saved edit of a draft."""

    version: int
    at: datetime
    person: str
    summary: str
    patch: list[Any]
    inverse: list[Any]


Act = Literal["began", "copied", "sent", "gave back", "put on trial", "released", "took effect", "withdrew"]


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
