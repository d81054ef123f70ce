"""Choices of jobs that are kept by name."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from reedling.store.tables import Instant

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database to this shape."""
    op.create_table(
        "kept_views",
        sa.Column("incident_type_id", sa.String(), nullable=False),
        sa.Column("name", sa.String(), nullable=False),
        sa.Column("choices", sa.JSON(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("at", Instant(), nullable=False),
        sa.ForeignKeyConstraint(["incident_type_id"], ["documents.id"]),
        sa.ForeignKeyConstraint(["person_id"], ["people.id"]),
        sa.PrimaryKeyConstraint("incident_type_id", "name"),
    )


def downgrade() -> None:
    """Take the database back."""
    op.drop_table("kept_views")
