"""Help threads, what they say of steps, and what finished jobs are told apart by."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from reedling.store.tables import Instant

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None

TEXTS = ("model", "district", "technician_id", "cause", "remedy")


def upgrade() -> None:
    """Bring the database to this shape; summaries are counted anew at the next start."""
    op.create_table(
        "help_threads",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("line", sa.String(), server_default="", nullable=False),
        sa.Column("asked_at", Instant(), nullable=False),
        sa.Column("last_said_at", Instant(), nullable=False),
        sa.Column("ended_at", Instant(), nullable=True),
        sa.Column("kept", sa.Boolean(), nullable=True),
        sa.ForeignKeyConstraint(["order_id"], ["orders.id"]),
        sa.ForeignKeyConstraint(["person_id"], ["people.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_help_threads_order_id", "help_threads", ["order_id"])
    op.create_index("help_threads_open", "help_threads", ["ended_at"])
    op.create_table(
        "help_replies",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("thread_id", sa.String(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("at", Instant(), nullable=False),
        sa.Column("text", sa.String(), nullable=False),
        sa.Column("marks", sa.JSON(), nullable=False),
        sa.ForeignKeyConstraint(["thread_id"], ["help_threads.id"]),
        sa.ForeignKeyConstraint(["person_id"], ["people.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_help_replies_thread_id", "help_replies", ["thread_id"])
    op.create_table(
        "evidence_reads",
        sa.Column("incident_type_id", sa.String(), nullable=False),
        sa.Column("at", Instant(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["people.id"]),
        sa.PrimaryKeyConstraint("incident_type_id"),
    )
    op.create_table(
        "proposals",
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.Column("n_jobs", sa.Integer(), nullable=False),
        sa.Column("at", Instant(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), server_default="", nullable=False),
        sa.Column("until", Instant(), nullable=True),
        sa.Column("document_id", sa.String(), server_default="", nullable=False),
        sa.Column("letter", sa.String(), server_default="", nullable=False),
        sa.Column("promised", sa.String(), server_default="", nullable=False),
        sa.ForeignKeyConstraint(["person_id"], ["people.id"]),
        sa.PrimaryKeyConstraint("key"),
    )
    op.create_table(
        "job_readings",
        sa.Column("id", sa.Integer(), autoincrement=True, nullable=False),
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("question", sa.String(), nullable=False),
        sa.Column("each", sa.String(), server_default="", nullable=False),
        sa.Column("value", sa.Float(), nullable=False),
        sa.Column("out", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["order_id"], ["orders.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_job_readings_order_id", "job_readings", ["order_id"])
    op.create_index("job_readings_by_question", "job_readings", ["question", "order_id"])
    op.create_table(
        "job_choices",
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("question", sa.String(), nullable=False),
        sa.Column("value", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["order_id"], ["orders.id"]),
        sa.PrimaryKeyConstraint("order_id", "question", "value"),
    )
    op.add_column("step_records", sa.Column("helped", sa.Boolean(), server_default="0", nullable=False))
    op.add_column("step_summaries", sa.Column("n_helped", sa.Integer(), server_default="0", nullable=False))
    for name in TEXTS:
        op.add_column("job_summaries", sa.Column(name, sa.String(), server_default="", nullable=False))
    op.add_column("job_summaries", sa.Column("logged_at", Instant(), nullable=True))
    op.add_column("job_summaries", sa.Column("n_helped", sa.Integer(), server_default="0", nullable=False))
    op.add_column(
        "job_summaries", sa.Column("return_reasons", sa.JSON(), server_default="[]", nullable=False)
    )


def downgrade() -> None:
    """Take the database back."""
    for name in ("return_reasons", "n_helped", "logged_at", *reversed(TEXTS)):
        op.drop_column("job_summaries", name)
    op.drop_column("step_summaries", "n_helped")
    op.drop_column("step_records", "helped")
    op.drop_table("job_choices")
    op.drop_table("job_readings")
    op.drop_table("proposals")
    op.drop_table("evidence_reads")
    op.drop_table("help_replies")
    op.drop_table("help_threads")
