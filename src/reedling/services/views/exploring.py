"""All jobs of an incident type together: filters that cross, readings in time, how soon assets come back."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import partial

import numpy as np

from reedling.core.evidence.compared_jobs import JobsCompared, compare_jobs
from reedling.core.evidence.cross_filter import FACETS, CrossFiltered, Facet, cross_filter, meeting
from reedling.core.evidence.customers_said import CustomersSaid, customers_said
from reedling.core.evidence.getting_there import WAY
from reedling.core.evidence.kept_views import Choices
from reedling.core.evidence.outcomes import FIXED_FIRST_TIME, lasted, settled_by
from reedling.core.evidence.readings import KeptReading
from reedling.core.evidence.trust import TrustQuestion, trust_questions
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan, steps_and_questions
from reedling.core.guidance.questions import Computed, Reading
from reedling.core.guidance.reuse import fill_in
from reedling.core.people import Person
from reedling.core.statistics.control_charts import IndividualsChart, individuals_chart
from reedling.core.statistics.survival import SurvivalPoint, kaplan_meier, share_ended_by
from reedling.errors import InvalidInput, NotFound
from reedling.exchange.csv_cells import cell_of
from reedling.exchange.event_log import xes_of
from reedling.services.context import Context
from reedling.services.shared.current import need_incident_type
from reedling.services.shared.event_logs import logged_job
from reedling.services.shared.first_time import related_symptoms
from reedling.services.shared.job_columns import job_columns
from reedling.services.shared.needed import need_order
from reedling.services.shared.uses import shared_being_written
from reedling.services.views.evidence import JobDot, job_dots
from reedling.store.unit import Unit

BACK_WITHIN_DAYS = (30, 60, 90)
"""Days by which the curve of further orders is read off."""
MOST_LOGGED = 2_000
"""Jobs in an event log."""
MOST_ASKED_OF = 5_000
"""Finished jobs that are looked at for what is worth asking about; of more, the latest."""
MOST_CHARTED = 400
"""Readings on one chart; of more, the latest."""


@dataclass(frozen=True, slots=True, kw_only=True)
class JobsTogether:
    """The jobs that meet the choices, with their figures, the bars of every facet in words, and the latest of them.

    An event log holds the latest ``most_logged`` of them.
    """

    document: str
    title: str
    found: CrossFiltered
    words: Mapping[Facet, Mapping[str, str]]
    jobs: tuple[JobDot, ...]
    definition: str
    way_definition: str
    most_logged: int


@dataclass(frozen=True, slots=True, kw_only=True)
class AskedReading:
    """A question of which readings are kept: how many, in which unit, between which limits."""

    question: str
    label: str
    unit: str
    low: float | None
    high: float | None
    n: int
    n_out: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingDot:
    """One reading on a chart."""

    order: str
    asset: str
    each: str
    at: datetime
    value: float
    out: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingsChart:
    """The readings of one question in time, of all assets, one model or one asset, with the chart of them."""

    asked: tuple[AskedReading, ...]
    question: str
    models: tuple[str, ...]
    assets: tuple[str, ...]
    dots: tuple[ReadingDot, ...]
    chart: IndividualsChart | None


@dataclass(frozen=True, slots=True, kw_only=True)
class BackAgain:
    """How soon a further order with the same or a related symptom followed a finished job on the same asset.

    ``n`` jobs were watched; those with none yet are known to have lasted until now. ``within`` gives, by days, the
    share that came back and its interval.
    """

    n: int
    n_back: int
    points: tuple[SurvivalPoint, ...]
    within: Mapping[int, tuple[float, float, float]]


@dataclass(frozen=True, slots=True, kw_only=True)
class AskedOfCrew:
    """A question about somebody's readings or times, with the name of who took them."""

    technician: str
    asked: TrustQuestion


def jobs_together(
    context: Context, document: str, chosen: Mapping[Facet, Sequence[str]], *, limit: int = 50
) -> JobsTogether:
    """The finished jobs of an incident type that meet the choices.

    Raises
    ------
    NotFound
        ``documents.unknown``.
    """
    now = context.clock()
    with context.reading() as unit:
        incident = need_incident_type(unit, document)
        found = cross_filter(
            job_columns(unit, document, incident.plans),
            chosen,
            settled_by=settled_by(now),
            limit=limit,
        )
        return JobsTogether(
            document=document,
            title=incident.title,
            found=found,
            words=_words(unit),
            jobs=job_dots(unit, unit.job_figures.lines_of(found.orders), now),
            definition=FIXED_FIRST_TIME,
            way_definition=WAY,
            most_logged=MOST_LOGGED,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptViewLine:
    """A view that is kept, with who keeps it; ``mine`` is whether the one who asks does."""

    name: str
    choices: Choices
    by_name: str
    at: datetime
    mine: bool


def kept_views(context: Context, person: Person, document: str) -> tuple[KeptViewLine, ...]:
    """The views that are kept of an incident type's jobs, by name."""
    with context.reading() as unit:
        need_incident_type(unit, document)
        names = unit.people.names()
        return tuple(
            KeptViewLine(
                name=view.name,
                choices=view.choices,
                by_name=names.get(view.person, view.person),
                at=view.at,
                mine=view.person == person.id,
            )
            for view in unit.kept_views.of(document)
        )


def said_by_customers(
    context: Context, document: str, chosen: Mapping[Facet, Sequence[str]]
) -> CustomersSaid:
    """What the customers of the jobs that meet the choices said.

    Raises
    ------
    NotFound
        ``documents.unknown``.
    """
    with context.reading() as unit:
        columns = job_columns(unit, document, need_incident_type(unit, document).plans)
        orders = set(np.asarray(columns.orders, dtype=object)[meeting(columns, chosen)])
        words = unit.kept_of_jobs(
            ("customer words", document), lambda at: at.job_evidence.customer_words(document)
        )
        return customers_said(len(orders), (one for one in words if one.order in orders))


def jobs_compared(
    context: Context, document: str, chosen: Mapping[Facet, Sequence[str]], against: str
) -> JobsCompared:
    """The jobs that meet the choices against those of a kept view; without its name against all others.

    Raises
    ------
    NotFound
        ``documents.unknown``; ``kept_views.unknown`` for a view that is not kept.
    """
    with context.reading() as unit:
        incident = need_incident_type(unit, document)
        held = {view.name: view.choices for view in unit.kept_views.of(document)}
        if against and against not in held:
            raise NotFound("kept_views.unknown", "no view of that name is kept.", where=against)
        return compare_jobs(
            job_columns(unit, document, incident.plans),
            chosen,
            held.get(against),
            settled_by=settled_by(context.clock()),
        )


def jobs_together_csv(context: Context, document: str, chosen: Mapping[Facet, Sequence[str]]) -> str:
    """The jobs that meet the choices as CSV (RFC 4180), one a row."""
    page = jobs_together(context, document, chosen, limit=1_000_000)
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(
        [
            "order",
            "asset",
            "finished",
            "visits",
            "minutes_on_site",
            "minutes_of_travel",
            "way_km",
            "fixed_first_time",
            "revisions",
        ]
    )
    for job in page.jobs:
        writer.writerow(
            [
                job.order,
                cell_of(job.asset),
                job.finished_at.isoformat(),
                job.n_visits,
                *(
                    "" if figure is None else round(figure, 1)
                    for figure in (job.minutes_on_site, job.travel_minutes, job.km)
                ),
                "" if job.fixed_first_time is None else "yes" if job.fixed_first_time else "no",
                cell_of(job.revisions),
            ]
        )
    return out.getvalue()


def jobs_together_log(context: Context, document: str, chosen: Mapping[Facet, Sequence[str]]) -> str:
    """What was recorded on the jobs that meet the choices as an event log in XES; the latest :data:`MOST_LOGGED` jobs."""
    page = jobs_together(context, document, chosen, limit=MOST_LOGGED)
    with context.reading() as unit:
        orders = (need_order(unit, order) for order in page.found.orders)
        return "".join(
            xes_of(page.title, (logged_job(order, unit.recorded.events(order.id)) for order in orders))
        )


def readings_chart(
    context: Context, document: str, *, question: str = "", model: str = "", asset: str = ""
) -> ReadingsChart:
    """The readings of a question of an incident type's plans in time; the one with most readings unless named.

    Raises
    ------
    InvalidInput
        ``readings.question`` for a question of which there are no readings.
    """
    with context.reading() as unit:
        held = unit.job_evidence.readings(document)
        asked = _asked(unit, need_incident_type(unit, document), held)
        if question and question not in {a.question for a in asked}:
            raise InvalidInput("readings.question", f"there are no readings of {question}.", where=document)
        question = question or max(asked, key=lambda a: a.n).question if asked else ""
        of_question = [r for r in held if r.question == question]
        wanted = [
            r for r in of_question if (not model or r.model == model) and (not asset or r.asset == asset)
        ][-MOST_CHARTED:]
        return ReadingsChart(
            asked=asked,
            question=question,
            models=tuple(sorted({r.model for r in of_question})),
            assets=tuple(sorted({r.asset for r in of_question})),
            dots=tuple(
                ReadingDot(order=r.order, asset=r.asset, each=r.each, at=r.at, value=r.value, out=r.out)
                for r in wanted
            ),
            chart=individuals_chart([r.value for r in wanted]),
        )


def back_again(context: Context, document: str) -> BackAgain:
    """How soon assets come back after a job of an incident type.

    Raises
    ------
    NotFound
        ``documents.unknown``.
    """
    now = context.clock()
    with context.reading() as unit:
        need_incident_type(unit, document)
        outcomes, jobs = unit.job_evidence.watched(document)
        related = related_symptoms(unit)
    watched = lasted(outcomes, jobs, related, now=now)
    points = kaplan_meier([days for days, _ in watched], [is_back for _, is_back in watched])
    return BackAgain(
        n=len(watched),
        n_back=sum(is_back for _, is_back in watched),
        points=points,
        within={days: share_ended_by(points, days) for days in BACK_WITHIN_DAYS},
    )


def asked_of_crews(context: Context, document: str, person: Person) -> tuple[AskedOfCrew, ...]:
    """What is worth asking about readings and times of the latest jobs; named by technician for those who write guidance alone.

    Raises
    ------
    NotFound
        ``documents.unknown``.
    """
    if person.role not in ("engineer", "approver"):
        return ()
    with context.reading() as unit:
        need_incident_type(unit, document)
        found = unit.kept_of_jobs(("trust", document), partial(_trust_questions, document=document))
        people = unit.people.names()
    return tuple(AskedOfCrew(technician=people.get(q.technician, ""), asked=q) for q in found)


def _trust_questions(unit: Unit, document: str) -> tuple[TrustQuestion, ...]:
    incident = need_incident_type(unit, document)
    held = unit.job_evidence.readings(document, most=MOST_ASKED_OF)
    asked = _asked(unit, incident, held)
    return trust_questions(
        held,
        unit.job_evidence.step_paces(document, most=MOST_ASKED_OF),
        names={a.question: a.label for a in asked},
        units={a.question: a.unit for a in asked},
        steps={
            f"{plan}:{step.id}": step.text
            for plan, content in _plans_of(unit, incident)
            for step in content.steps
        },
    )


def _words(unit: Unit) -> Mapping[Facet, Mapping[str, str]]:
    lists = unit.catalogues.get()
    words: dict[Facet, Mapping[str, str]] = {
        "model": {m.code: m.name for m in lists.models},
        "symptom": {s.code: s.label for s in lists.symptoms},
        "cause": {c.code: c.label for c in lists.causes},
        "remedy": {r.code: r.label for r in lists.remedies},
        "return reason": {"": "no return"},
    }
    return {facet: words.get(facet, {}) for facet in FACETS}


def _plans_of(unit: Unit, incident: IncidentType) -> Iterator[tuple[str, Plan]]:
    """The plans and forms of an incident type as written now, standard steps filled in, by identity."""
    for document in (*incident.plans, *incident.forms):
        plan = unit.documents.content_of(document)
        if isinstance(plan, Plan):
            yield document, fill_in(plan, shared_being_written(unit, plan)).plan


def _asked(unit: Unit, incident: IncidentType, held: Sequence[KeptReading]) -> tuple[AskedReading, ...]:
    """The questions of an incident type's plans, as written now, of which there are readings."""
    n: dict[str, list[KeptReading]] = {}
    for reading in held:
        n.setdefault(reading.question, []).append(reading)
    out = []
    for document, plan in _plans_of(unit, incident):
        for _, question in steps_and_questions(plan):
            own = n.get(f"{document}:{question.id}")
            if own and isinstance(question, Reading | Computed):
                out.append(
                    AskedReading(
                        question=f"{document}:{question.id}",
                        label=question.label,
                        unit=question.unit,
                        low=question.limits.low,
                        high=question.limits.high,
                        n=len(own),
                        n_out=sum(r.out for r in own),
                    )
                )
    return tuple(out)
