"""The last day of routine visits, and when each step was done or why it was left out."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import sqlalchemy as sa
from alembic import op

from reedling.store.tables import Instant

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Bring the database to this shape; orders whose terms name no days have no last day."""
    op.add_column("orders", sa.Column("due_on", sa.Date(), nullable=True))
    op.create_index("orders_by_last_day", "orders", ["due_on", "state"])
    op.add_column("step_records", sa.Column("done_at", Instant(), nullable=True))
    op.add_column("step_records", sa.Column("skip_reason", sa.String(), server_default="", nullable=False))
    orders = sa.table(
        "orders",
        sa.column("id", sa.String()),
        sa.column("asset_id", sa.String()),
        sa.column("terms", sa.JSON()),
        sa.column("logged_at", Instant()),
        sa.column("due_on", sa.Date()),
    )
    connection = op.get_bind()
    of_assets = sa.text("SELECT assets.id, sites.zone FROM assets JOIN sites ON sites.id = assets.site_id")
    zones: dict[str, str] = {str(row.id): str(row.zone) for row in connection.execute(of_assets)}
    for row in connection.execute(sa.select(orders)).all():
        days = (row.terms or {}).get("due_within_days")
        if days is not None:
            last = _day(row.logged_at, zones.get(row.asset_id) or "") + timedelta(days=days)
            connection.execute(sa.update(orders).where(orders.c.id == row.id).values(due_on=last))


def _day(at: datetime, zone: str) -> date:
    try:
        return at.astimezone(ZoneInfo(zone)).date()
    except (ZoneInfoNotFoundError, ValueError):
        return at.date()


def downgrade() -> None:
    """Take the database back."""
    op.drop_column("step_records", "skip_reason")
    op.drop_column("step_records", "done_at")
    op.drop_index("orders_by_last_day", table_name="orders")
    op.drop_column("orders", "due_on")
