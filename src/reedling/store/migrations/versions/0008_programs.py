"""Programs come in by a token of their own."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from reedling.store.tables import Instant

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database to this shape."""
    op.add_column("people", sa.Column("program", sa.Boolean(), server_default="0", nullable=False))
    op.create_table(
        "program_tokens",
        sa.Column("token_hash", sa.String(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("created_at", Instant(), nullable=False),
        sa.Column("created_by", sa.String(), nullable=True),
        sa.Column("last_used_at", Instant(), nullable=True),
        sa.ForeignKeyConstraint(["person_id"], ["people.id"]),
        sa.ForeignKeyConstraint(["created_by"], ["people.id"]),
        sa.PrimaryKeyConstraint("token_hash"),
        sa.UniqueConstraint("person_id"),
    )


def downgrade() -> None:
    """Take the database back."""
    op.drop_table("program_tokens")
    op.drop_column("people", "program")
