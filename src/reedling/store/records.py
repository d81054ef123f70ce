"""What the store gives back besides authored content: people, revisions, places, orders."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from reedling.core.guidance.revisions import RevisionState
from reedling.core.matching.applicability import MatchTrace
from reedling.core.runsheet.job import OrderState
from reedling.core.runsheet.lines import Runsheet
from reedling.exchange.content import Content, DocumentKind

Role = Literal["engineer", "approver", "planner", "technician"]
ROLES: tuple[Role, ...] = ("engineer", "approver", "planner", "technician")


@dataclass(frozen=True, slots=True, kw_only=True)
class Person:
    """Somebody who signs in. ``offered`` people are shown on the sign-in page of a demo."""

    id: str
    name: str
    role: Role
    username: str
    district: str = ""
    offered: bool = False


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


@dataclass(frozen=True, slots=True, kw_only=True)
class Edit:
    """One saved edit of a draft."""

    version: int
    at: datetime
    person: str
    summary: str
    patch: list[Any]
    inverse: list[Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class Site:
    """A place with assets; degrees east and north on the invented map."""

    id: str
    name: str
    district: str
    east: float
    north: float
    zone: str = "UTC"


@dataclass(frozen=True, slots=True, kw_only=True)
class Asset:
    """A thing that is maintained; codes of its class and model."""

    id: str
    name: str
    site: Site
    equipment: str
    model: str
    serial: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Order:
    """An order with the runsheet it was issued, as it stands."""

    id: str
    asset: Asset
    symptom: str
    report: str
    incident_type: str | None
    incident_type_revision: str | None
    runsheet: Runsheet
    trace: tuple[MatchTrace, ...]
    logged_at: datetime
    logged_by: str
    state: OrderState
    technician: str | None = None
    planned_for: datetime | None = None
    finished_at: datetime | None = None
    reviewed_at: datetime | None = None
    reviewed_by: str | None = None
    review_note: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Receipt:
    """What a device is told of its submission: the first time, and at every repeat."""

    submission: str
    order: str
    n_events: int
    state: OrderState
    received_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Picture:
    """A picture taken on site."""

    id: str
    sha256: str
    media_type: str
    width: int
    height: int
    taken_at: datetime
    person: str
    order: str
