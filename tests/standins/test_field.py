"""The simulated field: taking its history in at once comes to the same as handing in one thing after another."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import select, text

from reedling.core.runsheet.job import replay
from reedling.services.actions.summaries import recount
from reedling.services.context import Context
from reedling.standins import field
from reedling.standins.field import SHORT, play_demo
from reedling.standins.field_trial import PLAN
from reedling.standins.writing_beside import WritesBeside
from reedling.store.job_tables import EVERY_TABLE
from reedling.wiring import open_context

EXTENT = replace(SHORT, n_calls=14, days=150)
NOW = datetime(2026, 6, 1, 10, 0, tzinfo=UTC)
CHANGING = {"batch", "password_hash"}
"""Columns that hold what is drawn anew each time."""
TABLES = (
    "orders",
    "submissions",
    "events",
    "pictures",
    "changes",
    "help_threads",
    "site_records",
    "step_records",
    "step_summaries",
    "job_summaries",
    "job_sources",
    "job_parts",
    "job_readings",
    "job_choices",
    "job_out_of_turn",
    "job_tried",
    "last_answers",
    "recorded_codes",
    "meter_readings",
    "counters",
)


def played(folder: Path, *, is_together: bool) -> Context:
    context = replace(open_context(folder), clock=lambda: NOW)
    play_demo(context, "reedling-demo", extent=replace(EXTENT, is_together=is_together))
    return context


def rows(context: Context, table: str) -> list[dict[str, Any]]:
    """Every row of a table by what is in it, without the places that the database gave it."""
    of = EVERY_TABLE.tables[table]
    is_numbered = "id" in of.columns and of.columns["id"].autoincrement is True
    dropped = CHANGING | ({"id"} if is_numbered else set())
    with context.reading() as unit:
        found = [
            {k: v for k, v in row.items() if k not in dropped}
            for row in unit.session.execute(select(of)).mappings()
        ]
    if table == "counters":
        found = [row for row in found if row["prefix"] not in ("jobs", "catalogue")]
    return sorted(found, key=repr)


@pytest.fixture(scope="module")
def together(tmp_path_factory: pytest.TempPathFactory) -> Context:
    return played(tmp_path_factory.mktemp("together"), is_together=True)


@pytest.mark.slow
def test_a_history_taken_in_at_once_is_the_one_that_came_in_piece_by_piece(
    together: Context, tmp_path: Path
) -> None:
    one_by_one = played(tmp_path, is_together=False)
    known = {table.name for table in EVERY_TABLE.sorted_tables}
    assert set(TABLES) <= known
    for table in TABLES:
        expected = rows(one_by_one, table)
        assert rows(together, table) == expected, table
    assert len(rows(together, "orders")) > 30
    assert len(rows(together, "job_parts")) > 5


@pytest.mark.slow
def test_a_history_written_by_another_process_is_the_one_written_by_this(
    together: Context, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(field, "HELD", 10)
    context = replace(open_context(tmp_path), clock=lambda: NOW)
    play_demo(context, "reedling-demo", extent=EXTENT, writer=WritesBeside(tmp_path))
    for table in TABLES:
        assert rows(context, table) == rows(together, table), table


def test_a_history_that_another_process_cannot_write_is_not_called_written(
    tmp_path: Path, capfd: pytest.CaptureFixture[str]
) -> None:
    open_context(tmp_path / "data")
    (tmp_path / "data" / "reedling.sqlite").unlink()
    writer = WritesBeside(tmp_path / "data")
    writer.write(NOW, (), {"WO": 1})
    with pytest.raises(RuntimeError, match="could not be written"):
        writer.finish()
    assert "it is gone or empty" in capfd.readouterr().err


@pytest.mark.slow
def test_what_is_counted_of_a_history_equals_a_recount(together: Context) -> None:
    before = {table: rows(together, table) for table in TABLES}
    recount(together)
    for table in TABLES:
        assert rows(together, table) == before[table], table
    with together.reading() as unit:
        assert unit.session.execute(text("PRAGMA foreign_key_check")).all() == []


def test_nobody_is_on_two_visits_at_once(together: Context) -> None:
    assert_one_visit_at_a_time(together)


def test_nothing_is_recorded_after_the_end_of_a_history(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """All calls come in a day and a half before the end; the second visits of some would be days later."""

    def lately(_rng: object, end: datetime, n: int, **_: float) -> list[datetime]:
        return [end - timedelta(days=1.5, minutes=n - i) for i in range(n)]

    monkeypatch.setattr(field, "working_instants", lately)
    context = open_context(tmp_path / "data", demo=True)
    play_demo(context, "reedling-demo", extent=replace(SHORT, n_calls=40))
    waiting = 0
    with context.reading() as unit:
        for order in unit.orders.find():
            waiting += order.state == "Return needed"
            for event in unit.recorded.events(order.id):
                assert event.at < context.clock(), order.id
    assert waiting > 2
    assert_one_visit_at_a_time(context)


def assert_one_visit_at_a_time(context: Context) -> None:
    """Nobody heads out before they have left the site where they were."""
    with context.reading() as unit:
        trips = sorted(
            (order.technician, visit.headed_out_at, visit.left_at)
            for order in unit.orders.find()
            for visit in replay(order.runsheet, unit.recorded.events(order.id)).visits
        )
    assert len(trips) > 20
    for (who, _, left_at), (next_who, headed_out_at, _) in pairwise(trips):
        assert left_at is not None
        assert who != next_who or left_at <= headed_out_at


def test_a_trial_of_a_history_takes_the_orders_that_its_draw_names(tmp_path: Path) -> None:
    context = replace(open_context(tmp_path), clock=lambda: NOW)
    extent = replace(SHORT, n_calls=190, later_revisions_days_ago=150, trial_days_ago=60)
    play_demo(context, "reedling-demo", extent=extent)
    with context.reading() as unit:
        (trial,) = unit.trials.all()
        taken = unit.trials.orders(trial.id)
        logged = [order for order in unit.orders.find() if order.logged_at >= trial.began_at]
    assert (trial.document, trial.before, trial.letter, trial.ended_at) == (PLAN, "A", "B", None)
    having = {o.id: s.revision for o in logged for s in o.runsheet.sources if s.document == PLAN}
    assert having == {order: "B" if tried else "A" for order, tried in taken.items()}
    assert len(set(having.values())) == 2
    for order in logged:
        if order.id in taken:
            drawn = f"{order.asset.code} {order.symptom} {order.logged_at.isoformat()}"
            assert trial.takes(drawn, order.site.district) is taken[order.id]
