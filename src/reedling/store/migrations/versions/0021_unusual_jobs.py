"""What makes a finished job unusual, counted by its kind; and whether it is a repeat."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None

COUNTS = ("n_out_of_limit", "n_parts_unplanned", "n_long", "n_hasty")


def upgrade() -> None:
    """Bring the database to this shape; summaries are worked out anew at the next start."""
    for name in COUNTS:
        op.add_column("job_summaries", sa.Column(name, sa.Integer(), nullable=False, server_default="0"))
    op.add_column("job_summaries", sa.Column("tone", sa.Float(), nullable=True))
    op.add_column("job_summaries", sa.Column("is_repeat", sa.Boolean(), nullable=False, server_default="0"))


def downgrade() -> None:
    """Take the database back."""
    for name in (*COUNTS, "tone", "is_repeat"):
        op.drop_column("job_summaries", name)
