"""What was to be done on routine visits, and what became of it: by piece of work, and by visit.

A piece of work is one step that a visit wants, with all its repeats. It is held against the last day on which the visit
is done in time. Work that a visit may still turn out to want counts once it is wanted. Days are those on site.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Literal, TypeVar, get_args

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


def is_chosen(one: RoutineWork, chosen: RoutineChoices) -> bool:
    """Whether a piece of work meets every choice."""
    return all(one.value(facet) == value for facet, value in chosen.items())


RoutineCell = tuple[str, str, str, str]
"""Where a piece of work stands in every facet, in the order of :data:`ROUTINE_FACETS`."""


@dataclass(frozen=True, slots=True, kw_only=True)
class RoutineCells:
    """Routine work counted by cell, so that it is narrowed without going over every piece again.

    ``pieces`` counts the work itself, ``visits`` the visits that want it, as a whole; ``visits_of_any`` counts visits by
    cell without their work. ``reasons`` counts those for leaving work out, ``latest`` gives, by kind of work, the last day and
    order of the visit that was due last. ``orders`` are all that is counted.
    """

    pieces: Mapping[RoutineCell, Counter[WorkState]]
    visits: Mapping[RoutineCell, Counter[WorkState]]
    visits_of_any: Mapping[RoutineCell, Counter[WorkState]]
    reasons: Mapping[RoutineCell, Counter[str]]
    latest: Mapping[str, tuple[date, str]]
    orders: frozenset[str]


def cells_of(visits: Iterable[tuple[RoutineVisit, Sequence[PieceOfWork]]], now: datetime) -> RoutineCells:
    """Visits with the work that they want, counted as they stand now."""
    pieces: defaultdict[RoutineCell, Counter[WorkState]] = defaultdict(Counter)
    wanting: defaultdict[RoutineCell, Counter[WorkState]] = defaultdict(Counter)
    of_any: defaultdict[RoutineCell, Counter[WorkState]] = defaultdict(Counter)
    reasons: defaultdict[RoutineCell, Counter[str]] = defaultdict(Counter)
    latest: dict[str, tuple[date, str]] = {}
    orders = set()
    for visit, works in visits:
        orders.add(visit.order)
        today = day_on_site(visit.site, now)
        as_whole = visit_work_state(visit, today)
        if works:
            of_any[visit.incident_type, visit.site.district, month_of(visit), ""][as_whole] += 1
        for piece in works:
            one = RoutineWork(visit=visit, piece=piece, state=work_state(piece, visit, today))
            cell = (visit.incident_type, visit.site.district, month_of(visit), one.value("work"))
            pieces[cell][one.state] += 1
            wanting[cell][as_whole] += 1
            if one.state == "skipped":
                reasons[cell][piece.skip_reason] += 1
            latest[cell[3]] = max(latest.get(cell[3], (visit.due_on, "")), (visit.due_on, visit.order))
    return RoutineCells(
        pieces=pieces,
        visits=wanting,
        visits_of_any=of_any,
        reasons=reasons,
        latest=latest,
        orders=frozenset(orders),
    )


def together(first: RoutineCells, second: RoutineCells) -> RoutineCells:
    """The counts over both; no order is in both."""
    return RoutineCells(
        pieces=_sum(first.pieces, second.pieces),
        visits=_sum(first.visits, second.visits),
        visits_of_any=_sum(first.visits_of_any, second.visits_of_any),
        reasons=_sum(first.reasons, second.reasons),
        latest={
            work: max(cells.latest[work] for cells in (first, second) if work in cells.latest)
            for work in {**first.latest, **second.latest}
        },
        orders=first.orders | second.orders,
    )


_Counted = TypeVar("_Counted", WorkState, str)


def _sum(
    first: Mapping[RoutineCell, Counter[_Counted]], second: Mapping[RoutineCell, Counter[_Counted]]
) -> Mapping[RoutineCell, Counter[_Counted]]:
    out: defaultdict[RoutineCell, Counter[_Counted]] = defaultdict(Counter)
    for counts in (first, second):
        for cell, held in counts.items():
            out[cell].update(held)
    return out


def _in(cell: RoutineCell, chosen: RoutineChoices, but: RoutineFacet | None = None) -> bool:
    places = dict(zip(ROUTINE_FACETS, cell, strict=True))
    return all(places[facet] == value for facet, value in chosen.items() if facet != but)


def counts_by(cells: RoutineCells, facet: RoutineFacet, chosen: RoutineChoices) -> dict[str, StateCounts]:
    """Counts of work for each value of a facet where the other facets meet the choices, in the order of values."""
    place = ROUTINE_FACETS.index(facet)
    found: defaultdict[str, Counter[WorkState]] = defaultdict(Counter)
    for cell, counts in cells.pieces.items():
        if _in(cell, chosen, facet):
            found[cell[place]].update(counts)
    return {value: _total([found[value]]) for value in sorted(found)}


def work_counts(cells: RoutineCells, chosen: RoutineChoices) -> StateCounts:
    """Counts of the work that meets the choices."""
    return _total(counts for cell, counts in cells.pieces.items() if _in(cell, chosen))


def visit_counts(cells: RoutineCells, chosen: RoutineChoices) -> StateCounts:
    """Counts of the visits with work that meets the choices."""
    counted = cells.visits if "work" in chosen else cells.visits_of_any
    return _total(counts for cell, counts in counted.items() if _in(cell, chosen))


def reasons_for(cells: RoutineCells, chosen: RoutineChoices) -> Counter[str]:
    """The reasons for leaving work out that meets the choices, with how often each was given."""
    found: Counter[str] = Counter()
    for cell, reasons in cells.reasons.items():
        if _in(cell, chosen):
            found.update(reasons)
    return found


def _total(counts: Iterable[Counter[WorkState]]) -> StateCounts:
    found: Counter[WorkState] = Counter()
    for held in counts:
        found.update(held)
    return {state: found[state] for state in WORK_STATES}
