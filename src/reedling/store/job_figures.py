"""Figures of finished jobs, read off what is kept of them in short."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, NamedTuple, cast

from sqlalchemy import ColumnElement, Select, case, func, select
from sqlalchemy.orm import InstrumentedAttribute, Session, aliased

from reedling.core.evidence.jobs import JobLine, WantedJobs
from reedling.core.evidence.order_kept import OutOfTurn
from reedling.core.evidence.outcomes import OrderOutcome
from reedling.core.evidence.steps import StepCounts, count_step
from reedling.core.guidance.references import ListEntry, ListName
from reedling.core.logic.conditions import Answer
from reedling.core.orders.states import UNREAD, counts
from reedling.core.statistics.summaries import Spread, spread_of_ordered
from reedling.store.counters import JOB_WRITES, writes_of
from reedling.store.job_tables import (
    JobOutOfTurnRow,
    JobSourceRow,
    JobSummaryRow,
    LastAnswerRow,
    RecordedCodeRow,
    StepRecordRow,
    StepSummaryRow,
)
from reedling.store.kept import Kept, only_reads
from reedling.store.recorded import STEP_RECORDS
from reedling.store.row_mapping import row_mapping
from reedling.store.summaries import COUNTS
from reedling.store.tables import OrderRow

LINES = row_mapping(JobLine, JobSummaryRow)
ALL = WantedJobs()


class FirstTimeCounts(NamedTuple):
    """Jobs fixed first time, jobs counted, those too young to count, those whose times cannot be."""

    n_fixed: int
    n_settled: int
    n_too_young: int
    n_doubtful: int


NO_JOBS = FirstTimeCounts(0, 0, 0, 0)


@dataclass(frozen=True, slots=True)
class JobFigures:
    """Reads what :class:`reedling.store.summaries.Summaries` keeps of finished jobs: counts, shares and spreads over many."""

    session: Session
    kept: Kept

    def orders_on(self, assets: Collection[str]) -> tuple[OrderOutcome, ...]:
        """The orders on these assets as far as they bear on whether a job is fixed; by asset and time logged."""
        return outcomes_of(self.session, OrderRow.asset_id.in_(assets))

    def first_time(self, latest: datetime, wanted: WantedJobs = ALL) -> Mapping[str, FirstTimeCounts]:
        """By incident type; too young are those finished after ``latest``."""
        plausible = JobSummaryRow.doubtful_finish.is_(False)
        settled = (JobSummaryRow.finished_at <= latest) & plausible
        fixed = settled & JobSummaryRow.fixed
        query = (
            select(
                JobSummaryRow.incident_type_id,
                func.sum(case((fixed, 1), else_=0)),
                func.sum(case((settled, 1), else_=0)),
                func.sum(case((plausible, 0), else_=1)),
                func.count(),
            )
            .where(*_where(wanted))
            .group_by(JobSummaryRow.incident_type_id)
        )
        return {
            document: FirstTimeCounts(n_fixed, n_settled, n_jobs - n_settled - n_doubtful, n_doubtful)
            for document, n_fixed, n_settled, n_doubtful, n_jobs in self.session.execute(query)
        }

    def span(self, wanted: WantedJobs) -> tuple[int, datetime | None, datetime | None]:
        """How many jobs, when the first and the last of them were finished, as far as that can be."""
        plausible = case((JobSummaryRow.doubtful_finish.is_(False), JobSummaryRow.finished_at))
        query = select(
            func.count(),
            func.min(plausible, type_=JobSummaryRow.finished_at.type),
            func.max(plausible, type_=JobSummaryRow.finished_at.type),
        ).where(*_where(wanted))
        n_jobs, first, last = self.session.execute(query).one()
        return n_jobs, first, last

    def order_kept(self, wanted: WantedJobs) -> tuple[int, int, float | None]:
        """Jobs of which it is known how far they kept the order, those that kept it throughout, and the mean of all."""
        column = JobSummaryRow.order_kept
        query = select(func.count(column), func.count(case((column == 1, 1))), func.avg(column))
        n_jobs, n_throughout, mean = self.session.execute(query.where(*_where(wanted))).one()
        return n_jobs, n_throughout, mean

    def out_of_turn(self, wanted: WantedJobs) -> tuple[tuple[OutOfTurn, int], ...]:
        """What was done out of turn, with the number of jobs in which it was, the commonest first."""
        way = (JobOutOfTurnRow.line, JobOutOfTurnRow.other, JobOutOfTurnRow.is_early)
        n_jobs = func.count()
        query = (
            select(*way, n_jobs)
            .join(JobSummaryRow, JobSummaryRow.order_id == JobOutOfTurnRow.order_id)
            .where(*_where(wanted))
            .group_by(*way)
            .order_by(n_jobs.desc(), *way)
        )
        return tuple(
            (OutOfTurn(line=line, other=other, is_early=is_early), n)
            for line, other, is_early, n in self.session.execute(query)
        )

    def minutes_on_site(self, wanted: WantedJobs) -> Spread | None:
        """Minutes on site over all visits of a job, of jobs whose times can be."""
        return self._spread_of(JobSummaryRow.minutes_on_site, wanted)

    def travel_minutes(self, wanted: WantedJobs) -> Spread | None:
        """Minutes of travel over all visits of a job, of jobs whose times can be."""
        return self._spread_of(JobSummaryRow.travel_minutes, wanted)

    def ways(self, wanted: WantedJobs) -> Spread | None:
        """The way in kilometres from the visits before those of a job, of jobs that have one."""
        return self._spread_of(JobSummaryRow.km, wanted)

    def n_arrived_off_site(self, wanted: WantedJobs) -> int:
        """How many jobs have an arrival away from their site."""
        column = JobSummaryRow.arrived_km_off
        query = select(func.count()).select_from(JobSummaryRow).where(column.is_not(None), *_where(wanted))
        return self.session.scalar(query) or 0

    def planned_minutes(self, wanted: WantedJobs) -> Spread | None:
        """Likely minutes of the steps that each job turned out to want."""
        return self._spread_of(JobSummaryRow.planned_minutes, wanted)

    def minutes_of(self, wanted: WantedJobs, document: str, step: str) -> Spread | None:
        """Minutes of a step over the jobs that finished it."""
        query = (
            select(StepRecordRow.minutes)
            .where(
                *_records(wanted, document),
                StepRecordRow.document_id == document,
                StepRecordRow.step == step,
                StepRecordRow.minutes.is_not(None),
            )
            .order_by(StepRecordRow.minutes)
        )
        return self._spread(query)

    def _spread_of(self, column: InstrumentedAttribute[float | None], wanted: WantedJobs) -> Spread | None:
        return self._spread(select(column).where(column.is_not(None), *_where(wanted)).order_by(column))

    def _spread(self, query: Select[Any]) -> Spread | None:
        count = self.session.scalar(select(func.count()).select_from(query.order_by(None).subquery())) or 0
        seen: dict[int, float] = {}

        def value_at(place: int) -> float:
            if place not in seen:
                found = list(self.session.scalars(query.offset(place).limit(2)))
                seen.update(zip((place, place + 1), found, strict=False))
            return seen[place]

        return spread_of_ordered(count, value_at)

    def step_counts_of(self, document: str) -> Mapping[str, StepCounts]:
        """Counts of the steps of a document, over all its revisions and the jobs of every incident type."""
        n_written = writes_of(self.session, JOB_WRITES)
        kept = self.kept.step_counts.get(document)
        if kept is not None and kept[0] == n_written and only_reads(self.session):
            return kept[1]
        found = self._sums(_summed().where(StepSummaryRow.document_id == document))
        counts = {step: counts for (_, step), counts in found.items()}
        if only_reads(self.session):
            self.kept.step_counts[document] = (n_written, counts)
        return counts

    def step_counts(
        self, wanted: WantedJobs, documents: Sequence[str]
    ) -> Mapping[tuple[str, str], StepCounts]:
        """Counts of the steps of documents over the jobs of an incident type, or some of them."""
        of_type = StepSummaryRow.incident_type_id == wanted.incident_type
        if wanted == WantedJobs(incident_type=wanted.incident_type):
            return self._sums(_summed().where(of_type))
        if wanted.issued_with is not None and tuple(documents) == wanted.issued_with[0][:1]:
            # The jobs issued with a document at a revision are those whose steps of it are at that revision.
            document, revision = documents[0], wanted.issued_with[1]
            of_revision = (StepSummaryRow.document_id == document, StepSummaryRow.revision == revision)
            return self._sums(_summed().where(of_type, *of_revision))
        found: dict[tuple[str, str], StepCounts] = {}
        for row in self.session.scalars(
            select(StepRecordRow).where(*_records(wanted), StepRecordRow.document_id.in_(documents))
        ):
            key = (row.document_id, row.step)
            found[key] = found.get(key, StepCounts()).plus(count_step(STEP_RECORDS.read(row)))
        return found

    def _sums(self, query: Select[Any]) -> Mapping[tuple[str, str], StepCounts]:
        grouped = query.group_by(*list(query.selected_columns)[:2])
        return {
            (row[0], row[1]): StepCounts(**dict(zip(COUNTS, row[2:], strict=True)))
            for row in self.session.execute(grouped)
        }

    def revisions_seen(self, incident_type: str, documents: Sequence[str]) -> frozenset[str]:
        """Letters of the revisions of these documents that jobs of an incident type were issued with."""
        query = (
            select(JobSourceRow.revision)
            .join(JobSummaryRow, JobSummaryRow.order_id == JobSourceRow.order_id)
            .where(JobSummaryRow.incident_type_id == incident_type, JobSourceRow.document_id.in_(documents))
            .distinct()
        )
        return frozenset(self.session.scalars(query))

    def jobs(
        self, wanted: WantedJobs, *, offset: int = 0, limit: int = 50
    ) -> tuple[int, tuple[JobLine, ...]]:
        """How many jobs there are, and a page of them, the latest finish first."""
        where = _where(wanted)
        query = select(*LINES.selected).where(*where)
        if wanted == WantedJobs(unread=True):
            # The index of orders by state gives them in their order, so that a page reads no more than itself.
            waiting = OrderRow.state == UNREAD
            total = self.session.scalar(select(func.count()).select_from(OrderRow).where(waiting)) or 0
            query = (
                select(*LINES.selected).join(OrderRow, OrderRow.id == JobSummaryRow.order_id).where(waiting)
            )
            query = query.order_by(OrderRow.finished_at.desc(), OrderRow.id.desc())
        else:
            counted = select(func.count()).select_from(JobSummaryRow).where(*where)
            total = self.session.scalar(counted) or 0
            query = query.order_by(JobSummaryRow.finished_at.desc(), JobSummaryRow.order_id.desc())
        query = query.offset(offset).limit(limit)
        return total, tuple(LINES.read(row) for row in self.session.execute(query))

    def lines_of(self, orders: Sequence[str]) -> tuple[JobLine, ...]:
        """Finished jobs as lists show them, in the order given."""
        found: dict[str, JobLine] = {}
        for start in range(0, len(orders), 500):
            query = select(*LINES.selected).where(JobSummaryRow.order_id.in_(orders[start : start + 500]))
            found |= {row.order_id: LINES.read(row) for row in self.session.execute(query)}
        return tuple(found[order] for order in orders if order in found)

    def codes_recorded(self) -> Iterator[tuple[ListEntry, int]]:
        """Symptoms of orders, and causes, remedies and parts the field recorded, with how many orders each."""
        by_symptom = select(OrderRow.symptom, func.count()).group_by(OrderRow.symptom)
        for code, n in self.session.execute(by_symptom):
            yield ListEntry("symptoms", code), n
        query = select(RecordedCodeRow.listed, RecordedCodeRow.code, func.count())
        for listed, code, n in self.session.execute(
            query.group_by(RecordedCodeRow.listed, RecordedCodeRow.code)
        ):
            yield ListEntry(cast(ListName, listed), code), n

    def last_answers(self, asset: str) -> Mapping[str, Answer]:
        """The latest answer to each question on an asset's finished jobs."""
        query = select(LastAnswerRow.question, LastAnswerRow.answer).where(LastAnswerRow.asset_id == asset)
        return dict(self.session.execute(query).all())


def outcomes_of(session: Session, *where: ColumnElement[bool]) -> tuple[OrderOutcome, ...]:
    """The orders that meet all of these, as far as they bear on whether a job is fixed; by asset and time logged."""
    query = (
        select(
            OrderRow.id,
            OrderRow.asset_id,
            OrderRow.symptom,
            OrderRow.logged_at,
            OrderRow.state,
            OrderRow.due_on,
            JobSummaryRow.finished_at,
            JobSummaryRow.working_visits,
            JobSummaryRow.doubtful_finish,
        )
        .outerjoin(JobSummaryRow, JobSummaryRow.order_id == OrderRow.id)
        .where(*where)
        .order_by(OrderRow.asset_id, OrderRow.logged_at, OrderRow.id)
    )
    return tuple(
        OrderOutcome(
            order=row.id,
            asset=row.asset_id,
            symptom=row.symptom,
            logged_at=row.logged_at,
            finished_at=row.finished_at,
            working_visits=row.working_visits or 0,
            cancelled=not counts(row.state),
            doubtful=bool(row.doubtful_finish),
            routine=row.due_on is not None,
        )
        for row in session.execute(query)
    )


def _summed() -> Select[Any]:
    columns: list[Any] = [StepSummaryRow.document_id, StepSummaryRow.step]
    columns += [func.sum(getattr(StepSummaryRow, name)) for name in COUNTS]
    return select(*columns)


def _where(wanted: WantedJobs) -> list[ColumnElement[bool]]:
    where: list[ColumnElement[bool]] = []
    if wanted.incident_type is not None:
        where.append(JobSummaryRow.incident_type_id == wanted.incident_type)
    where += [JobSummaryRow.order_id.in_(orders) for orders in _orders(wanted)]
    return where


def _records(wanted: WantedJobs, document: str = "") -> list[ColumnElement[bool]]:
    """As :func:`_where`, of step records, all of one document where it is named."""
    where: list[ColumnElement[bool]] = [StepRecordRow.closed.is_(True)]
    if wanted.incident_type is not None:
        where.append(StepRecordRow.incident_type_id == wanted.incident_type)
    if wanted.issued_with is not None and wanted.issued_with[0] == (document,):
        where.append(StepRecordRow.revision == wanted.issued_with[1])
        wanted = replace(wanted, issued_with=None)
    where += [StepRecordRow.order_id.in_(orders) for orders in _orders(wanted)]
    return where


def _orders(wanted: WantedJobs) -> Iterator[Select[Any]]:
    if wanted.issued_with is not None:
        documents, revision = wanted.issued_with
        yield select(JobSourceRow.order_id).where(
            JobSourceRow.document_id.in_(documents), JobSourceRow.revision == revision
        )
    if wanted.step is not None:
        record = aliased(StepRecordRow)
        document, step = wanted.step
        yield select(record.order_id).where(
            record.document_id == document,
            record.step == step,
            record.closed.is_(True),
            record.wanted.is_(True),
        )
    if wanted.out_of_turn is not None:
        way = wanted.out_of_turn
        yield select(JobOutOfTurnRow.order_id).where(
            JobOutOfTurnRow.line == way.line,
            JobOutOfTurnRow.other == way.other,
            JobOutOfTurnRow.is_early.is_(way.is_early),
        )
    if wanted.unread:
        yield select(OrderRow.id).where(OrderRow.state == UNREAD)
