"""What lists show of an order's runsheet stands beside it, so that lists need not read runsheets.

Revision: 0004
"""

from __future__ import annotations

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database forward."""
    op.add_column("orders", sa.Column("sources", sa.JSON(), server_default="[]", nullable=False))
    op.add_column("orders", sa.Column("planned_minutes", sa.Float(), server_default="0", nullable=False))
    orders = sa.table(
        "orders",
        sa.column("id", sa.String()),
        sa.column("runsheet", sa.JSON()),
        sa.column("terms", sa.JSON()),
        sa.column("sources", sa.JSON()),
        sa.column("planned_minutes", sa.Float()),
    )
    connection = op.get_bind()
    for order, sheet, terms in connection.execute(
        sa.select(orders.c.id, orders.c.runsheet, orders.c.terms)
    ).all():
        runsheet, held = _read(sheet), _read(terms)
        minutes = held.get("expected_minutes") or _minutes(runsheet.get("lines", []))
        connection.execute(
            sa.update(orders)
            .where(orders.c.id == order)
            .values(sources=runsheet.get("sources", []), planned_minutes=minutes)
        )


def _read(value: Any) -> dict[str, Any]:
    read: dict[str, Any] = json.loads(value) if isinstance(value, str) else value
    return read


def _minutes(lines: list[dict[str, Any]]) -> float:
    """The likely minutes of the lines that are always wanted."""
    conditional: set[str] = set()
    for line in lines:
        if line["condition"] is not None or line["under"] in conditional:
            conditional.add(line["id"])
    return sum(float(line["minutes"]["likely"]) for line in lines if line["id"] not in conditional)


def downgrade() -> None:
    """Take the database back; nothing is lost."""
    op.execute("ALTER TABLE orders DROP COLUMN planned_minutes")
    op.execute("ALTER TABLE orders DROP COLUMN sources")
