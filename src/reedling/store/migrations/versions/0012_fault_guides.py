"""What finished jobs tried of a fault guide."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database to this shape."""
    op.create_table(
        "job_tried",
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("guide", sa.String(), nullable=False),
        sa.Column("remedy", sa.String(), nullable=False),
        sa.Column("helped", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(["order_id"], ["orders.id"]),
        sa.PrimaryKeyConstraint("order_id", "guide", "remedy"),
    )


def downgrade() -> None:
    """Take the database back."""
    op.drop_table("job_tried")
