"""The last day of routine visits, and when each step was done or why it was left out."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from reedling.store.tables import Instant

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database to this shape; orders from before have no last day."""
    op.add_column("orders", sa.Column("due_on", sa.Date(), nullable=True))
    op.create_index("orders_by_last_day", "orders", ["due_on", "state"])
    op.add_column("step_records", sa.Column("done_at", Instant(), nullable=True))
    op.add_column("step_records", sa.Column("skip_reason", sa.String(), server_default="", nullable=False))


def downgrade() -> None:
    """Take the database back."""
    op.drop_column("step_records", "skip_reason")
    op.drop_column("step_records", "done_at")
    op.drop_index("orders_by_last_day", table_name="orders")
    op.drop_column("orders", "due_on")
