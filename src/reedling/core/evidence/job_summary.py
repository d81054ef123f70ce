"""One finished job in short: what lists and figures show of it, worked out from its record once."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime

from reedling.core.evidence.customers_said import tone_score
from reedling.core.evidence.departures import departures
from reedling.core.evidence.doubtful_times import (
    ANY_TIME,
    Bounds,
    doubtful_finish,
    plausible_minutes_on_site,
)
from reedling.core.evidence.getting_there import (
    VisitMade,
    farthest_arrival,
    plausible_minutes_of_travel,
    visits_made,
)
from reedling.core.evidence.order_kept import OutOfTurn, order_kept, without_repeat
from reedling.core.evidence.outcomes import is_working_visit
from reedling.core.evidence.steps import StepRecord
from reedling.core.guidance.questions import Computed, OneOf, Reading, YesNo
from reedling.core.logic.conditions import Answer
from reedling.core.register.assets import Site
from reedling.core.runsheet.job_runs import job_run
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.lines import Runsheet


@dataclass(frozen=True, slots=True, kw_only=True)
class TakenReading:
    """A number that a job read or worked out: its question as written, the repeat it was for, and the value.

    ``value`` is in the question's own unit; ``out`` says that it lay outside its limits.
    """

    question: str
    each: str
    value: float
    out: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class JobSummary:
    """A finished job in short.

    ``working_visits`` are those on which work could be done (:func:`is_working_visit`),
    ``minutes_on_site`` those of all visits, nothing where times of one cannot be; ``doubtful_finish``
    says so of ``finished_at``, and ``known_at`` is then when it was received. ``planned_minutes`` are the
    likely minutes of the steps it turned out to want (nothing where it wanted none). ``sources`` are the documents of its runsheet with their revisions, ``answers`` what was
    answered last to each question, ``parts`` how much of each part it took. ``technician`` is
    whose order it was last, ``n_helped`` counts the help threads that were kept, ``n_beside`` what was
    recorded beside the steps, ``rating`` is the customer's from 1 to 5,
    ``fix_confirmed`` says that a technician marked the fix it was coded with as found by past fixes, ``return_reasons`` are those
    of visits that needed another one, in their order, ``readings`` the numbers it read or worked
    out, ``choices`` what was chosen of yes or no and one of, by the question as written, or by a check of its
    fault guide. ``order_kept`` is how far it kept to the order of its runsheet (:func:`order_kept`), ``out_of_turn`` what was
    out of turn, without repeats. ``tried`` are remedies of a fault guide, with the guide and whether they helped.
    Of the findings ``n_out_of_limit`` are by limits; ``n_parts_unplanned`` counts the parts of which more was used than
    planned, ``n_long`` and ``n_hasty`` the steps that took long, or next to no time (:mod:`reedling.core.evidence.haste`).
    ``tone`` is that of the customer's comment, from -1 to 1, where there is one. ``travel_minutes`` are those of all visits,
    ``arrived_km_off`` is how far from the site the farthest arrival was that is noted, ``visits`` tell ways
    (:mod:`reedling.core.evidence.getting_there`).
    """

    order: str
    incident_type: str
    asset: str
    symptom: str
    finished_at: datetime
    n_visits: int
    working_visits: int
    minutes_on_site: float | None
    planned_minutes: float | None
    n_departures: int
    n_findings: int
    sources: tuple[tuple[str, str], ...]
    answers: Mapping[str, Answer]
    parts: Mapping[str, float]
    doubtful_finish: bool
    known_at: datetime
    model: str = ""
    district: str = ""
    technician: str = ""
    logged_at: datetime | None = None
    cause: str = ""
    remedy: str = ""
    n_helped: int = 0
    n_beside: int = 0
    rating: int | None = None
    fix_confirmed: bool = False
    return_reasons: tuple[str, ...] = ()
    readings: tuple[TakenReading, ...] = ()
    choices: tuple[tuple[str, str], ...] = ()
    tried: tuple[tuple[str, str, bool], ...] = ()
    order_kept: float | None = None
    out_of_turn: tuple[OutOfTurn, ...] = ()
    n_out_of_limit: int = 0
    n_parts_unplanned: int = 0
    n_long: int = 0
    n_hasty: int = 0
    tone: float | None = None
    travel_minutes: float | None = None
    arrived_km_off: float | None = None
    visits: tuple[VisitMade, ...] = ()


def summarise_job(
    runsheet: Runsheet,
    job: Job,
    records: Iterable[StepRecord],
    *,
    order: str,
    incident_type: str,
    asset: str,
    symptom: str,
    model: str = "",
    technician: str = "",
    site: Site = Site(),
    bounds: Bounds = ANY_TIME,
) -> JobSummary:
    """The summary of a finished job; ``records`` are what it says of its steps."""
    assert job.finished_at is not None
    found = departures(runsheet, job, bounds=bounds)
    n_of = Counter(d.kind for d in found)
    customer = job.beside.customer
    doubtful = doubtful_finish(job, bounds)
    guide = runsheet.guide
    planned = [r.planned_minutes for r in records if r.wanted]
    kept = order_kept(job_run(runsheet, job), job)
    return JobSummary(
        order=order,
        incident_type=incident_type,
        asset=asset,
        symptom=symptom,
        finished_at=job.finished_at,
        n_visits=len(job.visits),
        working_visits=sum(is_working_visit(v) for v in job.visits),
        minutes_on_site=plausible_minutes_on_site(job, bounds),
        planned_minutes=sum(planned) if planned else None,
        n_departures=len(found),
        n_findings=n_of["out of limit"] + n_of["finding"],
        sources=tuple(dict.fromkeys((s.document, s.revision) for s in runsheet.sources)),
        answers=job.answers,
        parts=_parts(job),
        doubtful_finish=doubtful,
        known_at=(bounds.received_at if doubtful else None) or job.finished_at,
        model=model,
        district=site.district,
        technician=technician,
        logged_at=bounds.logged_at,
        cause=job.cause or "",
        remedy=job.remedy or "",
        n_helped=sum(thread.kept is True for thread in job.help.values()),
        n_beside=job.beside.n_recorded,
        rating=customer.rating if customer else None,
        fix_confirmed=any(
            m.helped and (m.cause, m.remedy) == (job.cause, job.remedy) for m in job.beside.fixes
        ),
        return_reasons=tuple(v.reason for v in job.visits if v.reason is not None),
        readings=_readings(runsheet, job),
        choices=(*_choices(runsheet, job), *_seen(runsheet, job)),
        order_kept=kept.fitness,
        out_of_turn=tuple(
            dict.fromkeys(
                replace(one, line=without_repeat(one.line), other=without_repeat(one.other))
                for one in kept.out_of_turn
            )
        ),
        tried=tuple((guide.document, r, did) for r, did in job.beside.guided.tried.items()) if guide else (),
        n_out_of_limit=n_of["out of limit"],
        n_parts_unplanned=n_of["part not planned"],
        n_long=n_of["took long"],
        n_hasty=n_of["took next to no time"],
        tone=tone_score(customer.comment) if customer and customer.comment.strip() else None,
        travel_minutes=plausible_minutes_of_travel(job, bounds),
        arrived_km_off=farthest_arrival(job, site),
        visits=visits_made(job, site, technician, bounds),
    )


def _readings(runsheet: Runsheet, job: Job) -> tuple[TakenReading, ...]:
    run = job_run(runsheet, job)
    out = {f.question for f in run.progress.findings if f.by == "limit"}
    return tuple(
        TakenReading(question=q.id.split("@", 1)[0], each=line.each, value=float(value), out=q.id in out)
        for line in run.lines
        for q in line.questions
        if isinstance(q, Reading | Computed)
        and isinstance(value := run.standing.known.get(q.id), int | float)
        and not isinstance(value, bool)
    )


def _choices(runsheet: Runsheet, job: Job) -> tuple[tuple[str, str], ...]:
    run = job_run(runsheet, job)
    out = []
    for line in run.lines:
        for q in line.questions:
            value = run.standing.known.get(q.id)
            if isinstance(q, YesNo) and isinstance(value, bool):
                out.append((q.id.split("@", 1)[0], "yes" if value else "no"))
            elif isinstance(q, OneOf) and isinstance(value, str):
                out.append((q.id.split("@", 1)[0], value))
    return tuple(dict.fromkeys(out))


def _seen(runsheet: Runsheet, job: Job) -> Iterable[tuple[str, str]]:
    """What was said of checks in the fault guide itself."""
    guide = runsheet.guide
    if guide is not None:
        for check, seen in job.beside.guided.seen.items():
            yield f"{guide.document}:{check}", "yes" if seen else "no"


def _parts(job: Job) -> dict[str, float]:
    out: dict[str, float] = {}
    for used in job.parts:
        out[used.part] = out.get(used.part, 0) + used.quantity
    return out
