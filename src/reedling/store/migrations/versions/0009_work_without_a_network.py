"""Records that a job could not take in stay beside the order, pictures come in pieces, and settings are kept."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from reedling.store.tables import Instant

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database to this shape."""
    op.create_table(
        "loose_records",
        sa.Column("submission_id", sa.String(), nullable=False),
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("events", sa.JSON(), nullable=False),
        sa.Column("code", sa.String(), nullable=False),
        sa.Column("why", sa.String(), nullable=False),
        sa.Column("decision", sa.String(), nullable=True),
        sa.Column("decided_at", Instant(), nullable=True),
        sa.Column("decided_by", sa.String(), nullable=True),
        sa.Column("reason", sa.String(), server_default="", nullable=False),
        sa.ForeignKeyConstraint(["submission_id"], ["submissions.id"]),
        sa.ForeignKeyConstraint(["order_id"], ["orders.id"]),
        sa.ForeignKeyConstraint(["person_id"], ["people.id"]),
        sa.ForeignKeyConstraint(["decided_by"], ["people.id"]),
        sa.PrimaryKeyConstraint("submission_id"),
    )
    op.create_index("ix_loose_records_order_id", "loose_records", ["order_id"])
    op.create_index("ix_loose_records_person_id", "loose_records", ["person_id"])
    op.create_index("loose_records_by_decision", "loose_records", ["decision"])
    op.create_table(
        "uploads",
        sa.Column("picture_id", sa.String(), nullable=False),
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("question", sa.String(), nullable=False),
        sa.Column("size", sa.Integer(), nullable=False),
        sa.Column("sha256", sa.String(), nullable=False),
        sa.Column("begun_at", Instant(), nullable=False),
        sa.ForeignKeyConstraint(["order_id"], ["orders.id"]),
        sa.ForeignKeyConstraint(["person_id"], ["people.id"]),
        sa.PrimaryKeyConstraint("picture_id"),
    )
    op.create_table(
        "settings",
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("value", sa.JSON(), nullable=False),
        sa.PrimaryKeyConstraint("name"),
    )


def downgrade() -> None:
    """Take the database back."""
    op.drop_table("settings")
    op.drop_table("uploads")
    op.drop_table("loose_records")
