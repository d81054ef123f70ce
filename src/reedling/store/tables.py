"""The tables. What was authored is JSON under revision control; what happened is relational."""

from __future__ import annotations

from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy import (
    JSON,
    Date,
    DateTime,
    Dialect,
    Float,
    ForeignKey,
    Index,
    Integer,
    String,
    UniqueConstraint,
)
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column
from sqlalchemy.types import TypeDecorator


class Instant(TypeDecorator[datetime]):
    """An aware UTC instant, kept without its zone where the database has none."""

    impl = DateTime
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """To the database: in UTC, zone dropped."""
        return value.astimezone(UTC).replace(tzinfo=None) if value else None

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """From the database: the zone put back."""
        return value.replace(tzinfo=UTC) if value else None


class Base(DeclarativeBase):
    """Root of all tables."""


class PersonRow(Base):
    """Somebody who signs in."""

    __tablename__ = "people"
    id: Mapped[str] = mapped_column(String, primary_key=True)
    name: Mapped[str]
    role: Mapped[str]
    username: Mapped[str] = mapped_column(String, unique=True)
    password_hash: Mapped[str]
    district: Mapped[str]
    offered: Mapped[bool]
    administrator: Mapped[bool] = mapped_column(server_default="0")
    program: Mapped[bool] = mapped_column(server_default="0")
    removed_at: Mapped[datetime | None] = mapped_column(Instant)
    failed_sign_ins: Mapped[int] = mapped_column(Integer, server_default="0")
    last_failed_at: Mapped[datetime | None] = mapped_column(Instant)


class InvitationRow(Base):
    """A link with which somebody chooses a password, once; only the hash of its token is kept."""

    __tablename__ = "invitations"
    token_hash: Mapped[str] = mapped_column(String, primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    expires_at: Mapped[datetime] = mapped_column(Instant)


class ChangeRow(Base):
    """One change of a list, a site, an asset, an order, a person or a picture's facts. Rows are only added.

    ``batch`` joins what was changed at once, as a sheet does; ``before`` and ``after`` are the whole
    entries, empty where there was none.
    """

    __tablename__ = "changes"
    __table_args__ = (
        Index("changes_by_subject", "subject", "key"),
        Index("changes_in_order", "subject", "id"),
        Index("changes_by_batch", "batch"),
    )
    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    batch: Mapped[str]
    at: Mapped[datetime] = mapped_column(Instant)
    person_id: Mapped[str | None] = mapped_column(ForeignKey("people.id"))
    subject: Mapped[str]
    key: Mapped[str]
    act: Mapped[str]
    before: Mapped[Any | None] = mapped_column(JSON)
    after: Mapped[Any | None] = mapped_column(JSON)
    note: Mapped[str]


class SessionRow(Base):
    """A sign-in; only the hash of its token is kept."""

    __tablename__ = "sessions"
    token_hash: Mapped[str] = mapped_column(String, primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    expires_at: Mapped[datetime] = mapped_column(Instant)
    opened_at: Mapped[datetime | None] = mapped_column(Instant)


class ProgramTokenRow(Base):
    """The token that a program comes in by: only its hash."""

    __tablename__ = "program_tokens"
    token_hash: Mapped[str] = mapped_column(String, primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"), unique=True)
    created_at: Mapped[datetime] = mapped_column(Instant)
    created_by: Mapped[str | None] = mapped_column(ForeignKey("people.id"))
    last_used_at: Mapped[datetime | None] = mapped_column(Instant)


class CounterRow(Base):
    """The last number given out for each prefix of identities."""

    __tablename__ = "counters"
    prefix: Mapped[str] = mapped_column(String, primary_key=True)
    last: Mapped[int]


class CatalogueRow(Base):
    """One list of the catalogue, whole, as JSON."""

    __tablename__ = "catalogue"
    name: Mapped[str] = mapped_column(String, primary_key=True)
    entries: Mapped[list[Any]] = mapped_column(JSON)


class SettingRow(Base):
    """What somebody set for everybody, by its name, as JSON."""

    __tablename__ = "settings"
    name: Mapped[str] = mapped_column(String, primary_key=True)
    value: Mapped[dict[str, Any]] = mapped_column(JSON)


class DocumentRow(Base):
    """An authored document; what it says is in its revisions."""

    __tablename__ = "documents"
    id: Mapped[str] = mapped_column(String, primary_key=True)
    kind: Mapped[str] = mapped_column(String, index=True)
    created_at: Mapped[datetime] = mapped_column(Instant)


class RevisionRow(Base):
    """One revision. ``version`` rises with every saved edit of a draft; ``title`` repeats its content's.

    ``rests_on`` are people whose unreleased work was copied into it; they may not approve it.
    """

    __tablename__ = "revisions"
    __table_args__ = (UniqueConstraint("document_id", "letter"), Index("revisions_by_state", "state"))
    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("documents.id"))
    letter: Mapped[str]
    state: Mapped[str]
    version: Mapped[int]
    content: Mapped[dict[str, Any]] = mapped_column(JSON)
    created_at: Mapped[datetime] = mapped_column(Instant)
    changed_at: Mapped[datetime] = mapped_column(Instant)
    sent_by: Mapped[str | None] = mapped_column(ForeignKey("people.id"))
    released_at: Mapped[datetime | None] = mapped_column(Instant)
    released_by: Mapped[str | None] = mapped_column(ForeignKey("people.id"))
    note: Mapped[str]
    effective_on: Mapped[date | None] = mapped_column(Date)
    rests_on: Mapped[list[str]] = mapped_column(JSON, server_default="[]")
    title: Mapped[str] = mapped_column(String, server_default="")


class RevisionUseRow(Base):
    """A document that a revision refers to, so that who uses what is found without reading contents."""

    __tablename__ = "revision_uses"
    __table_args__ = (Index("revision_uses_by_document", "document"),)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id", ondelete="CASCADE"), primary_key=True)
    document: Mapped[str] = mapped_column(String, primary_key=True)


class ActRow(Base):
    """One thing done to a revision as a whole: begun, sent, given back, released, withdrawn."""

    __tablename__ = "acts"
    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id", ondelete="CASCADE"), index=True)
    at: Mapped[datetime] = mapped_column(Instant)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    act: Mapped[str]
    note: Mapped[str]


class CommentRow(Base):
    """Words about a place of a document: a step, a question, or (empty) the whole."""

    __tablename__ = "comments"
    id: Mapped[str] = mapped_column(String, primary_key=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("documents.id", ondelete="CASCADE"), index=True)
    letter: Mapped[str]
    place: Mapped[str]
    text: Mapped[str]
    at: Mapped[datetime] = mapped_column(Instant)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    settled_at: Mapped[datetime | None] = mapped_column(Instant)
    settled_by: Mapped[str | None] = mapped_column(ForeignKey("people.id"))


class IllustrationRow(Base):
    """A picture, still or moving, that instructions show; the file is named by its hash."""

    __tablename__ = "illustrations"
    id: Mapped[str] = mapped_column(String, primary_key=True)
    title: Mapped[str]
    media_type: Mapped[str]
    width: Mapped[int]
    height: Mapped[int]
    n_frames: Mapped[int]
    added_at: Mapped[datetime] = mapped_column(Instant)
    person_id: Mapped[str | None] = mapped_column(ForeignKey("people.id"))


class EditRow(Base):
    """One saved edit of a draft, with the patch that undoes it."""

    __tablename__ = "edits"
    __table_args__ = (UniqueConstraint("revision_id", "version"),)
    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id", ondelete="CASCADE"))
    version: Mapped[int]
    at: Mapped[datetime] = mapped_column(Instant)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    summary: Mapped[str]
    patch: Mapped[list[Any]] = mapped_column(JSON)
    inverse: Mapped[list[Any]] = mapped_column(JSON)


class SiteRow(Base):
    """A place with assets; degrees east and north on the invented map."""

    __tablename__ = "sites"
    id: Mapped[str] = mapped_column(String, primary_key=True)
    name: Mapped[str]
    district: Mapped[str]
    east: Mapped[float]
    north: Mapped[float]
    zone: Mapped[str]
    customer: Mapped[str] = mapped_column(String, server_default="")
    tags: Mapped[list[str]] = mapped_column(JSON, server_default="[]")
    contract: Mapped[str] = mapped_column(String, server_default="")


class AssetRow(Base):
    """A thing that is maintained."""

    __tablename__ = "assets"
    id: Mapped[str] = mapped_column(String, primary_key=True)
    name: Mapped[str]
    site_id: Mapped[str] = mapped_column(ForeignKey("sites.id"), index=True)
    equipment: Mapped[str]
    model: Mapped[str]
    serial: Mapped[str]
    fields: Mapped[dict[str, Any]] = mapped_column(JSON, server_default="{}")
    warranty_until: Mapped[date | None]


class MeterReadingRow(Base):
    """The state of one of an asset's meters at a time, and the order it was read on."""

    __tablename__ = "meter_readings"
    __table_args__ = (Index("meter_readings_by_asset", "asset_id", "meter", "at"),)
    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    asset_id: Mapped[str] = mapped_column(ForeignKey("assets.id"))
    meter: Mapped[str]
    value: Mapped[float] = mapped_column(Float)
    at: Mapped[datetime] = mapped_column(Instant)
    order_id: Mapped[str | None] = mapped_column(ForeignKey("orders.id"))


class OrderRow(Base):
    """An order, with the runsheet it was issued. ``state`` follows its events.

    ``sources`` and ``planned_minutes`` repeat what lists show of the runsheet.
    """

    __tablename__ = "orders"
    __table_args__ = (
        Index("orders_by_incident_type", "incident_type_id", "state"),
        Index("orders_by_technician", "technician_id", "state"),
        Index("orders_by_state", "state", "finished_at"),
        Index(
            "orders_in_short",
            "logged_at",
            "id",
            "state",
            "asset_id",
            "symptom",
            "technician_id",
            "report",
        ),
        Index("orders_by_symptom", "symptom"),
        Index("orders_by_last_day", "due_on", "state"),
    )
    id: Mapped[str] = mapped_column(String, primary_key=True)
    asset_id: Mapped[str] = mapped_column(ForeignKey("assets.id"), index=True)
    symptom: Mapped[str]
    report: Mapped[str]
    fields: Mapped[dict[str, Any]] = mapped_column(JSON, server_default="{}")
    incident_type_id: Mapped[str | None] = mapped_column(ForeignKey("documents.id"))
    incident_type_revision: Mapped[str | None]
    runsheet: Mapped[dict[str, Any]] = mapped_column(JSON)
    trace: Mapped[list[Any]] = mapped_column(JSON)
    logged_at: Mapped[datetime] = mapped_column(Instant, index=True)
    logged_by: Mapped[str] = mapped_column(ForeignKey("people.id"))
    technician_id: Mapped[str | None] = mapped_column(ForeignKey("people.id"))
    planned_for: Mapped[datetime | None] = mapped_column(Instant)
    state: Mapped[str]
    finished_at: Mapped[datetime | None] = mapped_column(Instant, index=True)
    reviewed_at: Mapped[datetime | None] = mapped_column(Instant)
    reviewed_by: Mapped[str | None] = mapped_column(ForeignKey("people.id"))
    review_note: Mapped[str]
    matched_on: Mapped[dict[str, Any] | None] = mapped_column(JSON)
    terms: Mapped[dict[str, Any]] = mapped_column(JSON, server_default="{}")
    priority: Mapped[str] = mapped_column(String, server_default="")
    sources: Mapped[list[Any]] = mapped_column(JSON, server_default="[]")
    planned_minutes: Mapped[float] = mapped_column(Float, server_default="0")
    due_on: Mapped[date | None] = mapped_column(Date)


class OrderChangeRow(Base):
    """A document added to an order or taken off it by hand. Rows are only ever added."""

    __tablename__ = "order_changes"
    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), index=True)
    at: Mapped[datetime] = mapped_column(Instant)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    act: Mapped[str]
    document_id: Mapped[str] = mapped_column(ForeignKey("documents.id"))
    revision: Mapped[str]
    title: Mapped[str]
    reason: Mapped[str]


class SubmissionRow(Base):
    """A batch of events from a device, applied once; a repeat gets the answer kept here.

    ``digest`` is of the events as they came; ``ahead_s`` how many seconds the device's clock ran
    ahead of ours, where it told its time.
    """

    __tablename__ = "submissions"
    id: Mapped[str] = mapped_column(String, primary_key=True)
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), index=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    received_at: Mapped[datetime] = mapped_column(Instant)
    result: Mapped[dict[str, Any]] = mapped_column(JSON)
    digest: Mapped[str] = mapped_column(String, server_default="")
    ahead_s: Mapped[float | None] = mapped_column(Float)


class LooseRecordRow(Base):
    """What a submission recorded and the job could not take in; the office decides what becomes of it."""

    __tablename__ = "loose_records"
    __table_args__ = (Index("loose_records_by_decision", "decision"),)
    submission_id: Mapped[str] = mapped_column(ForeignKey("submissions.id"), primary_key=True)
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), index=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    events: Mapped[list[Any]] = mapped_column(JSON)
    code: Mapped[str]
    why: Mapped[str]
    decision: Mapped[str | None]
    decided_at: Mapped[datetime | None] = mapped_column(Instant)
    decided_by: Mapped[str | None] = mapped_column(ForeignKey("people.id"))
    reason: Mapped[str] = mapped_column(String, server_default="")


class HelpThreadRow(Base):
    """A help thread of an order, so that the open ones are found; what was said from site is in its events."""

    __tablename__ = "help_threads"
    __table_args__ = (Index("help_threads_open", "ended_at"),)
    id: Mapped[str] = mapped_column(String, primary_key=True)
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), index=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    line: Mapped[str] = mapped_column(String, server_default="")
    asked_at: Mapped[datetime] = mapped_column(Instant)
    last_said_at: Mapped[datetime] = mapped_column(Instant)
    ended_at: Mapped[datetime | None] = mapped_column(Instant)
    kept: Mapped[bool | None]


class SiteRecordRow(Base):
    """Something recorded beside the steps of an order, so that what waits for the office is found."""

    __tablename__ = "site_records"
    __table_args__ = (Index("site_records_waiting", "waits", "kind"),)
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), primary_key=True)
    id: Mapped[str] = mapped_column(String, primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    kind: Mapped[str]
    text: Mapped[str]
    at: Mapped[datetime] = mapped_column(Instant)
    waits: Mapped[bool]


class PartAskRow(Base):
    """A part that a technician asked a colleague for, so that the colleague finds it; it stands in the events."""

    __tablename__ = "part_asks"
    __table_args__ = (Index("part_asks_of", "of_id", "state"),)
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), primary_key=True)
    id: Mapped[str] = mapped_column(String, primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    of_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    part: Mapped[str]
    quantity: Mapped[float]
    at: Mapped[datetime] = mapped_column(Instant)
    state: Mapped[str]


class HelpReplyRow(Base):
    """What the office said or marked on a help thread."""

    __tablename__ = "help_replies"
    id: Mapped[str] = mapped_column(String, primary_key=True)
    thread_id: Mapped[str] = mapped_column(ForeignKey("help_threads.id"), index=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    at: Mapped[datetime] = mapped_column(Instant)
    text: Mapped[str] = mapped_column(String)
    marks: Mapped[list[Any]] = mapped_column(JSON)


class EvidenceReadRow(Base):
    """When the evidence of an incident type was last read, and by whom."""

    __tablename__ = "evidence_reads"
    incident_type_id: Mapped[str] = mapped_column(String, primary_key=True)
    at: Mapped[datetime] = mapped_column(Instant)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))


class KeptViewRow(Base):
    """Choices of the jobs of an incident type, kept by name."""

    __tablename__ = "kept_views"
    incident_type_id: Mapped[str] = mapped_column(ForeignKey("documents.id"), primary_key=True)
    name: Mapped[str] = mapped_column(String, primary_key=True)
    choices: Mapped[dict[str, Any]] = mapped_column(JSON)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    at: Mapped[datetime] = mapped_column(Instant)


class AskedBackRow(Base):
    """A question of the office about a job, and the technician's answer."""

    __tablename__ = "asked_back"
    id: Mapped[str] = mapped_column(String, primary_key=True)
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), index=True)
    line: Mapped[str]
    text: Mapped[str]
    asked_at: Mapped[datetime] = mapped_column(Instant)
    asked_by: Mapped[str] = mapped_column(ForeignKey("people.id"))
    technician_id: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    answer: Mapped[str]
    answered_at: Mapped[datetime | None] = mapped_column(Instant)


class TrialRow(Base):
    """A revision that is, or was, tried on some of the orders."""

    __tablename__ = "trials"
    id: Mapped[str] = mapped_column(String, primary_key=True)
    document_id: Mapped[str] = mapped_column(ForeignKey("documents.id"), index=True)
    letter: Mapped[str]
    before: Mapped[str]
    one_in: Mapped[int]
    districts: Mapped[list[str]] = mapped_column(JSON)
    seed: Mapped[str]
    worth_minutes: Mapped[float]
    most_jobs: Mapped[int]
    began_at: Mapped[datetime] = mapped_column(Instant)
    began_by: Mapped[str] = mapped_column(ForeignKey("people.id"))
    ended_at: Mapped[datetime | None] = mapped_column(Instant)
    ended_by: Mapped[str | None] = mapped_column(ForeignKey("people.id"))
    end: Mapped[str | None]
    reason: Mapped[str]


class TrialOrderRow(Base):
    """An order that a trial took: with the revision on trial, or beside it with the one in force. Only added to."""

    __tablename__ = "trial_orders"
    trial_id: Mapped[str] = mapped_column(ForeignKey("trials.id"), primary_key=True)
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), primary_key=True)
    tried: Mapped[bool]


class ProposalRow(Base):
    """What was decided on a proposal; one that nobody has decided on has no row."""

    __tablename__ = "proposals"
    key: Mapped[str] = mapped_column(String, primary_key=True)
    state: Mapped[str]
    n_jobs: Mapped[int]
    at: Mapped[datetime] = mapped_column(Instant)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    reason: Mapped[str] = mapped_column(String, server_default="")
    until: Mapped[datetime | None] = mapped_column(Instant)
    document_id: Mapped[str] = mapped_column(String, server_default="")
    letter: Mapped[str] = mapped_column(String, server_default="")
    promised: Mapped[str] = mapped_column(String, server_default="")


class UploadRow(Base):
    """A picture that comes in pieces; its bytes lie in a file beside those of pictures until all are here."""

    __tablename__ = "uploads"
    picture_id: Mapped[str] = mapped_column(String, primary_key=True)
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"))
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    question: Mapped[str]
    size: Mapped[int]
    sha256: Mapped[str]
    begun_at: Mapped[datetime] = mapped_column(Instant)


class EventRow(Base):
    """One thing the field recorded. Rows are only ever added."""

    __tablename__ = "events"
    __table_args__ = (UniqueConstraint("order_id", "number"),)
    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"))
    number: Mapped[int]
    submission_id: Mapped[str] = mapped_column(ForeignKey("submissions.id"))
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    at: Mapped[datetime] = mapped_column(Instant)
    kind: Mapped[str] = mapped_column(String, index=True)
    payload: Mapped[dict[str, Any]] = mapped_column(JSON)


class PictureRow(Base):
    """A picture taken on site; the file lies beside the database, named by its hash."""

    __tablename__ = "pictures"
    id: Mapped[str] = mapped_column(String, primary_key=True)
    sha256: Mapped[str]
    media_type: Mapped[str]
    width: Mapped[int]
    height: Mapped[int]
    taken_at: Mapped[datetime] = mapped_column(Instant)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    order_id: Mapped[str] = mapped_column(ForeignKey("orders.id"), index=True)
    blur: Mapped[float | None]
    light: Mapped[float | None]
    fingerprint: Mapped[str | None]
    same_as: Mapped[str | None]
