"""Migration 0003: what was kept of plans becomes what is kept of rows, and a runsheet may still change."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from alembic import command
from sqlalchemy import Engine, exc, text

from reedling.store.migrate import alembic_config, missing_migrations
from reedling.store.orders import TRACES
from reedling.store.sqlite import open_engine

OLD_TRACE = {
    "document": "WP-001",
    "revision": "A",
    "title": "Rake stalls",
    "matched": True,
    "misses": 0,
    "cells": [{"column": "model", "wanted": "any", "got": "WR 2", "met": True}],
    "sentence": "It applies: it is for every order.",
}


def go_to(engine: Engine, revision: str, *, down: bool = False) -> None:
    config = alembic_config()
    with engine.execution_options(writes=True).begin() as connection:
        config.attributes["connection"] = connection
        (command.downgrade if down else command.upgrade)(config, revision)


@pytest.fixture
def engine(tmp_path: Path) -> Engine:
    """A database as it was before, with one order in it."""
    made = open_engine(tmp_path / "old.sqlite")
    go_to(made, "0002")
    with made.execution_options(writes=True).begin() as connection:
        connection.execute(
            text(
                "INSERT INTO people (id, name, role, username, password_hash, district, offered)"
                " VALUES ('m', 'M', 'planner', 'm', 'x', '', 0)"
            )
        )
        connection.execute(
            text("INSERT INTO sites (id, name, district, east, north, zone) VALUES ('s','S','N',0,0,'UTC')")
        )
        connection.execute(
            text(
                "INSERT INTO assets (id, name, site_id, equipment, model, serial)"
                " VALUES ('a', 'A', 's', 'rake', 'WR2', '1')"
            )
        )
        connection.execute(
            text(
                "INSERT INTO orders (id, asset_id, symptom, report, runsheet, trace, logged_at, logged_by,"
                " state, review_note) VALUES ('WO-1','a','stalls','','{}',:trace,'2026-06-01 12:00:00','m',"
                " 'Logged','')"
            ),
            {"trace": json.dumps([OLD_TRACE])},
        )
    return made


def test_reasons_kept_for_plans_read_as_rows_of_their_own(engine: Engine) -> None:
    go_to(engine, "head")
    assert missing_migrations(engine) == []
    with engine.connect() as connection:
        kept = connection.execute(text("SELECT trace FROM orders")).scalar_one()
    (trace,) = TRACES.validate_python(json.loads(kept))
    assert (trace.table, trace.number, trace.documents[0].title) == ("WP-001", 0, "Rake stalls")
    assert trace.sentence == OLD_TRACE["sentence"]


def test_a_runsheet_changes_until_something_is_recorded_and_never_after(engine: Engine) -> None:
    go_to(engine, "head")
    change = text("UPDATE orders SET runsheet = :sheet")
    with engine.execution_options(writes=True).begin() as connection:
        connection.execute(change, {"sheet": '{"lines": []}'})
        connection.execute(text("UPDATE orders SET state = 'On site'"))
    with (
        pytest.raises(exc.IntegrityError, match="a runsheet never changes under way"),
        engine.execution_options(writes=True).begin() as connection,
    ):
        connection.execute(change, {"sheet": '{"lines": [1]}'})


def test_the_database_goes_back_and_forward_again(engine: Engine) -> None:
    go_to(engine, "head")
    go_to(engine, "0002", down=True)
    go_to(engine, "head")
    assert missing_migrations(engine) == []
