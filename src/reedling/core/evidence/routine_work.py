"""What was to be done on routine visits, and what became of it: by piece of work, and by visit.

A piece of work is one step that a visit wants, with all its repeats. It is held against the last day on which the visit
is done in time. Work that a visit may still turn out to want counts once it is wanted. Days are those on site.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Literal, get_args

from reedling.core.orders.orders import is_overdue
from reedling.core.orders.states import NOT_COUNTED, takes_records
from reedling.core.register.assets import Site, day_on_site
from reedling.core.runsheet.job_state import OrderState
from reedling.core.statistics.intervals import Share, wilson_interval

WorkState = Literal["done", "done late", "skipped", "missed", "overdue", "to come"]
"""What became of a piece of work: done by the last day or after it, left out with a reason, left undone on a visit that was
finished or cancelled, still undone after the last day, or not yet due."""
WORK_STATES: tuple[WorkState, ...] = get_args(WorkState)


@dataclass(frozen=True, slots=True, kw_only=True)
class RoutineVisit:
    """An order of a routine visit as it stands; ``finished_on`` is the day its job was finished."""

    order: str
    incident_type: str
    asset: str
    site: Site
    state: OrderState
    due_on: date
    finished_on: date | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PieceOfWork:
    """A step of a routine visit that is wanted: whether and when it was done, or why it was left out."""

    document: str
    step: str
    done: bool
    done_on: date | None
    skipped: bool
    skip_reason: str


def work_state(piece: PieceOfWork, visit: RoutineVisit, today: date) -> WorkState:
    """What became of a piece of work by today.

    Work done on a day that is not known was done in time if the visit was finished in time, or is not finished.
    """
    if piece.done:
        day = piece.done_on or visit.finished_on
        return "done late" if day is not None and day > visit.due_on else "done"
    if piece.skipped:
        return "skipped"
    if not takes_records(visit.state):
        return "missed"
    return _undone(visit, today)


def visit_work_state(visit: RoutineVisit, today: date) -> WorkState:
    """What became of a visit as a whole: one that was cancelled is missed."""
    if visit.state == NOT_COUNTED:
        return "missed"
    if not takes_records(visit.state):
        late = visit.finished_on is not None and visit.finished_on > visit.due_on
        return "done late" if late else "done"
    return _undone(visit, today)


def _undone(visit: RoutineVisit, today: date) -> WorkState:
    return "overdue" if is_overdue(visit.state, visit.due_on, today) else "to come"


StateCounts = Mapping[WorkState, int]
"""How many pieces of work, or visits, are in each state; every state is there."""


def count_states(states: Iterable[WorkState]) -> StateCounts:
    """Counts of states, those that none is in with 0."""
    found = Counter(states)
    return {state: found[state] for state in WORK_STATES}


def in_time(counts: StateCounts) -> Share:
    """The share done in time of all that fell due, with its Wilson score interval.

    For visits, or for one kind of work that each visit wants once: several kinds of one visit depend on each other.
    """
    return wilson_interval(counts["done"], sum(counts.values()) - counts["to come"])


RoutineFacet = Literal["incident_type", "district", "month", "work"]
ROUTINE_FACETS: tuple[RoutineFacet, ...] = get_args(RoutineFacet)
RoutineChoices = Mapping[RoutineFacet, str]
"""What is looked at, by facet; a facet that is not given is not narrowed."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RoutineWork:
    """A piece of work with its visit and what became of it."""

    visit: RoutineVisit
    piece: PieceOfWork
    state: WorkState

    def value(self, facet: RoutineFacet) -> str:
        """Where it stands in a facet: a document, a district, a month as ``2026-03``, ``document:step``."""
        match facet:
            case "incident_type":
                return self.visit.incident_type
            case "district":
                return self.visit.site.district
            case "month":
                return month_of(self.visit)
            case "work":
                return f"{self.piece.document}:{self.piece.step}"


def month_of(visit: RoutineVisit) -> str:
    """The month in which a visit is due, as ``2026-03``."""
    return f"{visit.due_on:%Y-%m}"


def routine_work(
    visits: Iterable[tuple[RoutineVisit, Sequence[PieceOfWork]]], now: datetime
) -> tuple[RoutineWork, ...]:
    """Every piece of work of these visits with what became of it by now."""
    return tuple(
        RoutineWork(visit=visit, piece=piece, state=work_state(piece, visit, today))
        for visit, pieces in visits
        for today in (day_on_site(visit.site, now),)
        for piece in pieces
    )


def is_chosen(one: RoutineWork, chosen: RoutineChoices, *, but: RoutineFacet | None = None) -> bool:
    """Whether a piece of work meets every choice, leaving one facet aside."""
    return all(one.value(facet) == value for facet, value in chosen.items() if facet != but)


def counts_by(
    pieces: Sequence[RoutineWork], facet: RoutineFacet, chosen: RoutineChoices
) -> dict[str, StateCounts]:
    """Counts for each value of a facet over the work that meets the choices in all other facets, in the order of values."""
    states: dict[str, list[WorkState]] = {}
    for one in pieces:
        if is_chosen(one, chosen, but=facet):
            states.setdefault(one.value(facet), []).append(one.state)
    return {value: count_states(of_value) for value, of_value in sorted(states.items())}
