"""What matching needs: tags, contracts and warranties, what orders took over, changes by hand.

Revision: 0003
"""

from __future__ import annotations

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

from reedling.store.sqlite import CHANGE_GUARDS, GUARDS
from reedling.store.tables import Instant

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

FROZEN = "runsheet_is_frozen"


def upgrade() -> None:
    """Bring the database forward."""
    with op.batch_alter_table("sites", schema=None) as batch_op:
        batch_op.add_column(sa.Column("tags", sa.JSON(), server_default="[]", nullable=False))
        batch_op.add_column(sa.Column("contract", sa.String(), server_default="", nullable=False))
    with op.batch_alter_table("assets", schema=None) as batch_op:
        batch_op.add_column(sa.Column("warranty_until", sa.Date(), nullable=True))
    op.execute(f"DROP TRIGGER {FROZEN}")
    for column in (
        sa.Column("matched_on", sa.JSON(), nullable=True),
        sa.Column("terms", sa.JSON(), server_default="{}", nullable=False),
        sa.Column("priority", sa.String(), server_default="", nullable=False),
    ):
        op.add_column("orders", column)
    op.create_table(
        "order_changes",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("order_id", sa.String(), nullable=False),
        sa.Column("at", Instant(), nullable=False),
        sa.Column("person_id", sa.String(), nullable=False),
        sa.Column("act", sa.String(), nullable=False),
        sa.Column("document_id", sa.String(), nullable=False),
        sa.Column("revision", sa.String(), nullable=False),
        sa.Column("title", sa.String(), nullable=False),
        sa.Column("reason", sa.String(), nullable=False),
        sa.ForeignKeyConstraint(["order_id"], ["orders.id"]),
        sa.ForeignKeyConstraint(["person_id"], ["people.id"]),
        sa.ForeignKeyConstraint(["document_id"], ["documents.id"]),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("ix_order_changes_order_id", "order_changes", ["order_id"])
    orders = sa.table("orders", sa.column("id", sa.String()), sa.column("trace", sa.JSON()))
    connection = op.get_bind()
    for order, trace in connection.execute(sa.select(orders.c.id, orders.c.trace)).all():
        of_rows = [_of_row(t) for t in (json.loads(trace) if isinstance(trace, str) else trace)]
        connection.execute(sa.update(orders).where(orders.c.id == order).values(trace=of_rows))
    op.execute(next(g for g in GUARDS if FROZEN in g))
    for guard in CHANGE_GUARDS:
        op.execute(guard)


def _of_row(trace: dict[str, Any]) -> dict[str, Any]:
    """A reason kept for a plan, as a reason kept for what the plan says of itself."""
    if "documents" in trace:
        return trace
    kept = {key: trace[key] for key in ("revision", "matched", "misses", "cells", "sentence")}
    named = {"document": trace["document"], "title": trace["title"]}
    return {**kept, "table": trace["document"], "row": "", "number": 0, "documents": [named]}


def downgrade() -> None:
    """Take the database back; what orders were matched on and took over is lost."""
    op.drop_table("order_changes")
    for table, column in (
        ("orders", "priority"),
        ("orders", "terms"),
        ("orders", "matched_on"),
        ("assets", "warranty_until"),
        ("sites", "contract"),
        ("sites", "tags"),
    ):
        op.execute(f"ALTER TABLE {table} DROP COLUMN {column}")
