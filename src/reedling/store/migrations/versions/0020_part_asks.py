"""Parts that technicians ask each other for."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from reedling.store.sqlite import GUARDS
from reedling.store.tables import Instant

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None

FROZEN = "runsheet_is_frozen"


def upgrade() -> None:
    """Bring the database to this shape."""
    op.create_table(
        "part_asks",
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("id", sa.String(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("of_id", sa.String(), nullable=False),
        sa.Column("part", sa.String(), nullable=False),
        sa.Column("quantity", sa.Double(), nullable=False),
        sa.Column("at", Instant(), nullable=False),
        sa.Column("state", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["order_id"], ["orders.id"]),
        sa.ForeignKeyConstraint(["person_id"], ["people.id"]),
        sa.ForeignKeyConstraint(["of_id"], ["people.id"]),
        sa.PrimaryKeyConstraint("order_id", "id"),
    )
    op.create_index("part_asks_of", "part_asks", ["of_id", "state"])
    # A part on its way to an order is no work on it: documents may still be put on it by hand.
    op.execute(f"DROP TRIGGER {FROZEN}")
    op.execute(next(guard for guard in GUARDS if FROZEN in guard))


def downgrade() -> None:
    """Take the database back."""
    op.drop_table("part_asks")
