"""Who changed what, invitations and removed people, summaries of finished jobs.

Revision: 0005
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from reedling.store.sqlite import LOG_GUARDS
from reedling.store.tables import Instant

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database forward."""
    op.create_table(
        "changes",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("batch", sa.String(), nullable=False),
        sa.Column("at", Instant(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=True),
        sa.Column("subject", sa.String(), nullable=False),
        sa.Column("key", sa.String(), nullable=False),
        sa.Column("act", sa.String(), nullable=False),
        sa.Column("before", sa.JSON(), nullable=True),
        sa.Column("after", sa.JSON(), nullable=True),
        sa.Column("note", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["people.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("changes", schema=None) as batch_op:
        batch_op.create_index("changes_by_batch", ["batch"], unique=False)
        batch_op.create_index("changes_by_subject", ["subject", "key"], unique=False)
        batch_op.create_index("changes_in_order", ["subject", "id"], unique=False)

    op.create_table(
        "invitations",
        sa.Column("token_hash", sa.String(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("expires_at", Instant(), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["people.id"],
        ),
        sa.PrimaryKeyConstraint("token_hash"),
    )
    with op.batch_alter_table("invitations", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_invitations_person_id"), ["person_id"], unique=False)

    op.create_table(
        "step_summaries",
        sa.Column("document_id", sa.String(), nullable=False),
        sa.Column("step", sa.String(), nullable=False),
        sa.Column("revision", sa.String(), nullable=False),
        sa.Column("incident_type_id", sa.String(), nullable=False),
        sa.Column("n_jobs", sa.Integer(), nullable=False),
        sa.Column("n_wanted", sa.Integer(), nullable=False),
        sa.Column("n_done", sa.Integer(), nullable=False),
        sa.Column("n_skipped", sa.Integer(), nullable=False),
        sa.Column("n_judged", sa.Integer(), nullable=False),
        sa.Column("n_out_of_limit", sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(
            ["document_id"],
            ["documents.id"],
        ),
        sa.PrimaryKeyConstraint("document_id", "step", "revision", "incident_type_id"),
    )
    op.create_table(
        "job_sources",
        sa.Column("document_id", sa.String(), nullable=False),
        sa.Column("revision", sa.String(), nullable=False),
        sa.Column("order_id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(
            ["order_id"],
            ["orders.id"],
        ),
        sa.PrimaryKeyConstraint("document_id", "revision", "order_id"),
    )
    op.create_table(
        "job_summaries",
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("incident_type_id", sa.String(), nullable=False),
        sa.Column("asset_id", sa.String(), nullable=False),
        sa.Column("symptom", sa.String(), nullable=False),
        sa.Column("finished_at", Instant(), nullable=False),
        sa.Column("n_visits", sa.Integer(), nullable=False),
        sa.Column("working_visits", sa.Integer(), nullable=False),
        sa.Column("minutes_on_site", sa.Float(), nullable=False),
        sa.Column("planned_minutes", sa.Float(), nullable=True),
        sa.Column("n_departures", sa.Integer(), nullable=False),
        sa.Column("n_findings", sa.Integer(), nullable=False),
        sa.Column("fixed", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(
            ["order_id"],
            ["orders.id"],
        ),
        sa.PrimaryKeyConstraint("order_id"),
    )
    with op.batch_alter_table("job_summaries", schema=None) as batch_op:
        batch_op.create_index("job_summaries_by_asset", ["asset_id"], unique=False)
        batch_op.create_index(
            "job_summaries_by_minutes", ["incident_type_id", "minutes_on_site"], unique=False
        )
        batch_op.create_index(
            "job_summaries_by_planned", ["incident_type_id", "planned_minutes"], unique=False
        )
        batch_op.create_index(
            "job_summaries_by_type",
            ["incident_type_id", "finished_at", "fixed"],
            unique=False,
        )

    op.create_table(
        "last_answers",
        sa.Column("asset_id", sa.String(), nullable=False),
        sa.Column("question", sa.String(), nullable=False),
        sa.Column("answer", sa.JSON(), nullable=False),
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("finished_at", Instant(), nullable=False),
        sa.ForeignKeyConstraint(
            ["asset_id"],
            ["assets.id"],
        ),
        sa.ForeignKeyConstraint(
            ["order_id"],
            ["orders.id"],
        ),
        sa.PrimaryKeyConstraint("asset_id", "question"),
    )
    with op.batch_alter_table("people", schema=None) as batch_op:
        batch_op.add_column(sa.Column("administrator", sa.Boolean(), server_default="0", nullable=False))
        batch_op.add_column(sa.Column("removed_at", Instant(), nullable=True))
        batch_op.add_column(sa.Column("failed_sign_ins", sa.Integer(), server_default="0", nullable=False))
        batch_op.add_column(sa.Column("last_failed_at", Instant(), nullable=True))

    with op.batch_alter_table("sessions", schema=None) as batch_op:
        batch_op.add_column(sa.Column("opened_at", Instant(), nullable=True))
        batch_op.create_index(batch_op.f("ix_sessions_person_id"), ["person_id"], unique=False)

    with op.batch_alter_table("step_records", schema=None) as batch_op:
        batch_op.add_column(sa.Column("incident_type_id", sa.String(), nullable=True))
        batch_op.add_column(sa.Column("closed", sa.Boolean(), server_default="0", nullable=False))
        batch_op.create_index(
            "step_records_by_minutes",
            ["incident_type_id", "document_id", "step", "closed", "minutes"],
            unique=False,
        )

    with op.batch_alter_table("submissions", schema=None) as batch_op:
        batch_op.add_column(sa.Column("digest", sa.String(), server_default="", nullable=False))
        batch_op.add_column(sa.Column("ahead_s", sa.Float(), nullable=True))
    op.create_table(
        "job_parts",
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("part", sa.String(), nullable=False),
        sa.Column("quantity", sa.Float(), nullable=False),
        sa.ForeignKeyConstraint(["order_id"], ["orders.id"]),
        sa.PrimaryKeyConstraint("order_id", "part"),
    )
    op.create_table(
        "recorded_codes",
        sa.Column("listed", sa.String(), nullable=False),
        sa.Column("code", sa.String(), nullable=False),
        sa.Column("order_id", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["order_id"], ["orders.id"]),
        sa.PrimaryKeyConstraint("listed", "code", "order_id"),
    )
    op.create_index("orders_by_state", "orders", ["state", "finished_at"])
    op.create_index(
        "orders_in_short",
        "orders",
        ["logged_at", "id", "state", "asset_id", "symptom", "technician_id", "report"],
    )
    op.create_index("orders_by_symptom", "orders", ["symptom"])
    op.create_index(
        "step_records_by_revision",
        "step_records",
        ["incident_type_id", "document_id", "step", "closed", "revision", "minutes"],
    )
    op.add_column("revisions", sa.Column("rests_on", sa.JSON(), server_default="[]", nullable=False))
    for guard in LOG_GUARDS:
        op.execute(guard)


def downgrade() -> None:
    """Take the database back."""
    for guard in LOG_GUARDS:
        op.execute(f"DROP TRIGGER {guard.split()[2]}")
    op.drop_column("revisions", "rests_on")
    op.drop_index("step_records_by_revision", "step_records")
    op.drop_index("orders_by_symptom", "orders")
    op.drop_index("orders_in_short", "orders")
    op.drop_index("orders_by_state", "orders")
    op.drop_table("recorded_codes")
    op.drop_table("job_parts")
    op.drop_column("submissions", "ahead_s")
    op.drop_column("submissions", "digest")

    op.drop_index("step_records_by_minutes", "step_records")
    op.drop_column("step_records", "closed")
    op.drop_column("step_records", "incident_type_id")

    op.drop_index("ix_sessions_person_id", "sessions")
    op.drop_column("sessions", "opened_at")

    op.drop_column("people", "last_failed_at")
    op.drop_column("people", "failed_sign_ins")
    op.drop_column("people", "removed_at")
    op.drop_column("people", "administrator")

    op.drop_table("last_answers")
    op.drop_index("job_summaries_by_type", "job_summaries")
    op.drop_index("job_summaries_by_planned", "job_summaries")
    op.drop_index("job_summaries_by_minutes", "job_summaries")
    op.drop_index("job_summaries_by_asset", "job_summaries")

    op.drop_table("job_summaries")
    op.drop_table("job_sources")
    op.drop_table("step_summaries")
    op.drop_index("ix_invitations_person_id", "invitations")

    op.drop_table("invitations")
    op.drop_index("changes_in_order", "changes")
    op.drop_index("changes_by_subject", "changes")
    op.drop_index("changes_by_batch", "changes")

    op.drop_table("changes")
