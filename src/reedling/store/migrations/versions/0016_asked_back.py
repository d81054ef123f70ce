"""What the office asks technicians about jobs that are over."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from reedling.store.tables import Instant

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database to this shape."""
    op.create_table(
        "asked_back",
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("line", sa.String(), nullable=False),
        sa.Column("text", sa.String(), nullable=False),
        sa.Column("asked_at", Instant(), nullable=False),
        sa.Column("asked_by", sa.String(), nullable=False),
        sa.Column("technician_id", sa.String(), nullable=False),
        sa.Column("answer", sa.String(), nullable=False),
        sa.Column("answered_at", Instant(), nullable=True),
        sa.ForeignKeyConstraint(["order_id"], ["orders.id"]),
        sa.ForeignKeyConstraint(["asked_by"], ["people.id"]),
        sa.ForeignKeyConstraint(["technician_id"], ["people.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    with op.batch_alter_table("asked_back", schema=None) as batch_op:
        batch_op.create_index(batch_op.f("ix_asked_back_order_id"), ["order_id"], unique=False)
        batch_op.create_index(batch_op.f("ix_asked_back_technician_id"), ["technician_id"], unique=False)


def downgrade() -> None:
    """Take the database back."""
    op.drop_table("asked_back")
