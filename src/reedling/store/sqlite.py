"""The only SQL that SQLite alone speaks: how connections are set up, and the guards.

The guards are triggers: what is released never changes, and what happened is only added to.
Another database would bring its own versions of these two lists.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any

from sqlalchemy import Connection, Engine, create_engine, event
from sqlalchemy.exc import DBAPIError

from reedling.errors import Unavailable

BUSY_TIMEOUT_MS = 10_000
POOL_SIZE = 20
"""Connections that are kept; as many again are opened when all worker threads want one."""

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
      OR EXISTS (SELECT 1 FROM events WHERE events.order_id = OLD.id AND events.kind NOT IN
        ('part asked', 'part ask answered', 'part picked up', 'part sent', 'part received')))
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

LOG_GUARDS = (
    """
    CREATE TRIGGER log_is_final BEFORE UPDATE ON changes
    BEGIN SELECT RAISE(ABORT, 'who changed what is only added to'); END
    """,
    """
    CREATE TRIGGER log_is_kept BEFORE DELETE ON changes
    BEGIN SELECT RAISE(ABORT, 'who changed what is only added to'); END
    """,
)
"""Guards of the table that came with migration 0005."""

TRIAL_GUARDS = (
    """
    CREATE TRIGGER tried_is_final BEFORE UPDATE ON revisions
    WHEN OLD.state = 'On trial' AND (
      NEW.content IS NOT OLD.content OR NEW.letter IS NOT OLD.letter
      OR NEW.document_id IS NOT OLD.document_id OR NEW.version IS NOT OLD.version
      OR NEW.state NOT IN ('On trial', 'Released', 'Withdrawn'))
    BEGIN SELECT RAISE(ABORT, 'a revision that orders have never changes'); END
    """,
    """
    CREATE TRIGGER tried_is_kept BEFORE DELETE ON revisions
    WHEN OLD.state = 'On trial'
    BEGIN SELECT RAISE(ABORT, 'a revision that orders have is never deleted'); END
    """,
    """
    CREATE TRIGGER trial_orders_are_final BEFORE UPDATE ON trial_orders
    BEGIN SELECT RAISE(ABORT, 'which orders a trial took is only added to'); END
    """,
    """
    CREATE TRIGGER trial_orders_are_kept BEFORE DELETE ON trial_orders
    BEGIN SELECT RAISE(ABORT, 'which orders a trial took is only added to'); END
    """,
)
"""Guards that came with migration 0014."""

REMOVE_GUARDS = tuple(f"DROP TRIGGER {guard.split()[2]}" for guard in GUARDS)


def open_engine(path: Path) -> Engine:
    """An engine on the database file, which is created with its folder if need be.

    A writing transaction takes its lock at the start, so that two writers queue instead of
    failing half-way. Each commit is on the disk when it returns: a receipt is a promise
    (docs/decisions/018).
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    engine = create_engine(
        f"sqlite:///{path}",
        connect_args={"timeout": BUSY_TIMEOUT_MS / 1000},
        pool_size=POOL_SIZE,
        max_overflow=POOL_SIZE,
        hide_parameters=True,
    )

    @event.listens_for(engine, "connect")
    def set_up(connection: sqlite3.Connection, _record: Any) -> None:
        connection.isolation_level = None
        connection.execute("PRAGMA journal_mode = WAL")
        connection.execute("PRAGMA synchronous = FULL")
        connection.execute("PRAGMA foreign_keys = ON")
        connection.execute("PRAGMA cache_size = -8000")

    @event.listens_for(engine, "begin")
    def begin(connection: Any) -> None:
        mode = "IMMEDIATE" if connection.get_execution_options().get("writes") else "DEFERRED"
        connection.exec_driver_sql(f"BEGIN {mode}")

    return engine


def copy_database(source: Path, target: Path) -> None:
    """Copy a database as it stands at one moment, also while it is written to; the copy is one file."""
    target.unlink(missing_ok=True)
    with closing(sqlite3.connect(source)) as held, closing(sqlite3.connect(target)) as copy:
        held.backup(copy)
        copy.execute("PRAGMA journal_mode = DELETE")
    target.chmod(0o600)


def find_faults(path: Path, *, most: int = 20) -> tuple[str, ...]:
    """What the database says is wrong with itself: damaged pages and indexes, rows that refer to nothing."""
    with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True)) as held:
        told = [row[0] for row in held.execute(f"PRAGMA integrity_check({most})")]
        faults = [line for line in told if line != "ok"]
        faults += [
            f"a row of {table} refers to a row of {parent} that is not there"
            for table, _row, parent, _key in held.execute("PRAGMA foreign_key_check").fetchmany(most)
        ]
    return tuple(faults)


@contextmanager
def guards_lifted(connection: Connection) -> Iterator[None]:
    """Without the triggers that keep what is final; they come back at the end of the same transaction."""
    query = "SELECT name, sql FROM sqlite_master WHERE type = 'trigger'"
    guards = connection.exec_driver_sql(query).all()
    for name, _ in guards:
        connection.exec_driver_sql(f'DROP TRIGGER "{name}"')
    yield
    for _, statement in guards:
        connection.exec_driver_sql(statement)


def is_busy(error: DBAPIError) -> bool:
    """Whether another process held the database for longer than one waits; trying again helps."""
    return _code(error) in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED)


def told_plainly(error: DBAPIError) -> Unavailable | None:
    """What is wrong with the database in a sentence, with the way out; nothing for an error of ours."""
    told = {
        sqlite3.SQLITE_BUSY: ("store.busy", "another program holds the database.", "Try again."),
        sqlite3.SQLITE_LOCKED: ("store.busy", "another program holds the database.", "Try again."),
        sqlite3.SQLITE_FULL: ("store.full", "the disk is full; nothing was saved.", "Make room on the disk."),
        sqlite3.SQLITE_READONLY: (
            "store.read_only",
            "the database cannot be written.",
            "Give the user who runs Reedling the right to write the folder and its files.",
        ),
        sqlite3.SQLITE_CORRUPT: ("store.corrupt", "the database is damaged.", _RESTORE),
        sqlite3.SQLITE_NOTADB: ("store.corrupt", "this file is not a database.", _RESTORE),
        sqlite3.SQLITE_CANTOPEN: (
            "store.folder",
            "the database cannot be opened.",
            "Check that the folder is there and can be written.",
        ),
        sqlite3.SQLITE_IOERR: (
            "store.disk",
            "the disk cannot be read or written; nothing was saved.",
            "Check the disk, then try again.",
        ),
    }.get(_code(error))
    return Unavailable(told[0], told[1], where="Database", hint=told[2]) if told else None


_RESTORE = "Stop the server and restore a backup into an empty folder with reedling restore."


def _code(error: DBAPIError) -> int:
    """SQLite's primary result code: the low byte of the extended one."""
    return int(getattr(error.orig, "sqlite_errorcode", 0) or 0) & 0xFF
