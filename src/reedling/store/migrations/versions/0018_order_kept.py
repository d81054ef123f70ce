"""How far each finished job kept to the order of its runsheet, and what was out of turn."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database to this shape; summaries are worked out anew at the next start."""
    op.add_column("job_summaries", sa.Column("order_kept", sa.Float(), nullable=True))
    op.create_table(
        "job_out_of_turn",
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("line", sa.String(), nullable=False),
        sa.Column("other", sa.String(), nullable=False),
        sa.Column("is_early", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["order_id"], ["orders.id"]),
        sa.PrimaryKeyConstraint("order_id", "line", "other", "is_early"),
    )


def downgrade() -> None:
    """Take the database back."""
    op.drop_table("job_out_of_turn")
    op.drop_column("job_summaries", "order_kept")
