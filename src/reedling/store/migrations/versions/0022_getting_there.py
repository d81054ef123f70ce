"""What getting to a finished job came to: minutes, the way from the visit before it, an arrival somewhere else."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None

COLUMNS = ("travel_minutes", "arrived_km_off", "km")
INDEXES = {"job_summaries_by_travel": "travel_minutes", "job_summaries_by_km": "km"}


def upgrade() -> None:
    """Bring the database to this shape; summaries are worked out anew at the next start."""
    for name in COLUMNS:
        op.add_column("job_summaries", sa.Column(name, sa.Float(), nullable=True))
    for index, name in INDEXES.items():
        op.create_index(index, "job_summaries", ["incident_type_id", name])
    op.create_table(
        "job_visits",
        sa.Column("order_id", sa.String(), sa.ForeignKey("orders.id"), primary_key=True),
        sa.Column("number", sa.Integer(), primary_key=True),
        sa.Column("technician_id", sa.String(), nullable=False),
        sa.Column("day", sa.Date(), nullable=False),
        sa.Column("headed_out_at", sa.DateTime(), nullable=False),
        sa.Column("east", sa.Float(), nullable=True),
        sa.Column("north", sa.Float(), nullable=True),
        sa.Column("km", sa.Float(), nullable=True),
    )
    op.create_index("job_visits_by_day", "job_visits", ["technician_id", "day"])


def downgrade() -> None:
    """Take the database back."""
    op.drop_table("job_visits")
    for index in INDEXES:
        op.drop_index(index, "job_summaries")
    for name in COLUMNS:
        op.drop_column("job_summaries", name)
