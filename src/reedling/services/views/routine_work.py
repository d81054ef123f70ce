"""What was to be done on routine visits and was not: by kind of work, by visit, district and month."""

from __future__ import annotations

import csv
import io
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from reedling.core.evidence.routine_work import (
    WORK_STATES,
    RoutineChoices,
    RoutineFacet,
    RoutineVisit,
    RoutineWork,
    StateCounts,
    WorkState,
    count_states,
    counts_by,
    in_time,
    is_chosen,
    routine_work,
    visit_work_state,
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
    """Routine work that is_chosen the choices; each facet counts what is_chosen the choices in the others."""

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
    """What became of routine work, as far as it is_chosen the choices."""
    now = context.clock()
    with context.reading() as unit:
        visits = unit.routine_visits.with_work()
        pieces = routine_work(visits, now)
        met = [one for one in pieces if is_chosen(one, chosen)]
        titles = {heading.document: heading.title for heading in unit.documents.headings()}
        by_visit = {one.visit.order: one.visit for one in met}
        states = count_states(
            visit_work_state(visit, day_on_site(visit.site, now)) for visit in by_visit.values()
        )

        def along(facet: RoutineFacet, words: Mapping[str, str] | None = None) -> tuple[WorkCounts, ...]:
            return tuple(
                WorkCounts(value=value, label=(words or {}).get(value, value), counts=counts)
                for value, counts in counts_by(pieces, facet, chosen).items()
            )

        return RoutinePage(
            definition=DEFINITION,
            visits=states,
            visits_in_time=in_time(states),
            work=count_states(one.state for one in met),
            incident_types=along("incident_type", titles),
            districts=along("district"),
            months=along("month"),
            kinds=_kinds(unit, pieces, chosen),
        )


def _kinds(unit: Unit, pieces: Sequence[RoutineWork], chosen: RoutineChoices) -> tuple[KindOfWork, ...]:
    met = [one for one in pieces if is_chosen(one, chosen, but="work")]
    latest = {one.value("work"): one for one in met}
    words = _words(unit, latest)
    reasons: dict[str, Counter[str]] = {value: Counter() for value in latest}
    for one in met:
        if one.state == "skipped":
            reasons[one.value("work")][one.piece.skip_reason] += 1
    kinds = [
        KindOfWork(
            value=value,
            document=latest[value].piece.document,
            step=latest[value].piece.step,
            text=words[value][0],
            phase=words[value][1],
            counts=counts,
            in_time=in_time(counts),
            reasons=tuple(GivenReason(reason=r, n=n) for r, n in reasons[value].most_common()),
        )
        for value, counts in counts_by(met, "work", {}).items()
    ]
    return tuple(sorted(kinds, key=lambda kind: (-_n_not_in_time(kind), phase_rank(kind.phase), kind.value)))


def _n_not_in_time(kind: KindOfWork) -> int:
    return kind.in_time.n_total - kind.in_time.n_hits


def _words(unit: Unit, latest: Mapping[str, RoutineWork]) -> dict[str, tuple[str, Phase]]:
    """Wording and phase of each kind of work, as the order that was due last was issued with."""
    sheets = {
        order: found.runsheet.lines
        for order in {one.visit.order for one in latest.values()}
        if (found := unit.orders.get(order)) is not None
    }
    return {
        value: next(
            (line.text, line.phase)
            for line in sheets[one.visit.order]
            if (line.document, line.step) == (one.piece.document, one.piece.step)
        )
        for value, one in latest.items()
    }


def piece_lines(
    context: Context, chosen: RoutineChoices, state: WorkState | None, *, offset: int = 0, limit: int = 50
) -> PieceLines:
    """The pieces of work behind a count: those that meet the choices and are in a state, or in any."""
    with context.reading() as unit:
        met = _met(context, unit, chosen, state)
        shown = met[offset : offset + limit]
        words = _words(unit, {one.value("work"): one for one in reversed(met)})
        names = {placed.asset.code: placed.asset.name for placed in unit.register.assets()}
        return PieceLines(total=len(met), lines=tuple(_line(one, words, names) for one in shown))


def routine_csv(context: Context, chosen: RoutineChoices) -> str:
    """Every piece of routine work that is_chosen the choices as CSV (RFC 4180), the latest last day first."""
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
        words = _words(unit, {one.value("work"): one for one in reversed(met)})
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
        for visit in unit.routine_visits.all()
        if visit_work_state(visit, day_on_site(visit.site, now)) == "overdue"
    )


def _met(context: Context, unit: Unit, chosen: RoutineChoices, state: WorkState | None) -> list[RoutineWork]:
    pieces = routine_work(unit.routine_visits.with_work(), context.clock())
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
