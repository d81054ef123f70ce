"""Tables of what is kept of the steps and jobs that were carried out, for lists and figures."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import JSON, Date, Float, ForeignKey, Index, String
from sqlalchemy.orm import Mapped, mapped_column

from reedling.store.tables import Base, Instant


class StepRecordRow(Base):
    """What one job says of one of its lines: worked out from events, kept for review.

    ``closed`` once the job is finished; only those count as evidence.
    """

    __tablename__ = "step_records"
    __table_args__ = (
        Index("step_records_by_minutes", "incident_type_id", "document_id", "step", "closed", "minutes"),
        Index(
            "step_records_by_revision",
            "incident_type_id",
            "document_id",
            "step",
            "closed",
            "revision",
            "minutes",
        ),
    )
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), primary_key=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("documents.id"), primary_key=True)
    step: Mapped[str] = mapped_column(String, primary_key=True)
    revision: Mapped[str]
    planned_minutes: Mapped[float] = mapped_column(Float)
    wanted: Mapped[bool]
    done: Mapped[bool]
    skipped: Mapped[bool]
    minutes: Mapped[float | None] = mapped_column(Float)
    out_of_limit: Mapped[bool | None]
    incident_type_id: Mapped[str | None]
    closed: Mapped[bool] = mapped_column(server_default="0")
    doubtful: Mapped[bool] = mapped_column(server_default="0")
    helped: Mapped[bool] = mapped_column(server_default="0")
    done_at: Mapped[datetime | None] = mapped_column(Instant)
    skip_reason: Mapped[str] = mapped_column(String, server_default="")


class StepSummaryRow(Base):
    """Counts over the finished jobs of an incident type for one step of one revision: the sum of step records."""

    __tablename__ = "step_summaries"
    document_id: Mapped[str] = mapped_column(ForeignKey("documents.id"), primary_key=True)
    step: Mapped[str] = mapped_column(String, primary_key=True)
    revision: Mapped[str] = mapped_column(String, primary_key=True)
    incident_type_id: Mapped[str] = mapped_column(String, primary_key=True)
    n_jobs: Mapped[int]
    n_wanted: Mapped[int]
    n_done: Mapped[int]
    n_skipped: Mapped[int]
    n_judged: Mapped[int]
    n_out_of_limit: Mapped[int]
    n_doubtful: Mapped[int] = mapped_column(server_default="0")
    n_helped: Mapped[int] = mapped_column(server_default="0")


class JobSummaryRow(Base):
    """What lists and figures show of one finished job, worked out from its events once."""

    __tablename__ = "job_summaries"
    __table_args__ = (
        Index("job_summaries_by_type", "incident_type_id", "finished_at", "fixed"),
        Index("job_summaries_by_minutes", "incident_type_id", "minutes_on_site"),
        Index("job_summaries_by_planned", "incident_type_id", "planned_minutes"),
        Index("job_summaries_by_travel", "incident_type_id", "travel_minutes"),
        Index("job_summaries_by_km", "incident_type_id", "km"),
        Index("job_summaries_by_asset", "asset_id"),
    )
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), primary_key=True)
    incident_type_id: Mapped[str] = mapped_column(String)
    asset_id: Mapped[str]
    symptom: Mapped[str]
    finished_at: Mapped[datetime] = mapped_column(Instant)
    n_visits: Mapped[int]
    working_visits: Mapped[int]
    minutes_on_site: Mapped[float | None] = mapped_column(Float)
    planned_minutes: Mapped[float | None] = mapped_column(Float)
    n_departures: Mapped[int]
    n_findings: Mapped[int]
    fixed: Mapped[bool]
    doubtful_finish: Mapped[bool] = mapped_column(server_default="0")
    model: Mapped[str] = mapped_column(String, server_default="")
    district: Mapped[str] = mapped_column(String, server_default="")
    technician_id: Mapped[str] = mapped_column(String, server_default="")
    logged_at: Mapped[datetime | None] = mapped_column(Instant)
    cause: Mapped[str] = mapped_column(String, server_default="")
    remedy: Mapped[str] = mapped_column(String, server_default="")
    n_helped: Mapped[int] = mapped_column(server_default="0")
    n_beside: Mapped[int] = mapped_column(server_default="0")
    rating: Mapped[int | None]
    fix_confirmed: Mapped[bool] = mapped_column(server_default="0")
    return_reasons: Mapped[list[str]] = mapped_column(JSON, server_default="[]")
    order_kept: Mapped[float | None] = mapped_column(Float)
    n_out_of_limit: Mapped[int] = mapped_column(server_default="0")
    n_parts_unplanned: Mapped[int] = mapped_column(server_default="0")
    n_long: Mapped[int] = mapped_column(server_default="0")
    n_hasty: Mapped[int] = mapped_column(server_default="0")
    tone: Mapped[float | None] = mapped_column(Float)
    is_repeat: Mapped[bool] = mapped_column(server_default="0")
    travel_minutes: Mapped[float | None] = mapped_column(Float)
    arrived_km_off: Mapped[float | None] = mapped_column(Float)
    km: Mapped[float | None] = mapped_column(Float)


class JobVisitRow(Base):
    """A visit of a finished job as far as ways go; ``km`` is the way to it from the visit before it on the day."""

    __tablename__ = "job_visits"
    __table_args__ = (Index("job_visits_by_day", "technician_id", "day"),)
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    technician_id: Mapped[str]
    day: Mapped[date] = mapped_column(Date)
    headed_out_at: Mapped[datetime] = mapped_column(Instant)
    east: Mapped[float | None] = mapped_column(Float)
    north: Mapped[float | None] = mapped_column(Float)
    km: Mapped[float | None] = mapped_column(Float)


class JobReadingRow(Base):
    """A number that a finished job read or worked out."""

    __tablename__ = "job_readings"
    __table_args__ = (Index("job_readings_by_question", "question", "order_id"),)
    id: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), index=True)
    question: Mapped[str]
    each: Mapped[str] = mapped_column(String, server_default="")
    value: Mapped[float] = mapped_column(Float)
    out: Mapped[bool]


class JobChoiceRow(Base):
    """What a finished job chose: yes or no, or one of the options of a question."""

    __tablename__ = "job_choices"
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), primary_key=True)
    question: Mapped[str] = mapped_column(String, primary_key=True)
    value: Mapped[str] = mapped_column(String, primary_key=True)


class JobOutOfTurnRow(Base):
    """A line that a finished job did out of turn, before or after another."""

    __tablename__ = "job_out_of_turn"
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), primary_key=True)
    line: Mapped[str] = mapped_column(String, primary_key=True)
    other: Mapped[str] = mapped_column(String, primary_key=True)
    is_early: Mapped[bool] = mapped_column(primary_key=True)


class JobTriedRow(Base):
    """A remedy of a fault guide that a finished job tried."""

    __tablename__ = "job_tried"
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), primary_key=True)
    guide: Mapped[str] = mapped_column(String, primary_key=True)
    remedy: Mapped[str] = mapped_column(String, primary_key=True)
    helped: Mapped[bool]


class JobSourceRow(Base):
    """Which document at which revision a finished job was issued with."""

    __tablename__ = "job_sources"
    document_id: Mapped[str] = mapped_column(String, primary_key=True)
    revision: Mapped[str] = mapped_column(String, primary_key=True)
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), primary_key=True)


class JobPartRow(Base):
    """How much of a part a finished job took."""

    __tablename__ = "job_parts"
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), primary_key=True)
    part: Mapped[str] = mapped_column(String, primary_key=True)
    quantity: Mapped[float] = mapped_column(Float)


class RecordedCodeRow(Base):
    """An entry of a list that the field recorded against an order: a cause, a remedy or a part."""

    __tablename__ = "recorded_codes"
    listed: Mapped[str] = mapped_column(String, primary_key=True)
    code: Mapped[str] = mapped_column(String, primary_key=True)
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), primary_key=True)


class LastAnswerRow(Base):
    """The latest answer to a question on an asset's finished jobs."""

    __tablename__ = "last_answers"
    asset_id: Mapped[str] = mapped_column(ForeignKey("assets.id"), primary_key=True)
    question: Mapped[str] = mapped_column(String, primary_key=True)
    answer: Mapped[Any] = mapped_column(JSON)
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"))
    finished_at: Mapped[datetime] = mapped_column(Instant)


EVERY_TABLE = Base.metadata
"""All tables of the store: those here and those of :mod:`reedling.store.tables`."""
