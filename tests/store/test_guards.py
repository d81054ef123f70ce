"""What the database itself holds to, whoever writes: what is released and what happened."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest

from reedling.store.folder import DATABASE
from reedling.store.migrate import missing_migrations
from reedling.wiring import open_context


@pytest.fixture
def database(demo_dir: Path) -> sqlite3.Connection:
    return sqlite3.connect(demo_dir / DATABASE)


@pytest.mark.parametrize(
    ("statement", "refusal"),
    [
        ("UPDATE revisions SET content = '{}' WHERE state = 'Released'", "a released revision never changes"),
        (
            "UPDATE revisions SET content = '{}' WHERE state = 'Superseded'",
            "a released revision never changes",
        ),
        (
            "UPDATE revisions SET state = 'Draft' WHERE state = 'Released'",
            "a released revision never changes",
        ),
        (
            "UPDATE revisions SET state = 'Released' WHERE state = 'Superseded'",
            "a released revision never changes",
        ),
        ("UPDATE revisions SET letter = 'Q' WHERE state = 'Released'", "a released revision never changes"),
        ("DELETE FROM revisions WHERE state = 'Released'", "a released revision is never deleted"),
        ("UPDATE orders SET runsheet = '{}'", "a runsheet never changes"),
        ("UPDATE events SET payload = '{}'", "what happened is only added to"),
        ("DELETE FROM events", "what happened is only added to"),
    ],
)
def test_the_database_refuses(database: sqlite3.Connection, statement: str, refusal: str) -> None:
    with pytest.raises(sqlite3.IntegrityError, match=refusal):
        database.execute(statement)
    database.close()


def test_a_released_revision_may_be_superseded(database: sqlite3.Connection) -> None:
    changed = database.execute(
        "UPDATE revisions SET state = 'Superseded' WHERE document_id = 'WP-001' AND state = 'Released'"
    )
    assert changed.rowcount == 1
    database.close()


def test_the_migrations_say_all_that_the_tables_say(tmp_path: Path) -> None:
    assert missing_migrations(open_context(tmp_path).store.engine) == []


def test_opening_a_database_twice_changes_nothing(demo_dir: Path) -> None:
    before = sqlite3.connect(demo_dir / DATABASE)
    counts = [
        before.execute(f"SELECT count(*) FROM {t}").fetchone() for t in ("orders", "events", "revisions")
    ]
    before.close()
    open_context(demo_dir)
    after = sqlite3.connect(demo_dir / DATABASE)
    assert [
        after.execute(f"SELECT count(*) FROM {t}").fetchone() for t in ("orders", "events", "revisions")
    ] == counts
    after.close()
