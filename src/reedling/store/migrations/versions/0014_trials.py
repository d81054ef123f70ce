"""Trials of revisions, and the orders that they took."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from reedling.store.sqlite import TRIAL_GUARDS
from reedling.store.tables import Instant

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database to this shape."""
    op.create_table(
        "trials",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("document_id", sa.String(), nullable=False),
        sa.Column("letter", sa.String(), nullable=False),
        sa.Column("before", sa.String(), nullable=False),
        sa.Column("one_in", sa.Integer(), nullable=False),
        sa.Column("districts", sa.JSON(), nullable=False),
        sa.Column("seed", sa.String(), nullable=False),
        sa.Column("worth_minutes", sa.Double(), nullable=False),
        sa.Column("most_jobs", sa.Integer(), nullable=False),
        sa.Column("began_at", Instant(), nullable=False),
        sa.Column("began_by", sa.String(), nullable=False),
        sa.Column("ended_at", Instant(), nullable=True),
        sa.Column("ended_by", sa.String(), nullable=True),
        sa.Column("end", sa.String(), nullable=True),
        sa.Column("reason", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["document_id"], ["documents.id"]),
        sa.ForeignKeyConstraint(["began_by"], ["people.id"]),
        sa.ForeignKeyConstraint(["ended_by"], ["people.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("trials", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_trials_document_id"), ["document_id"], unique=False)
    op.create_table(
        "trial_orders",
        sa.Column("trial_id", sa.String(), nullable=False),
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("tried", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["trial_id"], ["trials.id"]),
        sa.ForeignKeyConstraint(["order_id"], ["orders.id"]),
        sa.PrimaryKeyConstraint("trial_id", "order_id"),
    )
    for guard in TRIAL_GUARDS:
        op.execute(guard)


def downgrade() -> None:
    """Take the database back; a revision on trial is again one in review."""
    for guard in TRIAL_GUARDS:
        op.execute(f"DROP TRIGGER {guard.split()[2]}")
    op.execute("UPDATE revisions SET state = 'In review' WHERE state = 'On trial'")
    op.drop_table("trial_orders")
    op.drop_table("trials")
