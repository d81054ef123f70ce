"""How far the jobs of an incident type kept to the order of their runsheets, and where they went astray most often."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from reedling.core.evidence.jobs import WantedJobs
from reedling.core.evidence.order_kept import ORDER_KEPT, OutOfTurn
from reedling.core.guidance.phases import Phase
from reedling.core.statistics.intervals import Share, wilson_interval
from reedling.services.context import Context
from reedling.services.shared.current import need_incident_type
from reedling.store.unit import Unit

LEAST_ASTRAY = 3
"""Jobs that went astray alike before it is drawn: fewer are no habit."""
MOST_ASTRAY = 8
"""Ways of going astray that are drawn."""


@dataclass(frozen=True, slots=True, kw_only=True)
class StemLine:
    """A line of the runsheet as the latest job was issued with it: how many jobs asked for it, and how many left it undone."""

    line: str
    text: str
    phase: Phase
    n_wanted: int
    n_undone: int


@dataclass(frozen=True, slots=True, kw_only=True)
class WentAstray:
    """A line done out of turn, and the share of all jobs in which it was."""

    line: str
    other: str
    is_early: bool
    sentence: str
    share: Share


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderKeptPage:
    """How many jobs kept the order throughout, how far all of them kept it on average (from 0 to 1), and where not.

    ``astray`` holds the commonest ways of going astray that at least ``least_jobs`` took, ``n_other`` how many others
    there were.
    """

    definition: str
    throughout: Share
    mean: float | None
    stem: tuple[StemLine, ...]
    astray: tuple[WentAstray, ...]
    n_other: int
    least_jobs: int = LEAST_ASTRAY


def order_kept_page(context: Context, document: str, *, revision: str | None = None) -> OrderKeptPage:
    """How far the finished jobs of an incident type, or those issued with a revision of its plans, kept the order.

    Raises
    ------
    NotFound
        ``documents.unknown``.
    """
    with context.reading() as unit:
        plans = need_incident_type(unit, document).plans
        wanted = WantedJobs(
            incident_type=document, issued_with=(plans, revision) if revision is not None else None
        )
        return unit.kept_of_jobs(("order kept", wanted, tuple(plans)), lambda at: _order_kept(at, wanted))


def _order_kept(unit: Unit, wanted: WantedJobs) -> OrderKeptPage:
    n_jobs, n_throughout, mean = unit.job_figures.order_kept(wanted)
    found = unit.job_figures.out_of_turn(wanted)
    stem = _stem(unit, wanted)
    texts = {line.line: line.text for line in stem}
    drawn = [
        WentAstray(
            line=way.line,
            other=way.other,
            is_early=way.is_early,
            sentence=_sentence(way, texts),
            share=wilson_interval(n, n_jobs),
        )
        for way, n in found
        if n >= LEAST_ASTRAY and way.line in texts and way.other in texts
    ][:MOST_ASTRAY]
    return OrderKeptPage(
        definition=ORDER_KEPT,
        throughout=wilson_interval(n_throughout, n_jobs),
        mean=mean,
        stem=stem,
        astray=tuple(drawn),
        n_other=len(found) - len(drawn),
    )


def _sentence(way: OutOfTurn, texts: Mapping[str, str]) -> str:
    return f"“{texts[way.line]}” {'before' if way.is_early else 'after'} “{texts[way.other]}”"


def _stem(unit: Unit, wanted: WantedJobs) -> tuple[StemLine, ...]:
    _, latest = unit.job_figures.jobs(wanted, offset=0, limit=1)
    order = unit.orders.get(latest[0].order) if latest else None
    if order is None:
        return ()
    lines = order.runsheet.lines
    documents = sorted({line.document for line in lines})
    counts = unit.job_figures.step_counts(wanted, documents)
    return tuple(
        StemLine(
            line=line.id,
            text=line.text,
            phase=line.phase,
            n_wanted=held.n_wanted if held else 0,
            n_undone=held.n_wanted - held.n_done if held else 0,
        )
        for line in lines
        for held in (counts.get((line.document, line.step)),)
    )
