"""Summaries of finished jobs, kept with each submission that finishes one."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence, Set
from dataclasses import dataclass
from typing import Any, cast

from sqlalchemy import ColumnElement, CursorResult, and_, case, delete, func, insert, or_, select, update
from sqlalchemy.orm import Session

from reedling.core.evidence.getting_there import VisitMade
from reedling.core.evidence.job_summary import JobSummary
from reedling.core.evidence.steps import StepRecord, count_step
from reedling.core.guidance.references import ListName
from reedling.core.register.distances import Position, ways_between
from reedling.core.runsheet.events import Coded, FieldEvent, PartUsed
from reedling.store.counters import JOB_WRITES, count_up, writes_of
from reedling.store.job_tables import (
    JobChoiceRow,
    JobOutOfTurnRow,
    JobPartRow,
    JobReadingRow,
    JobSourceRow,
    JobSummaryRow,
    JobTriedRow,
    JobVisitRow,
    LastAnswerRow,
    RecordedCodeRow,
    StepRecordRow,
    StepSummaryRow,
)
from reedling.store.row_mapping import row_mapping
from reedling.store.rows import MOST_NAMED, add_rows
from reedling.store.tables import CounterRow

_OF_JOBS = (
    JobSummaryRow,
    JobSourceRow,
    JobPartRow,
    JobReadingRow,
    JobChoiceRow,
    JobOutOfTurnRow,
    JobTriedRow,
    JobVisitRow,
    LastAnswerRow,
)
"""Tables that hold what is kept of finished jobs, by order."""
COUNTS = ("n_jobs", "n_wanted", "n_done", "n_skipped", "n_judged", "n_out_of_limit", "n_doubtful", "n_helped")
VERSION = "summaries"
"""The counter that tells by which rules the summaries were worked out."""

SUMMARIES = row_mapping(
    JobSummary,
    JobSummaryRow,
    elsewhere=(
        "sources",
        "answers",
        "parts",
        "known_at",
        "readings",
        "choices",
        "tried",
        "out_of_turn",
        "visits",
    ),
)


@dataclass(frozen=True, slots=True)
class Summaries:
    """Writes summaries; :class:`reedling.store.job_figures.JobFigures` reads figures off them."""

    session: Session

    def add(self, job: JobSummary, records: Iterable[StepRecord]) -> None:
        """Count a job that was just finished."""
        self.add_in_short(job)
        for record in records:
            self._count(job.incident_type, record)
        self.keep_answers([job])
        self.note_ways(job.visits)
        count_up(self.session, JOB_WRITES)

    def add_in_short(self, job: JobSummary) -> None:
        """Keep a finished job in short, and nothing of its steps and answers."""
        add_rows(
            self.session,
            JobSummaryRow,
            [SUMMARIES.written(job) | {"fixed": False, "is_repeat": False, "km": None}],
        )
        add_rows(
            self.session,
            JobSourceRow,
            (
                {"document_id": document, "revision": revision, "order_id": job.order}
                for document, revision in job.sources
            ),
        )
        add_rows(
            self.session,
            JobReadingRow,
            (
                {
                    "order_id": job.order,
                    "question": r.question,
                    "each": r.each,
                    "value": r.value,
                    "out": r.out,
                }
                for r in job.readings
            ),
        )
        add_rows(
            self.session,
            JobChoiceRow,
            (
                {"order_id": job.order, "question": question, "value": value}
                for question, value in job.choices
            ),
        )
        add_rows(
            self.session,
            JobOutOfTurnRow,
            (
                {"order_id": job.order, "line": one.line, "other": one.other, "is_early": one.is_early}
                for one in job.out_of_turn
            ),
        )
        add_rows(
            self.session,
            JobTriedRow,
            (
                {"order_id": job.order, "guide": guide, "remedy": remedy, "helped": helped}
                for guide, remedy, helped in job.tried
            ),
        )
        add_rows(
            self.session,
            JobPartRow,
            (
                {"order_id": job.order, "part": part, "quantity": quantity}
                for part, quantity in job.parts.items()
            ),
        )

        add_rows(
            self.session,
            JobVisitRow,
            (
                {
                    "order_id": job.order,
                    "number": number,
                    "technician_id": visit.technician,
                    "day": visit.day,
                    "headed_out_at": visit.headed_out_at,
                    "east": visit.place.east if visit.place else None,
                    "north": visit.place.north if visit.place else None,
                    "km": None,
                }
                for number, visit in enumerate(job.visits, 1)
            ),
        )

    def note_ways(self, visits: Iterable[VisitMade]) -> None:
        """Work out anew the ways of the days of these visits, and what they come to for each job of these days."""
        self.session.flush()
        touched: set[str] = set()
        for technician, day in {(visit.technician, visit.day) for visit in visits}:
            rows = list(
                self.session.scalars(
                    select(JobVisitRow)
                    .where(JobVisitRow.technician_id == technician, JobVisitRow.day == day)
                    .order_by(JobVisitRow.headed_out_at, JobVisitRow.order_id, JobVisitRow.number)
                )
            )
            for row, km in zip(rows, ways_between(map(_place, rows)), strict=True):
                if row.km != km:
                    row.km = km
                    touched.add(row.order_id)
        self.session.flush()
        for order in touched:
            total = select(func.sum(JobVisitRow.km)).where(JobVisitRow.order_id == order).scalar_subquery()
            self.session.execute(
                update(JobSummaryRow).where(JobSummaryRow.order_id == order).values(km=total)
            )

    def count_records(self) -> None:
        """Count the steps of all finished jobs anew from their records."""
        self.session.execute(delete(StepSummaryRow))
        wanted = case((StepRecordRow.wanted, 1), else_=0)

        def of_wanted(*also: Any) -> ColumnElement[int]:
            return func.sum(case((and_(StepRecordRow.wanted, *also), 1), else_=0))

        judged = StepRecordRow.out_of_limit.is_not(None)
        keys = (
            StepRecordRow.document_id,
            StepRecordRow.step,
            StepRecordRow.revision,
            StepRecordRow.incident_type_id,
        )
        counted = (
            select(
                *keys,
                func.count(),
                func.sum(wanted),
                of_wanted(StepRecordRow.done),
                of_wanted(StepRecordRow.skipped),
                of_wanted(judged),
                of_wanted(judged, StepRecordRow.out_of_limit),
                func.sum(case((StepRecordRow.doubtful, 1), else_=0)),
                of_wanted(StepRecordRow.helped),
            )
            .where(StepRecordRow.closed)
            .group_by(*keys)
        )
        names = ["document_id", "step", "revision", "incident_type_id", *COUNTS]
        self.session.execute(insert(StepSummaryRow).from_select(names, counted))
        count_up(self.session, JOB_WRITES)

    def forget(self, job: JobSummary, records: Iterable[StepRecord]) -> None:
        """Take a finished job out of what is counted, as it was counted."""
        for table in _OF_JOBS:
            self.session.execute(delete(table).where(table.order_id == job.order))
        self.note_ways(job.visits)
        for record in records:
            self._count(job.incident_type, record, by=-1)
        count_up(self.session, JOB_WRITES)

    def keep_answers(self, jobs: Sequence[JobSummary]) -> None:
        """Keep what each of these jobs answered, unless one finished later did; jobs may come in late."""
        held = self._last_answers({job.asset for job in jobs})
        new: dict[tuple[str, str], LastAnswerRow] = {}
        for job in jobs:
            for question, answer in job.answers.items():
                key = job.asset, question
                row = held.get(key)
                if row is None:
                    row = held[key] = new[key] = LastAnswerRow(asset_id=job.asset, question=question)
                elif (row.finished_at, row.order_id) > (job.known_at, job.order):
                    continue
                row.answer, row.order_id, row.finished_at = answer, job.order, job.known_at
        self.session.add_all(new.values())

    def _last_answers(self, assets: Set[str]) -> dict[tuple[str, str], LastAnswerRow]:
        query = select(LastAnswerRow)
        if len(assets) <= MOST_NAMED:
            query = query.where(LastAnswerRow.asset_id.in_(assets))
        return {(row.asset_id, row.question): row for row in self.session.scalars(query)}

    def _count(self, incident_type: str, record: StepRecord, *, by: int = 1) -> None:
        key = (record.document, record.step, record.revision, incident_type)
        row = self.session.get(StepSummaryRow, key)
        if row is None:
            names = ("document_id", "step", "revision", "incident_type_id")
            row = StepSummaryRow(**dict(zip(names, key, strict=True)), **dict.fromkeys(COUNTS, 0))
            self.session.add(row)
        added = count_step(record)
        for name in COUNTS:
            setattr(row, name, getattr(row, name) + by * getattr(added, name))

    def clear(self) -> None:
        """Forget every summary, to count anew."""
        for table in (*_OF_JOBS, StepSummaryRow, RecordedCodeRow):
            self.session.execute(delete(table))
        count_up(self.session, JOB_WRITES)

    def version(self) -> int:
        """By which rules the summaries were worked out; 0 for none."""
        row = self.session.get(CounterRow, VERSION)
        return row.last if row else 0

    def n_written(self) -> int:
        """How often a summary was written: another number once any figure may be another one."""
        return writes_of(self.session, JOB_WRITES)

    def set_version(self, version: int) -> None:
        """Keep by which rules they were worked out."""
        self.session.merge(CounterRow(prefix=VERSION, last=version))

    def set_outcomes(
        self, assets: Collection[str], *, fixed: Collection[str], repeats: Collection[str]
    ) -> None:
        """Say which finished jobs of these assets are fixed, and which are repeats; their others are not."""
        is_fixed, is_repeat = JobSummaryRow.order_id.in_(fixed), JobSummaryRow.order_id.in_(repeats)
        changed = self.session.execute(
            update(JobSummaryRow)
            .where(
                JobSummaryRow.asset_id.in_(assets),
                or_(JobSummaryRow.fixed != is_fixed, JobSummaryRow.is_repeat != is_repeat),
            )
            .values(fixed=is_fixed, is_repeat=is_repeat)
        )
        if cast(CursorResult[Any], changed).rowcount:
            count_up(self.session, JOB_WRITES)

    def note_codes(self, order: str, events: Iterable[FieldEvent]) -> None:
        """Keep which causes, remedies and parts were recorded against an order."""
        for listed, code in _codes(events):
            self.session.merge(RecordedCodeRow(listed=listed, code=code, order_id=order))
        self.session.flush()

    def add_codes(self, order: str, events: Iterable[FieldEvent]) -> None:
        """As :meth:`note_codes`, of an order against which none are kept yet."""
        rows = ({"listed": listed, "code": code, "order_id": order} for listed, code in _codes(events))
        add_rows(self.session, RecordedCodeRow, rows)


def _place(row: JobVisitRow) -> Position | None:
    return None if row.east is None or row.north is None else Position(east=row.east, north=row.north)


def _codes(events: Iterable[FieldEvent]) -> list[tuple[ListName, str]]:
    found: set[tuple[ListName, str]] = set()
    for event in events:
        if isinstance(event, Coded):
            found |= {("causes", event.cause), ("remedies", event.remedy)}
        elif isinstance(event, PartUsed):
            found.add(("parts", event.part))
    return sorted(found)
