"""Orders: what came in, what was issued for it, how it stands."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from typing import Literal

from reedling.core.guidance.incident_types import OrderTerms
from reedling.core.logic.conditions import Answer
from reedling.core.matching.applicability import MatchTrace
from reedling.core.matching.order_facts import OrderFacts
from reedling.core.orders.states import takes_records
from reedling.core.register.assets import Asset, Site, day_on_site
from reedling.core.runsheet.job_state import OrderState
from reedling.core.runsheet.lines import Runsheet, Source, always_minutes

NO_TERMS = OrderTerms()
"""The terms of an order without an incident type."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Order:
    """An order with the runsheet it was issued, as it stands.

    ``matched_on`` is what was known of it when guidance was matched to it; its incident type is
    given only where somebody chose it. ``terms`` are those of its incident type when it was logged.
    ``due_on`` is the last day, on site, on which a routine visit is done in time.
    """

    id: str
    asset: Asset
    site: Site
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
    due_on: date | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderHeading:
    """What lists show of an order: everything but its runsheet and why it got it.

    ``planned_minutes`` are those its incident type expected when it was logged, else those of the
    steps that are always wanted.
    """

    id: str
    asset: Asset
    site: Site
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
    fields: Mapping[str, Answer]
    due_on: date | None = None


def heading_of(order: Order) -> OrderHeading:
    """What lists show of an order that was read in full."""
    return OrderHeading(
        id=order.id,
        asset=order.asset,
        site=order.site,
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
        fields=order.fields,
        due_on=order.due_on,
    )


def last_day(terms: OrderTerms, site: Site, logged_at: datetime) -> date | None:
    """The last day, on site, on which an order with these terms is done in time; none where it is no routine visit."""
    if terms.due_within_days is None:
        return None
    return day_on_site(site, logged_at) + timedelta(days=terms.due_within_days)


def is_overdue(state: OrderState, due_on: date | None, today: date) -> bool:
    """Whether a visit can still be made and its last day has passed; ``today`` is the day on site."""
    return due_on is not None and takes_records(state) and today > due_on


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
class OrderInShort:
    """What matching needs of an order that came in; ``typed`` are the facts with the incident type it was given."""

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
