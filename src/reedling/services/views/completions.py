"""Completions to read, and one completion in full."""

from __future__ import annotations

from dataclasses import dataclass

from reedling.core.evidence.departures import Departure, departures
from reedling.core.evidence.doubtful_times import plausible_minutes_on_site
from reedling.core.evidence.jobs import WantedJobs
from reedling.core.evidence.unusual import unusual
from reedling.core.guidance.catalogue import Part
from reedling.errors import NotFound
from reedling.services.context import Context
from reedling.services.shared.needed import need_order
from reedling.services.views.asked_back import AskedView, asked_about
from reedling.services.views.help import HelpView, help_views
from reedling.services.views.orders import OrderLine, OrderPage, bounds_of, order_line, page_of

PAGE = 50
"""Jobs on a page of them."""
MOST_RANKED = 2_000
"""Unread jobs that are ranked against each other."""


@dataclass(frozen=True, slots=True, kw_only=True)
class InboxRow:
    """A completion to read, with how far it departed from its plan."""

    line: OrderLine
    n_departures: int
    n_findings: int
    n_visits: int
    minutes_on_site: float | None
    score: float
    reasons: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class InboxPage:
    """A page of the completions to read, the most unusual first, out of ``total``; ``plain`` have nothing unusual."""

    total: int
    plain: tuple[str, ...]
    rows: tuple[InboxRow, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class CompletionPage:
    """A completion in full. ``minutes_on_site`` is nothing where times of a visit cannot be.

    ``help`` are the help threads that the technician did not throw away, ``asked`` what the office asked about it since.
    """

    page: OrderPage
    departures: tuple[Departure, ...]
    minutes_on_site: float | None
    cause: str
    remedy: str
    parts_used: tuple[str, ...]
    help: tuple[HelpView, ...]
    asked: tuple[AskedView, ...]


def inbox(context: Context, *, offset: int = 0, limit: int = PAGE) -> InboxPage:
    """Finished jobs that nobody has read yet: the most unusual first, of those alike the newest.

    Of more than :data:`MOST_RANKED` the newest are ranked.
    """
    now = context.clock()
    with context.reading() as unit:
        names, lists = unit.people.names(), unit.catalogues.get()
        total, unread = unit.job_figures.jobs(WantedJobs(unread=True), offset=0, limit=MOST_RANKED)
        ranked = sorted(((unusual(job), job) for job in unread), key=lambda pair: -pair[0].score)
        shown = ranked[offset : offset + limit]
        jobs = [job for _, job in shown]
        weighed = {job.order: found for found, job in shown}
        headings = unit.orders.headings_of([j.order for j in jobs])
        return InboxPage(
            total=min(total, len(ranked)),
            plain=tuple(job.order for found, job in ranked if found.score == 0),
            rows=tuple(
                InboxRow(
                    line=order_line(headings[job.order], names, lists, now),
                    n_departures=job.n_departures,
                    n_findings=job.n_findings,
                    n_visits=job.n_visits,
                    minutes_on_site=job.minutes_on_site,
                    score=weighed[job.order].score,
                    reasons=weighed[job.order].reasons,
                )
                for job in jobs
            ),
        )


def completion(context: Context, order_id: str) -> CompletionPage:
    """A completion in full, with what differed from the plan."""
    with context.reading() as unit:
        order = need_order(unit, order_id)
        page = page_of(unit, order, context.clock())
        if not page.job.visits:
            raise NotFound("completions.none", f"nobody has worked on {order_id} yet.")
        lists = unit.catalogues.get()
        causes = {c.code: c.label for c in lists.causes}
        remedies = {r.code: r.label for r in lists.remedies}
        parts = {p.code: p for p in lists.parts}
        bounds = bounds_of(unit, order)
        return CompletionPage(
            page=page,
            departures=departures(order.runsheet, page.job, parts, bounds=bounds),
            minutes_on_site=plausible_minutes_on_site(page.job, bounds),
            cause=causes.get(page.job.cause or "", page.job.cause or ""),
            remedy=remedies.get(page.job.remedy or "", page.job.remedy or ""),
            parts_used=tuple(
                parts.get(used.part, Part(code=used.part, name=used.part)).amount(used.quantity)
                for used in page.job.parts
            ),
            help=tuple(view for view in help_views(unit, order, page.job) if view.kept is not False),
            asked=asked_about(unit, order_id),
        )
