"""Match orders against a library pack, without a database."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.decision_tables import DecisionTable, earlier_of
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.reuse import references
from reedling.core.matching.applicability import (
    Guidance,
    Match,
    MatchTrace,
    guidance_of,
    match_order,
    trace_rows,
)
from reedling.core.matching.order_facts import OrderFacts
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Source
from reedling.errors import InvalidInput, Problem
from reedling.exchange.content import ORDER_FACTS, load_value
from reedling.exchange.library_pack import LibraryPack
from reedling.services.views.pack_checks import IN_FORCE, shared_in_pack


@dataclass(frozen=True, slots=True, kw_only=True)
class MatchedStep:
    """A step of the runsheet in short: where it is from, and who asked for it where several did."""

    phase: str
    text: str
    document: str
    step: str
    when: str
    asked_by: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class LibraryMatch:
    """What an order gets from a library, and why: the result, the steps, and every row's reason."""

    match: Match
    steps: tuple[MatchedStep, ...]
    trace: tuple[MatchTrace, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadyLibrary:
    """A pack made ready to be matched against."""

    guidance: Guidance
    plans: Mapping[str, tuple[str, Plan]]
    pack: LibraryPack


def ready_library(pack: LibraryPack) -> ReadyLibrary:
    """What of a pack is in force, ready for orders."""
    released = [(head, content) for head, content in pack.revisions if head.state == "Released"]
    plans = {h.document: (h.letter, c) for h, c in released if isinstance(c, Plan)}
    guidance = guidance_of(
        sorted((h.document, h.letter, c) for h, c in released if isinstance(c, DecisionTable)),
        ((d, letter, plan.applies_when) for d, (letter, plan) in sorted(plans.items())),
        lists=pack.catalogue,
        titles={d: plan.title for d, (_, plan) in plans.items()},
        incident_types={h.document: c for h, c in released if isinstance(c, IncidentType)},
        parts_of={d: tuple(references(plan)) for d, (_, plan) in plans.items()},
    )
    return ReadyLibrary(guidance=guidance, plans=plans, pack=pack)


def read_facts(data: Any, ready: ReadyLibrary, *, where: str) -> OrderFacts:
    """The facts of an order from its JSON.

    Raises
    ------
    InvalidInput
        ``content.invalid`` for what is no order, ``match.unknown`` for codes the library does not have.
    """
    facts = load_value(ORDER_FACTS, data, where=where)
    lists: Catalogue = ready.pack.catalogue
    asked = {
        "equipment": (facts.equipment, {c.code for c in lists.equipment}),
        "model": (facts.model, {m.code for m in lists.models}),
        "symptom": (facts.symptom, {s.code for s in lists.symptoms}),
        "incident_type": (facts.incident_type, set(ready.guidance.incident_types)),
    }
    problems = [
        Problem(
            code="match.unknown", path=f"/{name}", message=f"there is no {name.replace('_', ' ')} {code}."
        )
        for name, (code, known) in asked.items()
        if code and code not in known
    ]
    if problems:
        raise InvalidInput(
            "match.unknown",
            problems[0].message,
            where=where,
            hint="Use the library's codes.",
            problems=problems,
        )
    return facts


def match_in_library(ready: ReadyLibrary, facts: OrderFacts) -> LibraryMatch:
    """What an order gets, the steps in their order, and why."""
    match = match_order(ready.guidance, facts)
    # Rows are asked again once the incident type is chosen; their reasons are those of that asking.
    asked = facts if facts.incident_type else replace(facts, incident_type=match.incident_type or "")
    taken = [(t.document, *ready.plans[t.document]) for t in match.taken]
    sheet = compile_runsheet(
        ((Source(document=d, revision=letter, title=plan.title), plan) for d, letter, plan in taken),
        shared=shared_in_pack(ready.pack.revisions, IN_FORCE),
        after=earlier_of(ready.guidance.after),
    )
    return LibraryMatch(
        match=match,
        steps=tuple(
            MatchedStep(
                phase=line.phase,
                text=line.text,
                document=line.document,
                step=line.step,
                when=line.when,
                asked_by=line.asked_by,
            )
            for line in sheet.lines
        ),
        trace=trace_rows(ready.guidance, asked),
    )
