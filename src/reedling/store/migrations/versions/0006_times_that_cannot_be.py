"""Times that cannot be are marked, and left out of figures."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database to this shape; summaries are counted anew at the next start."""
    op.add_column("step_records", sa.Column("doubtful", sa.Boolean(), server_default="0", nullable=False))
    op.add_column("step_summaries", sa.Column("n_doubtful", sa.Integer(), server_default="0", nullable=False))
    with op.batch_alter_table("job_summaries") as table:
        table.add_column(sa.Column("doubtful_finish", sa.Boolean(), server_default="0", nullable=False))
        table.alter_column("minutes_on_site", existing_type=sa.Float(), nullable=True)


def downgrade() -> None:
    """Take the database back."""
    op.execute("DELETE FROM job_summaries WHERE minutes_on_site IS NULL")
    with op.batch_alter_table("job_summaries") as table:
        table.alter_column("minutes_on_site", existing_type=sa.Float(), nullable=False)
        table.drop_column("doubtful_finish")
    op.drop_column("step_summaries", "n_doubtful")
    op.drop_column("step_records", "doubtful")
