"""The only SQL that SQLite alone speaks: how connections are set up, and the guards.

The guards are triggers: what is released never changes, and what happened is only added to.
Another database would bring its own versions of these two lists.
"""

from __future__ import annotations

import sqlite3
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, create_engine, event

BUSY_TIMEOUT_MS = 10_000

GUARDS = (
    """
    CREATE TRIGGER released_is_final BEFORE UPDATE ON revisions
    WHEN OLD.state IN ('Released', 'Superseded', 'Withdrawn') AND (
      NEW.content IS NOT OLD.content OR NEW.letter IS NOT OLD.letter
      OR NEW.document_id IS NOT OLD.document_id OR NEW.version IS NOT OLD.version
      OR NEW.released_at IS NOT OLD.released_at OR NEW.released_by IS NOT OLD.released_by
      OR NEW.state IN ('Draft', 'In review')
      OR (OLD.state <> 'Released' AND NEW.state = 'Released'))
    BEGIN SELECT RAISE(ABORT, 'a released revision never changes'); END
    """,
    """
    CREATE TRIGGER released_is_kept BEFORE DELETE ON revisions
    WHEN OLD.state IN ('Released', 'Superseded', 'Withdrawn')
    BEGIN SELECT RAISE(ABORT, 'a released revision is never deleted'); END
    """,
    """
    CREATE TRIGGER runsheet_is_frozen BEFORE UPDATE OF runsheet ON orders
    WHEN NEW.runsheet IS NOT OLD.runsheet AND (
      OLD.state NOT IN ('Logged', 'Planned')
      OR EXISTS (SELECT 1 FROM events WHERE events.order_id = OLD.id))
    BEGIN SELECT RAISE(ABORT, 'a runsheet never changes under way'); END
    """,
    """
    CREATE TRIGGER events_are_final BEFORE UPDATE ON events
    BEGIN SELECT RAISE(ABORT, 'what happened is only added to'); END
    """,
    """
    CREATE TRIGGER events_are_kept BEFORE DELETE ON events
    BEGIN SELECT RAISE(ABORT, 'what happened is only added to'); END
    """,
)

CHANGE_GUARDS = (
    """
    CREATE TRIGGER changes_are_final BEFORE UPDATE ON order_changes
    BEGIN SELECT RAISE(ABORT, 'what was done by hand is only added to'); END
    """,
    """
    CREATE TRIGGER changes_are_kept BEFORE DELETE ON order_changes
    BEGIN SELECT RAISE(ABORT, 'what was done by hand is only added to'); END
    """,
)
"""Guards of the table that came with migration 0003."""

REMOVE_GUARDS = tuple(f"DROP TRIGGER {guard.split()[2]}" for guard in GUARDS)


def open_engine(path: Path) -> Engine:
    """An engine on the database file, which is created with its folder if need be.

    A writing transaction takes its lock at the start, so that two writers queue instead of
    failing half-way.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": BUSY_TIMEOUT_MS / 1000})

    @event.listens_for(engine, "connect")
    def set_up(connection: sqlite3.Connection, _record: Any) -> None:
        connection.isolation_level = None
        connection.execute("PRAGMA journal_mode = WAL")
        connection.execute("PRAGMA synchronous = NORMAL")
        connection.execute("PRAGMA foreign_keys = ON")

    @event.listens_for(engine, "begin")
    def begin(connection: Any) -> None:
        mode = "IMMEDIATE" if connection.get_execution_options().get("writes") else "DEFERRED"
        connection.exec_driver_sql(f"BEGIN {mode}")

    return engine
