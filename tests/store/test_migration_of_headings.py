"""Migration 0004: what lists show of a runsheet, worked out for the orders that are there."""

from __future__ import annotations

from pathlib import Path

from sqlalchemy import text

from reedling.core.orders.orders import heading_of
from reedling.store.migrate import missing_migrations
from reedling.wiring import open_context
from tests.store.test_migration_of_matching import go_to


def test_headings_are_what_the_runsheets_say(demo_dir: Path) -> None:
    """The demo's orders, taken back and forward again, against their runsheets read in full."""
    context = open_context(demo_dir)
    with context.store.reading() as unit:
        before = unit.orders.headings()
        assert before == tuple(heading_of(order) for order in unit.orders.find())
        assert any(order.planned_minutes for order in before)
    engine = context.store.engine
    go_to(engine, "0003", down=True)
    with engine.connect() as connection:
        columns = {row[1] for row in connection.execute(text("PRAGMA table_info(orders)"))}
        assert "planned_minutes" not in columns
    go_to(engine, "head")
    assert missing_migrations(engine) == []
    with context.store.reading() as unit:
        assert unit.orders.headings() == before
