"""Migration 0019: what a step asks is called its questions in all that is kept, and nothing else changes."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from pathlib import Path

import pytest
from alembic import command
from sqlalchemy import Engine

from reedling.core.guidance.plans import Plan
from reedling.store.folder import DATABASE
from reedling.store.migrate import alembic_config
from reedling.store.sqlite import open_engine
from reedling.wiring import open_context

KEPT = (
    "SELECT id, content FROM revisions ORDER BY id",
    "SELECT id, runsheet FROM orders ORDER BY id",
    "SELECT id, patch, inverse FROM edits ORDER BY id",
)


def go_to(engine: Engine, revision: str, *, down: bool = False) -> None:
    config = alembic_config()
    with engine.execution_options(writes=True).begin() as connection:
        config.attributes["connection"] = connection
        (command.downgrade if down else command.upgrade)(config, revision)


@pytest.fixture
def engine(demo_dir: Path) -> Iterator[Engine]:
    made = open_engine(demo_dir / DATABASE)
    yield made
    made.dispose()


def everything(folder: Path) -> list[list[tuple[object, ...]]]:
    with sqlite3.connect(folder / DATABASE) as held:
        return [held.execute(query).fetchall() for query in KEPT]


def test_questions_have_their_old_name_before_and_the_new_one_after(engine: Engine, demo_dir: Path) -> None:
    with sqlite3.connect(demo_dir / DATABASE) as held:
        held.execute(
            "INSERT INTO edits (revision_id, version, at, person_id, summary, patch, inverse)"
            " SELECT id, 9999, '2026-06-01 12:00:00', (SELECT id FROM people LIMIT 1), 'An edit', ?, ?"
            " FROM revisions LIMIT 1",
            (
                '[{"op": "replace", "path": "/steps/0/questions/1/label", "value": "The \\"questions\\": two"}]',
                '[{"op": "add", "path": "/steps/0", "value": {"text": "questions", "questions": []}}]',
            ),
        )
    new = everything(demo_dir)
    go_to(engine, "0018", down=True)
    old = everything(demo_dir)
    texts = [str(text) for rows in old for row in rows for text in row[1:]]
    assert not any('"questions":' in text for text in texts)
    assert any('"proofs": [{' in text for text in texts)
    assert '"path": "/steps/0/proofs/1/label"' in texts[-2]
    assert '"value": "The \\"questions\\": two"' in texts[-2]
    assert texts[-1].endswith('"value": {"text": "questions", "proofs": []}}]')

    go_to(engine, "0019")
    assert everything(demo_dir) == new
    with open_context(demo_dir).reading() as unit:
        plans = [r.content for r in unit.documents.all_released("plan") if isinstance(r.content, Plan)]
    assert sum(len(step.questions) for plan in plans for step in plan.steps) > 40


def test_what_is_final_is_guarded_again_afterwards(engine: Engine, demo_dir: Path) -> None:
    go_to(engine, "0018", down=True)
    go_to(engine, "0019")
    with sqlite3.connect(demo_dir / DATABASE) as held, pytest.raises(sqlite3.IntegrityError, match="never"):
        held.execute("UPDATE revisions SET content = '{}' WHERE state = 'Released'")
