"""What the field records beside its steps."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from reedling.store.tables import Instant

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database to this shape."""
    op.create_table(
        "site_records",
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("kind", sa.String(), nullable=False),
        sa.Column("text", sa.String(), nullable=False),
        sa.Column("at", Instant(), nullable=False),
        sa.Column("waits", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["order_id"], ["orders.id"]),
        sa.ForeignKeyConstraint(["person_id"], ["people.id"]),
        sa.PrimaryKeyConstraint("order_id", "id"),
    )
    op.create_index("site_records_waiting", "site_records", ["waits", "kind"])
    op.add_column("job_summaries", sa.Column("n_beside", sa.Integer(), server_default="0", nullable=False))
    op.add_column("job_summaries", sa.Column("rating", sa.Integer(), nullable=True))
    op.add_column(
        "job_summaries", sa.Column("fix_confirmed", sa.Boolean(), server_default="0", nullable=False)
    )


def downgrade() -> None:
    """Take the database back."""
    op.drop_column("job_summaries", "fix_confirmed")
    op.drop_column("job_summaries", "rating")
    op.drop_column("job_summaries", "n_beside")
    op.drop_table("site_records")
