"""Review: completions to read, one completion in full, what the field made of an incident type."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from reedling.core.evidence.departures import Departure, departures
from reedling.core.evidence.outcomes import FIXED_FIRST_TIME, FirstTimeFix, first_time_fix
from reedling.core.evidence.revision_outcomes import OutcomeChange, outcome_change
from reedling.core.evidence.steps import StepEvidence, StepRecord, step_evidence
from reedling.core.guidance.catalogue import Part
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.revisions import letter_rank
from reedling.core.runsheet.job import OrderState, replay
from reedling.core.statistics.summaries import Spread, spread
from reedling.errors import Conflict, NotFound
from reedling.services.context import Context
from reedling.services.current import current_revision
from reedling.services.read_orders import OrderLine, OrderPage, order_line, page_of
from reedling.services.symptoms import relation_of
from reedling.services.take_orders import need_order
from reedling.store.records import OrderHeading, Person, heading_of
from reedling.store.unit import Unit

CLOSED: tuple[OrderState, ...] = ("Finished", "Reviewed")


@dataclass(frozen=True, slots=True, kw_only=True)
class InboxRow:
    """A completion to read, with how far it departed from its plan."""

    line: OrderLine
    n_departures: int
    n_findings: int
    n_visits: int
    minutes_on_site: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CompletionPage:
    """A completion in full."""

    page: OrderPage
    departures: tuple[Departure, ...]
    minutes_on_site: float
    cause: str
    remedy: str
    parts_used: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class JobDot:
    """One job behind the figures."""

    order: str
    asset: str
    technician: str
    finished_at: datetime
    minutes_on_site: float
    n_visits: int
    fixed_first_time: bool | None
    revisions: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StepRow:
    """A step as written now, beside what the field made of it."""

    document: str
    step: str
    text: str
    phase: str
    planned_minutes: float
    evidence: StepEvidence | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Evidence:
    """What the field made of an incident type. Minutes are on site, over all visits of a job."""

    document: str
    title: str
    n_jobs: int
    first_job: datetime | None
    last_job: datetime | None
    fixed_first_time: FirstTimeFix
    definition: str
    minutes_on_site: Spread | None
    planned_minutes: float | None
    steps: tuple[StepRow, ...]
    jobs: tuple[JobDot, ...]
    revisions: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class RevisionOutcomes:
    """The jobs of two revisions, and whether the newer did better."""

    older: Evidence
    newer: Evidence
    change: OutcomeChange


def inbox(context: Context) -> tuple[InboxRow, ...]:
    """Finished jobs that nobody has read yet, newest first."""
    with context.store.reading() as unit:
        names, lists = unit.people.names(), unit.catalogues.get()
        rows = []
        for order in unit.orders.find(states=("Finished",)):
            job = replay(unit.orders.events(order.id))
            found = departures(order.runsheet, job)
            rows.append(
                InboxRow(
                    line=order_line(heading_of(order), names, lists),
                    n_departures=len(found),
                    n_findings=sum(d.kind in ("out of limit", "finding") for d in found),
                    n_visits=len(job.visits),
                    minutes_on_site=sum(v.minutes_on_site or 0 for v in job.visits),
                )
            )
        return tuple(sorted(rows, key=lambda r: r.line.finished_at or r.line.logged_at, reverse=True))


def completion(context: Context, order_id: str) -> CompletionPage:
    """A completion in full, with what differed from the plan."""
    with context.store.reading() as unit:
        order = need_order(unit, order_id)
        page = page_of(unit, order)
        if not page.job.visits:
            raise NotFound("completions.none", f"nobody has worked on {order_id} yet.")
        lists = unit.catalogues.get()
        causes = {c.code: c.label for c in lists.causes}
        remedies = {r.code: r.label for r in lists.remedies}
        parts = {p.code: p for p in lists.parts}
        return CompletionPage(
            page=page,
            departures=departures(order.runsheet, page.job, parts),
            minutes_on_site=sum(v.minutes_on_site or 0 for v in page.job.visits),
            cause=causes.get(page.job.cause or "", page.job.cause or ""),
            remedy=remedies.get(page.job.remedy or "", page.job.remedy or ""),
            parts_used=tuple(
                parts.get(used.part, Part(code=used.part, name=used.part)).amount(used.quantity)
                for used in page.job.parts
            ),
        )


def mark_reviewed(context: Context, person: Person, order_id: str, note: str) -> None:
    """Note that a finished job was read."""
    with context.store.writing() as unit:
        order = need_order(unit, order_id)
        if order.state != "Finished":
            raise Conflict("orders.state", f"it is {order.state.lower()}, not finished.", where=order_id)
        unit.orders.save(
            replace(
                order,
                state="Reviewed",
                reviewed_at=context.clock(),
                reviewed_by=person.id,
                review_note=note.strip(),
            )
        )


def evidence(
    context: Context, document: str, *, plan: str | None = None, revision: str | None = None
) -> Evidence:
    """What the field made of an incident type.

    With ``revision``, only jobs whose runsheet holds a plan of the incident type (or ``plan``,
    when named) at that revision count.
    """
    with context.store.reading() as unit:
        return _evidence(context, unit, document, plan, revision)


def compare_outcomes(context: Context, document: str, plan: str, older: str, newer: str) -> RevisionOutcomes:
    """What the jobs of two revisions of a plan came to."""
    with context.store.reading() as unit:
        before = _evidence(context, unit, document, plan, older)
        after = _evidence(context, unit, document, plan, newer)
        change = outcome_change(before.fixed_first_time.share, after.fixed_first_time.share)
        return RevisionOutcomes(older=before, newer=after, change=change)


def _evidence(
    context: Context, unit: Unit, document: str, plan: str | None, revision: str | None
) -> Evidence:
    current = current_revision(unit, document, ("incident type",)).content
    assert isinstance(current, IncidentType)
    plans = (plan,) if plan else current.plans
    orders = {o.id: o for o in unit.orders.headings(states=CLOSED, incident_type=document)}
    seen = {s.revision for o in orders.values() for s in o.sources if s.document in plans}
    if revision is not None:
        wanted = {(p, revision) for p in plans}
        orders = {
            k: o for k, o in orders.items() if any((s.document, s.revision) in wanted for s in o.sources)
        }
    outcomes = [o for _, o in unit.orders.outcomes()]
    fix = first_time_fix(
        [o for o in outcomes if o.order in orders],
        outcomes,
        now=context.clock(),
        related=relation_of(unit.catalogues.get()),
    )
    records = [r for r in unit.orders.step_records(document, CLOSED) if r.order in orders]
    jobs = _dots(unit, document, list(orders.values()), fix)
    finished = [j.finished_at for j in jobs]
    return Evidence(
        document=document,
        title=current.title,
        n_jobs=len(jobs),
        first_job=min(finished, default=None),
        last_job=max(finished, default=None),
        fixed_first_time=fix,
        definition=FIXED_FIRST_TIME,
        minutes_on_site=spread([j.minutes_on_site for j in jobs]),
        planned_minutes=_median_planned(records),
        steps=_step_rows(unit, current, records),
        jobs=jobs,
        revisions=tuple(sorted(seen, key=letter_rank)),
    )


def evidence_csv(context: Context, document: str) -> str:
    """The step evidence of an incident type as CSV (RFC 4180), minutes to a tenth."""
    found = evidence(context, document)
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(
        [
            "document",
            "step",
            "text",
            "phase",
            "planned_min",
            "taken_median_min",
            "taken_low_quartile_min",
            "taken_high_quartile_min",
            "jobs_timed",
            "jobs_wanted",
            "jobs_done",
            "jobs_skipped",
            "readings",
            "out_of_limit",
        ]
    )
    for row in found.steps:
        e = row.evidence
        taken = e.taken if e else None
        writer.writerow(
            [
                row.document,
                row.step,
                row.text,
                row.phase,
                row.planned_minutes,
                *(
                    [round(taken.median, 1), round(taken.low_quartile, 1), round(taken.high_quartile, 1)]
                    if taken
                    else ["", "", ""]
                ),
                taken.count if taken else 0,
                e.wanted.n_hits if e else 0,
                e.done.n_hits if e else 0,
                e.n_skipped if e else 0,
                e.out_of_limit.n_total if e else 0,
                e.out_of_limit.n_hits if e else 0,
            ]
        )
    return out.getvalue()


def _dots(unit: Unit, document: str, orders: Sequence[OrderHeading], fix: FirstTimeFix) -> tuple[JobDot, ...]:
    names = unit.people.names()
    trips = unit.orders.trips(document, CLOSED)
    fixed, not_fixed = set(fix.fixed), set(fix.not_fixed)
    out = []
    for order in orders:
        if order.finished_at is None:
            continue
        visits = replay(trips.get(order.id, ())).visits
        out.append(
            JobDot(
                order=order.id,
                asset=f"{order.asset.name}, {order.asset.site.name}",
                technician=names.get(order.technician or "", ""),
                finished_at=order.finished_at,
                minutes_on_site=sum(v.minutes_on_site or 0 for v in visits),
                n_visits=len(visits),
                fixed_first_time=True if order.id in fixed else False if order.id in not_fixed else None,
                revisions=", ".join(f"{s.document} {s.revision}" for s in order.sources),
            )
        )
    return tuple(sorted(out, key=lambda j: j.finished_at, reverse=True))


def _step_rows(unit: Unit, incident: IncidentType, records: Sequence[StepRecord]) -> tuple[StepRow, ...]:
    found = step_evidence(records)
    rows = []
    for document in incident.plans:
        plan = unit.documents.content_of(document)
        if not isinstance(plan, Plan):
            continue
        rows += [
            StepRow(
                document=document,
                step=step.id,
                text=step.text,
                phase=step.phase,
                planned_minutes=step.minutes.likely,
                evidence=found.get((document, step.id)),
            )
            for step in plan.steps
        ]
    return tuple(rows)


def _median_planned(records: Sequence[StepRecord]) -> float | None:
    """Median over jobs of the likely minutes of the steps each job turned out to want."""
    planned: dict[str, float] = {}
    for record in records:
        if record.wanted:
            planned[record.order] = planned.get(record.order, 0) + record.planned_minutes
    summary = spread(list(planned.values()))
    return summary.median if summary else None
