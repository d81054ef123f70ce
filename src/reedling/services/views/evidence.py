"""What the field made of an incident type, and the jobs behind each figure."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from reedling.core.evidence.cross_filter import strata_of
from reedling.core.evidence.getting_there import WAY
from reedling.core.evidence.jobs import JobLine, WantedJobs
from reedling.core.evidence.order_kept import OutOfTurn
from reedling.core.evidence.outcomes import FIXED_FIRST_TIME, settled_by
from reedling.core.evidence.revision_gains import YEAR, RevisionGain, revision_gain
from reedling.core.evidence.revision_outcomes import OutcomeChange, outcome_change
from reedling.core.evidence.steps import StepEvidence, evidence_of
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan
from reedling.core.guidance.revisions import letter_rank
from reedling.core.register.assets import asset_words
from reedling.core.statistics.intervals import Share, wilson_interval
from reedling.core.statistics.summaries import Spread
from reedling.exchange.csv_cells import cell_of
from reedling.services.context import Context
from reedling.services.shared.current import need_incident_type
from reedling.services.shared.job_columns import job_columns
from reedling.services.views.completions import PAGE
from reedling.store.job_figures import NO_JOBS
from reedling.store.unit import Unit


@dataclass(frozen=True, slots=True, kw_only=True)
class JobDot:
    """One job behind the figures; ``doubtful`` where the time of its finish cannot be."""

    order: str
    asset: str
    technician: str
    finished_at: datetime
    doubtful: bool
    minutes_on_site: float | None
    travel_minutes: float | None
    km: float | None
    n_visits: int
    fixed_first_time: bool | None
    revisions: str


@dataclass(frozen=True, slots=True, kw_only=True)
class JobsPage:
    """A page of the jobs behind a figure, the latest finish first, out of ``total``."""

    total: int
    jobs: tuple[JobDot, ...]


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
    """What the field made of an incident type. Minutes, on site and of travel, are over all visits of a job.

    ``way_km`` is in kilometres, as ``way_definition`` says; ``n_arrived_off_site`` jobs have an arrival away from their site.

    ``n_doubtful`` finished jobs are not counted as fixed or not because their times cannot be.
    """

    document: str
    title: str
    n_jobs: int
    first_job: datetime | None
    last_job: datetime | None
    fixed_first_time: Share
    n_too_young: int
    n_doubtful: int
    definition: str
    minutes_on_site: Spread | None
    planned_minutes: float | None
    travel_minutes: Spread | None
    way_km: Spread | None
    way_definition: str
    n_arrived_off_site: int
    steps: tuple[StepRow, ...]
    revisions: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class RevisionOutcomes:
    """The jobs of two revisions, and whether the newer did better."""

    older: Evidence
    newer: Evidence
    change: OutcomeChange
    gain: RevisionGain


def evidence(
    context: Context, document: str, *, plan: str | None = None, revision: str | None = None
) -> Evidence:
    """What the field made of an incident type.

    With ``revision``, only jobs whose runsheet holds a plan of the incident type (or ``plan``,
    when named) at that revision count.
    """
    with context.reading() as unit:
        return _evidence(context, unit, document, plan, revision)


def compare_outcomes(context: Context, document: str, plan: str, older: str, newer: str) -> RevisionOutcomes:
    """The outcomes of the jobs of two revisions of a plan."""
    with context.reading() as unit:
        before = _evidence(context, unit, document, plan, older)
        after = _evidence(context, unit, document, plan, newer)
        columns = job_columns(unit, document, (plan,))
        sides = (f"{plan} {older}", f"{plan} {newer}")
        strata = strata_of(
            columns,
            "revision",
            *sides,
            alike=("model", "symptom"),
            settled_by=settled_by(context.clock()),
        )
        change = outcome_change(before.fixed_first_time, after.fixed_first_time, strata)
        gain = revision_gain(columns, *sides, year_from=context.clock() - YEAR)
        return RevisionOutcomes(older=before, newer=after, change=change, gain=gain)


def jobs_behind(
    context: Context,
    document: str,
    *,
    revision: str | None = None,
    step: tuple[str, str] | None = None,
    out_of_turn: OutOfTurn | None = None,
    offset: int = 0,
    limit: int = PAGE,
) -> JobsPage:
    """The finished jobs of an incident type: all, of one revision, those that wanted a step, or did one out of turn.

    ``step`` is a document and the identity of a step of it.
    """
    now = context.clock()
    with context.reading() as unit:
        issued = (need_incident_type(unit, document).plans, revision) if revision is not None else None
        wanted = WantedJobs(incident_type=document, issued_with=issued, step=step, out_of_turn=out_of_turn)
        total, jobs = unit.job_figures.jobs(wanted, offset=offset, limit=limit)
        return JobsPage(total=total, jobs=job_dots(unit, jobs, now))


def _evidence(
    context: Context, unit: Unit, document: str, plan: str | None, revision: str | None
) -> Evidence:
    current = need_incident_type(unit, document)
    plans = (plan,) if plan else current.plans
    wanted = WantedJobs(
        incident_type=document, issued_with=(tuple(plans), revision) if revision is not None else None
    )
    n_fixed, n_settled, n_too_young, n_doubtful = unit.job_figures.first_time(
        settled_by(context.clock()), wanted
    ).get(document, NO_JOBS)
    figures = unit.kept_of_jobs(
        ("figures of jobs", wanted, tuple(plans), current.plans),
        lambda at: _figures(at, wanted, plans, current.plans),
    )
    return Evidence(
        document=document,
        title=current.title,
        n_jobs=figures.n_jobs,
        first_job=figures.first_job,
        last_job=figures.last_job,
        fixed_first_time=wilson_interval(n_fixed, n_settled),
        n_too_young=n_too_young,
        n_doubtful=n_doubtful,
        definition=FIXED_FIRST_TIME,
        minutes_on_site=figures.minutes_on_site,
        planned_minutes=figures.planned_minutes,
        travel_minutes=figures.travel_minutes,
        way_km=figures.way_km,
        way_definition=WAY,
        n_arrived_off_site=figures.n_arrived_off_site,
        steps=_step_rows(unit, current, figures.steps),
        revisions=figures.revisions,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Figures:
    """What rests on finished jobs alone, whatever is being written and whatever day it is."""

    n_jobs: int
    first_job: datetime | None
    last_job: datetime | None
    minutes_on_site: Spread | None
    planned_minutes: float | None
    travel_minutes: Spread | None
    way_km: Spread | None
    n_arrived_off_site: int
    steps: Mapping[tuple[str, str], StepEvidence]
    revisions: tuple[str, ...]


def _figures(unit: Unit, wanted: WantedJobs, plans: Sequence[str], all_plans: Sequence[str]) -> _Figures:
    """``plans`` are those whose revisions tell jobs apart, ``all_plans`` those whose steps are told."""
    assert wanted.incident_type is not None
    figures = unit.job_figures
    n_jobs, first, last = figures.span(wanted)
    planned = figures.planned_minutes(wanted)
    return _Figures(
        n_jobs=n_jobs,
        first_job=first,
        last_job=last,
        minutes_on_site=figures.minutes_on_site(wanted),
        planned_minutes=planned.median if planned else None,
        travel_minutes=figures.travel_minutes(wanted),
        way_km=figures.ways(wanted),
        n_arrived_off_site=figures.n_arrived_off_site(wanted),
        steps={
            (plan, step): evidence_of(plan, step, held, figures.minutes_of(wanted, plan, step))
            for (plan, step), held in figures.step_counts(wanted, all_plans).items()
        },
        revisions=tuple(sorted(figures.revisions_seen(wanted.incident_type, plans), key=letter_rank)),
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
            "jobs_of_doubtful_times",
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
                cell_of(row.text),
                row.phase,
                row.planned_minutes,
                *(
                    [round(taken.median, 1), round(taken.low_quartile, 1), round(taken.high_quartile, 1)]
                    if taken
                    else ["", "", ""]
                ),
                taken.count if taken else 0,
                e.n_doubtful if e else 0,
                e.wanted.n_hits if e else 0,
                e.done.n_hits if e else 0,
                e.n_skipped if e else 0,
                e.out_of_limit.n_total if e else 0,
                e.out_of_limit.n_hits if e else 0,
            ]
        )
    return out.getvalue()


def job_dots(unit: Unit, jobs: Sequence[JobLine], now: datetime) -> tuple[JobDot, ...]:
    """Jobs as they stand behind a figure."""
    names = unit.people.names()
    headings = unit.orders.headings_of([j.order for j in jobs])
    latest = settled_by(now)
    return tuple(
        JobDot(
            order=job.order,
            asset=asset_words(order.asset, order.site),
            technician=names.get(order.technician or "", ""),
            finished_at=job.finished_at,
            doubtful=job.doubtful_finish,
            minutes_on_site=job.minutes_on_site,
            travel_minutes=job.travel_minutes,
            km=job.km,
            n_visits=job.n_visits,
            fixed_first_time=job.fixed if job.finished_at <= latest and not job.doubtful_finish else None,
            revisions=", ".join(f"{s.document} {s.revision}" for s in order.sources),
        )
        for job in jobs
        if (order := headings[job.order])
    )


def _step_rows(
    unit: Unit, incident: IncidentType, figures: Mapping[tuple[str, str], StepEvidence]
) -> tuple[StepRow, ...]:
    rows = []
    for plan in incident.plans:
        content = unit.documents.content_of(plan)
        if not isinstance(content, Plan):
            continue
        for step in content.steps:
            rows.append(
                StepRow(
                    document=plan,
                    step=step.id,
                    text=step.text,
                    phase=step.phase,
                    planned_minutes=step.minutes.likely,
                    evidence=figures.get((plan, step.id)),
                )
            )
    return tuple(rows)
