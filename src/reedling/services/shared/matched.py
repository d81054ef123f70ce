"""What an order gets: every document with its reason, and the runsheet they make."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime
from types import MappingProxyType

from reedling.core.guidance.decision_tables import PRIORITIES
from reedling.core.guidance.documents import Revision
from reedling.core.guidance.incident_types import OrderTerms, terms_of
from reedling.core.matching.applicability import (
    KEPT_TRACES,
    Match,
    MatchTrace,
    match_order,
    trace_rows,
)
from reedling.core.matching.order_facts import OrderFacts, facts_by_name
from reedling.core.orders.orders import Order, last_day
from reedling.core.people import Person
from reedling.core.register.assets import PlacedAsset
from reedling.core.runsheet.lines import Runsheet
from reedling.errors import InvalidInput
from reedling.services.shared.composing import compose
from reedling.services.shared.guidance_in_force import Readied, facts_now, guidance_in_force
from reedling.services.shared.guides import order_guide
from reedling.services.shared.needed import need_asset
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderToMatch:
    """An order as it comes in.

    ``incident_type`` and ``priority`` are empty where nobody said them, ``without`` are documents to
    leave out, and ``day`` is today unless another is given.
    """

    asset: str
    symptom: str
    incident_type: str = ""
    priority: str = ""
    day: date | None = None
    without: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Matched:
    """What an order for an asset gets: every document with its reason, and the runsheet they compose.

    Of the rows that did not match, the nearest are told of in ``trace``; there are ``n_rows``.
    """

    placed: PlacedAsset
    incident_type: str | None
    incident_type_revision: str | None
    incident_type_title: str
    facts: OrderFacts
    match: Match
    trace: tuple[MatchTrace, ...]
    n_rows: int
    runsheet: Runsheet
    terms: OrderTerms


def match_asked(
    unit: Unit,
    asked: OrderToMatch,
    now: datetime,
    *,
    report: str = "",
    drafts: Sequence[Revision] = (),
    keep: int = KEPT_TRACES,
    facts: OrderFacts | None = None,
    ready: Readied | None = None,
    tried: Mapping[str, Revision] = MappingProxyType({}),
) -> Matched:
    """What an order gets by what is in force; ``facts`` are those it was matched on before, where it was.

    ``ready`` is what is in force, where that is known already; ``tried`` are revisions on trial that it gets instead, by
    document.
    """
    placed = need_asset(unit, asked.asset)
    ready = ready or guidance_in_force(unit, instead=drafts)
    _check(asked, ready)
    as_now = facts_now(
        unit,
        placed,
        asked.symptom,
        at=now,
        day=asked.day,
        incident_type=asked.incident_type,
        priority=asked.priority,
    )
    facts = facts or as_now
    match = match_order(ready.guidance, facts, without=asked.without)
    incident = unit.documents.released(match.incident_type) if match.incident_type else None
    content = ready.guidance.incident_types.get(match.incident_type or "")
    taken = [tried.get(t.document) or ready.revisions[t.document] for t in match.taken]
    sheet = compose(
        unit,
        taken,
        placed.asset,
        facts_by_name(as_now, placed, report=report),
        after=ready.guidance.after,
        shared=ready.shared,
    )
    guide = order_guide(unit, match.incident_type, now.date()) if match.incident_type else None
    traced = facts if facts.incident_type else replace(facts, incident_type=match.incident_type or "")
    return Matched(
        placed=placed,
        incident_type=match.incident_type,
        incident_type_revision=incident.letter if incident else None,
        incident_type_title=content.title if content else "",
        facts=facts,
        match=match,
        trace=trace_rows(ready.guidance, traced, keep=keep),
        n_rows=len(ready.guidance.rows),
        runsheet=replace(sheet, guide=guide) if guide is not None else sheet,
        terms=terms_of(content) if content else OrderTerms(),
    )


def as_logged(
    matched: Matched,
    asked: OrderToMatch,
    *,
    identity: str,
    report: str,
    at: datetime,
    person: Person,
) -> Order:
    """The order that comes in, with all that it was matched to, as it stands before anybody plans it."""
    return Order(
        id=identity,
        asset=matched.placed.asset,
        site=matched.placed.site,
        symptom=asked.symptom,
        report=report.strip(),
        incident_type=matched.incident_type,
        incident_type_revision=matched.incident_type_revision,
        runsheet=matched.runsheet,
        trace=matched.trace,
        logged_at=at,
        logged_by=person.id,
        state="Logged",
        matched_on=matched.facts,
        terms=matched.terms,
        priority=asked.priority,
        due_on=last_day(matched.terms, matched.placed.site, at),
    )


def _check(asked: OrderToMatch, ready: Readied) -> None:
    if asked.symptom not in {s.code for s in ready.lists.symptoms}:
        raise InvalidInput(
            "orders.symptom", f"there is no symptom {asked.symptom}.", hint="Choose one from the list."
        )
    if asked.incident_type and asked.incident_type not in ready.guidance.incident_types:
        raise InvalidInput(
            "orders.incident_type",
            f"no incident type {asked.incident_type} is in force.",
            hint="Choose one from the list.",
        )
    if asked.priority and asked.priority not in PRIORITIES:
        raise InvalidInput(
            "orders.priority",
            f"there is no priority {asked.priority}.",
            hint=f"Say one of {', '.join(PRIORITIES)}.",
        )
