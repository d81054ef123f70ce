"""What was to be done on routine visits and was not: by kind of work, by visit, district and month."""

from __future__ import annotations

import csv
import io
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from reedling.core.evidence.routine_work import (
    WORK_STATES,
    RoutineCells,
    RoutineChoices,
    RoutineFacet,
    RoutineVisit,
    RoutineWork,
    StateCounts,
    WorkState,
    cells_of,
    counts_by,
    in_time,
    is_chosen,
    reasons_for,
    routine_work,
    together,
    visit_counts,
    visit_work_state,
    work_counts,
)
from reedling.core.guidance.phases import Phase, phase_rank
from reedling.core.register.assets import day_on_site
from reedling.core.statistics.intervals import Share
from reedling.exchange.csv_cells import cell_of
from reedling.services.context import Context
from reedling.store.unit import Unit

DEFINITION = (
    "A piece of work is a step that a routine visit wants, with its repeats. It is done in time up to the visit's last "
    "day, late after it; left out where the technician gave a reason; missed where the visit was finished or cancelled "
    "without it; overdue where the last day has passed and it can still be done. Branches count once they are wanted."
)


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkCounts:
    """Pieces of work of one value of a facet, by what became of them."""

    value: str
    label: str
    counts: StateCounts


@dataclass(frozen=True, slots=True, kw_only=True)
class GivenReason:
    """A reason for leaving work out, and how often it was given."""

    reason: str
    n: int


@dataclass(frozen=True, slots=True, kw_only=True)
class KindOfWork:
    """A step over the routine visits that wanted it: where it is written, its wording as issued last, what became of it.

    ``in_time`` is the share done in time of what fell due, with its interval; ``reasons`` are those given for leaving it
    out, the commonest first.
    """

    value: str
    document: str
    step: str
    text: str
    phase: Phase
    counts: StateCounts
    in_time: Share
    reasons: tuple[GivenReason, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class RoutinePage:
    """Routine work that meets the choices; each facet counts what meets the choices in the others."""

    definition: str
    visits: StateCounts
    visits_in_time: Share
    work: StateCounts
    incident_types: tuple[WorkCounts, ...]
    districts: tuple[WorkCounts, ...]
    months: tuple[WorkCounts, ...]
    kinds: tuple[KindOfWork, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class PieceLine:
    """One piece of work behind a count."""

    order: str
    asset: str
    text: str
    due_on: date
    done_on: date | None
    state: WorkState
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PieceLines:
    """A page of pieces of work, the latest last day first, out of ``total``."""

    total: int
    lines: tuple[PieceLine, ...]


def routine_page(context: Context, chosen: RoutineChoices) -> RoutinePage:
    """What became of routine work, as far as it meets the choices."""
    with context.reading() as unit:
        cells = _counted(context, unit)
        titles = {heading.document: heading.title for heading in unit.documents.headings()}
        visits = visit_counts(cells, chosen)

        def along(facet: RoutineFacet, words: Mapping[str, str] | None = None) -> tuple[WorkCounts, ...]:
            return tuple(
                WorkCounts(value=value, label=(words or {}).get(value, value), counts=counts)
                for value, counts in counts_by(cells, facet, chosen).items()
            )

        return RoutinePage(
            definition=DEFINITION,
            visits=visits,
            visits_in_time=in_time(visits),
            work=work_counts(cells, chosen),
            incident_types=along("incident_type", titles),
            districts=along("district"),
            months=along("month"),
            kinds=_kinds(unit, cells, chosen),
        )


def _counted(context: Context, unit: Unit) -> RoutineCells:
    """All routine work. What was finished is counted once; orders finished since, and those not finished, are added."""
    now = context.clock()
    made = unit.kept_of_jobs(("routine work",), lambda at: cells_of(at.routine_visits.made(), now))
    since = unit.routine_visits.of_orders(unit.routine_visits.made_orders() - made.orders)
    return together(made, cells_of((*unit.routine_visits.not_made(), *since), now))


def _kinds(unit: Unit, cells: RoutineCells, chosen: RoutineChoices) -> tuple[KindOfWork, ...]:
    found = counts_by(cells, "work", chosen)
    words = _words(unit, {value: cells.latest[value][1] for value in found})
    kinds = []
    for value, counts in found.items():
        document, _, step = value.partition(":")
        reasons = reasons_for(cells, {**chosen, "work": value})
        kinds.append(
            KindOfWork(
                value=value,
                document=document,
                step=step,
                text=words[value][0],
                phase=words[value][1],
                counts=counts,
                in_time=in_time(counts),
                reasons=tuple(GivenReason(reason=r, n=n) for r, n in _commonest(reasons)),
            )
        )
    return tuple(sorted(kinds, key=lambda kind: (-_n_not_in_time(kind), phase_rank(kind.phase), kind.value)))


def _commonest(reasons: Counter[str]) -> list[tuple[str, int]]:
    return sorted(reasons.items(), key=lambda one: (-one[1], one[0]))


def _n_not_in_time(kind: KindOfWork) -> int:
    return kind.in_time.n_total - kind.in_time.n_hits


def _words(unit: Unit, issued: Mapping[str, str]) -> dict[str, tuple[str, Phase]]:
    """Wording and phase of each kind of work, as an order with it was issued."""
    sheets = {
        order: found.runsheet.lines
        for order in set(issued.values())
        if (found := unit.orders.get(order)) is not None
    }
    return {
        value: next(
            (line.text, line.phase) for line in sheets[order] if f"{line.document}:{line.step}" == value
        )
        for value, order in issued.items()
    }


def piece_lines(
    context: Context, chosen: RoutineChoices, state: WorkState | None, *, offset: int = 0, limit: int = 50
) -> PieceLines:
    """The pieces of work behind a count: those that meet the choices and are in a state, or in any."""
    with context.reading() as unit:
        met = _met(context, unit, chosen, state)
        shown = met[offset : offset + limit]
        words = _words(unit, {one.value("work"): one.visit.order for one in reversed(met)})
        names = {placed.asset.code: placed.asset.name for placed in unit.register.assets()}
        return PieceLines(total=len(met), lines=tuple(_line(one, words, names) for one in shown))


def routine_csv(context: Context, chosen: RoutineChoices) -> str:
    """Every piece of routine work that meets the choices as CSV (RFC 4180), the latest last day first."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(
        [
            "order",
            "incident_type",
            "asset",
            "site",
            "district",
            "document",
            "step",
            "text",
            "last_day",
            "done_on",
            "state",
            "reason",
        ]
    )
    with context.reading() as unit:
        met = _met(context, unit, chosen, None)
        words = _words(unit, {one.value("work"): one.visit.order for one in reversed(met)})
        for one in met:
            visit, piece = one.visit, one.piece
            writer.writerow(
                [
                    visit.order,
                    visit.incident_type,
                    visit.asset,
                    cell_of(visit.site.name),
                    cell_of(visit.site.district),
                    piece.document,
                    piece.step,
                    cell_of(words[one.value("work")][0]),
                    visit.due_on.isoformat(),
                    piece.done_on.isoformat() if piece.done_on else "",
                    one.state,
                    cell_of(piece.skip_reason),
                ]
            )
    return out.getvalue()


def overdue_visits(context: Context, unit: Unit) -> tuple[RoutineVisit, ...]:
    """Routine visits that are not done and whose last day has passed, the longest overdue first."""
    now = context.clock()
    return tuple(
        visit
        for visit in unit.routine_visits.not_made_by(now.date() + timedelta(days=1))
        if visit_work_state(visit, day_on_site(visit.site, now)) == "overdue"
    )


def _met(context: Context, unit: Unit, chosen: RoutineChoices, state: WorkState | None) -> list[RoutineWork]:
    document, _, step = chosen.get("work", "").partition(":")
    visits = unit.routine_visits.of_work(chosen.get("incident_type"), document, step)
    pieces = routine_work(visits, context.clock())
    met = [one for one in pieces if is_chosen(one, chosen) and state in (None, one.state)]
    met.sort(key=lambda one: (WORK_STATES.index(one.state), one.visit.order, one.value("work")))
    met.sort(key=lambda one: one.visit.due_on, reverse=True)
    return met


def _line(one: RoutineWork, words: Mapping[str, tuple[str, Phase]], names: Mapping[str, str]) -> PieceLine:
    return PieceLine(
        order=one.visit.order,
        asset=f"{names.get(one.visit.asset, one.visit.asset)}, {one.visit.site.name}",
        text=words[one.value("work")][0],
        due_on=one.visit.due_on,
        done_on=one.piece.done_on,
        state=one.state,
        reason=one.piece.skip_reason,
    )
