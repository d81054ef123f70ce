"""What the store gives back besides authored content: people, revisions, places, orders."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date, datetime
from typing import Any, Literal

from reedling.core.guidance.incident_types import OrderTerms
from reedling.core.guidance.revisions import DocumentKind, RevisionState
from reedling.core.logic.conditions import Answer
from reedling.core.matching.applicability import MatchTrace
from reedling.core.matching.order_facts import OrderFacts
from reedling.core.runsheet.job import OrderState
from reedling.core.runsheet.lines import Runsheet, Source, always_minutes
from reedling.exchange.content import Content

Role = Literal["engineer", "approver", "planner", "technician"]
ROLES: tuple[Role, ...] = ("engineer", "approver", "planner", "technician")


@dataclass(frozen=True, slots=True, kw_only=True)
class Person:
    """Somebody who signs in. ``offered`` people are shown on the sign-in page of a demo.

    Somebody removed no longer signs in; what they did keeps their name.
    """

    id: str
    name: str
    role: Role
    username: str
    district: str = ""
    offered: bool = False
    administrator: bool = False
    removed_at: datetime | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class FailedSignIns:
    """Sign-ins with a wrong password since the last one that was right."""

    count: int
    last_at: datetime | None


ChangeSubject = Literal["list", "site", "asset", "order", "person", "draft"]
ChangeAct = Literal[
    "added",
    "changed",
    "removed",
    "planned",
    "cancelled",
    "reviewed",
    "thrown away",
    "password",
    "sessions ended",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """One change with who, when, before and after.

    ``key`` is the identity of what changed; for an entry of a list ``list/code``. ``batch`` joins what
    was changed at once. ``person`` is nobody where a command did it.
    """

    id: int = 0
    batch: str
    at: datetime
    person: str | None
    subject: ChangeSubject
    key: str
    act: ChangeAct
    before: Any = None
    after: Any = None
    note: str = ""


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


@dataclass(frozen=True, slots=True, kw_only=True)
class Site:
    """A place with assets; degrees east and north on the invented map."""

    id: str
    name: str
    district: str
    east: float
    north: float
    zone: str = "UTC"
    customer: str = ""
    tags: tuple[str, ...] = ()
    contract: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Asset:
    """A thing that is maintained; codes of its class and model, and its other fields by code."""

    id: str
    name: str
    site: Site
    equipment: str
    model: str
    serial: str
    fields: Mapping[str, Answer] = field(default_factory=dict)
    warranty_until: date | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class MeterState:
    """What one of an asset's meters read last."""

    asset: str
    meter: str
    value: float
    at: datetime
    order: str | None = None


NO_TERMS = OrderTerms()
"""What an order without an incident type took over."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Order:
    """An order with the runsheet it was issued, as it stands.

    ``matched_on`` is what was known of it when guidance was matched to it; its incident type is
    given only where somebody chose it. ``terms`` are what it took over from its incident type.
    """

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
    fields: Mapping[str, Answer] = field(default_factory=dict)
    matched_on: OrderFacts | None = None
    terms: OrderTerms = NO_TERMS
    priority: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderHeading:
    """What lists show of an order: everything but its runsheet and why it got it.

    ``planned_minutes`` are those its incident type expected when it was logged, else those of the
    steps that are always wanted.
    """

    id: str
    asset: Asset
    symptom: str
    report: str
    incident_type: str | None
    sources: tuple[Source, ...]
    logged_at: datetime
    state: OrderState
    technician: str | None
    planned_for: datetime | None
    finished_at: datetime | None
    planned_minutes: float
    priority: str


def heading_of(order: Order) -> OrderHeading:
    """What lists show of an order that was read in full."""
    return OrderHeading(
        id=order.id,
        asset=order.asset,
        symptom=order.symptom,
        report=order.report,
        incident_type=order.incident_type,
        sources=order.runsheet.sources,
        logged_at=order.logged_at,
        state=order.state,
        technician=order.technician,
        planned_for=order.planned_for,
        finished_at=order.finished_at,
        planned_minutes=order.terms.expected_minutes or always_minutes(order.runsheet),
        priority=order.priority,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class WantedOrders:
    """Which orders are asked about: those that meet all that is given.

    Each of ``words`` stands somewhere in an order: its identity, report, asset, site, district, technician
    or the label of its symptom, for which ``symptoms`` gives the labels by code.
    """

    states: tuple[OrderState, ...] = ()
    technician: str | None = None
    incident_type: str | None = None
    asset: str | None = None
    words: tuple[str, ...] = ()
    symptoms: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class WantedJobs:
    """Which finished jobs are asked about: those that meet all that is given.

    ``issued_with`` are documents and a revision of theirs, one of which the job was issued with;
    ``step`` is a document and a step that the job wanted; ``unread`` are those nobody has read.
    """

    incident_type: str | None = None
    issued_with: tuple[tuple[str, ...], str] | None = None
    step: tuple[str, str] | None = None
    unread: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class JobLine:
    """A finished job as lists show it."""

    order: str
    finished_at: datetime
    n_visits: int
    working_visits: int
    minutes_on_site: float | None
    n_departures: int
    n_findings: int
    fixed: bool
    doubtful_finish: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderInShort:
    """What matching needs of an order that came in; ``typed`` are the facts with the type it came to have."""

    id: str
    asset: str
    symptom: str
    incident_type: str | None
    logged_at: datetime
    state: OrderState
    priority: str
    matched_on: OrderFacts | None
    typed: OrderFacts | None


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderChange:
    """A document added to an order or taken off it by hand, with the reason."""

    order: str
    at: datetime
    person: str
    act: Literal["added", "removed"]
    document: str
    revision: str
    title: str
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Receipt:
    """What a device is told of its submission: the first time, and at every repeat."""

    submission: str
    order: str
    n_events: int
    state: OrderState
    received_at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class HeldReceipt:
    """A submission that was applied: who made it, the digest of its content (none of old ones), its receipt."""

    person: str
    digest: str
    receipt: Receipt


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
