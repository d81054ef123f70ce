"""Make a large installation out of a played demo, in seconds: its jobs copied over and over, spread in time.

For benchmarks and load. Copies are rows, so that nothing is carried out again; summaries are copied with
them and stay the sum of their records.
"""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

from reedling.store.folder import DATABASE

SPREAD_DAYS = 420
"""The copies are logged within so many days before the jobs they are copies of."""

_COPIED = {
    "orders": ("id",),
    "submissions": ("id", "order_id"),
    "events": ("order_id", "submission_id"),
    "step_records": ("order_id",),
    "job_summaries": ("order_id",),
    "job_sources": ("order_id",),
    "job_parts": ("order_id",),
    "job_readings": ("order_id",),
    "job_choices": ("order_id",),
    "job_out_of_turn": ("order_id",),
    "job_visits": ("order_id",),
    "recorded_codes": ("order_id",),
    "site_records": ("order_id",),
}
_TIMES = {"orders": ("logged_at", "finished_at", "planned_for"), "job_summaries": ("finished_at",)}


_AS_RECORDED = ("submissions", "events")


def grow(folder: Path, n_orders: int, *, is_thin: bool = False) -> int:
    """Copy the finished jobs until there are about so many orders; gives how many there are.

    With ``is_thin`` copies are without their runsheets and events: enough for what reads summaries, and quick to make.
    """
    with closing(sqlite3.connect(folder / DATABASE)) as held:
        held.execute("PRAGMA synchronous = OFF")
        held.execute("BEGIN")
        held.execute(
            "CREATE TEMP TABLE base AS SELECT id FROM orders WHERE state IN ('Finished', 'Reviewed')"
        )
        (n_base,) = held.execute("SELECT count(*) FROM base").fetchone()
        (n_there,) = held.execute("SELECT count(*) FROM orders").fetchone()
        n_copies = max(0, round((n_orders - n_there) / n_base))
        for copy in range(1, n_copies + 1):
            days = SPREAD_DAYS * copy / max(n_copies, 1)
            for table, keys in _COPIED.items():
                if not (is_thin and table in _AS_RECORDED):
                    held.execute(_copy(held, table, keys, copy, days, is_thin=is_thin))
        held.execute(
            "UPDATE step_summaries SET "
            + ", ".join(
                f"{c} = {c} * {n_copies + 1}"
                for c in ("n_jobs", "n_wanted", "n_done", "n_skipped", "n_judged", "n_out_of_limit")
            )
        )
        # A third of what is finished has been read; most of a large installation has.
        held.execute("UPDATE orders SET state = 'Reviewed' WHERE state = 'Finished' AND rowid % 3 > 0")
        held.commit()
        held.execute("ANALYZE")
        (n_now,) = held.execute("SELECT count(*) FROM orders").fetchone()
        return int(n_now)


def _copy(
    held: sqlite3.Connection, table: str, keys: tuple[str, ...], copy: int, days: float, *, is_thin: bool
) -> str:
    columns = [row[1] for row in held.execute(f"PRAGMA table_info({table})")]
    order = "id" if table == "orders" else "order_id"
    taken = []
    kept = [c for c in columns if not (c == "id" and table in ("events", "job_readings"))]
    for column in kept:
        if column in keys:
            taken.append(f"{column} || '-{copy}'")
        elif is_thin and column in ("runsheet", "trace"):
            taken.append("'{}'" if column == "runsheet" else "'[]'")
        elif column == "due_on":
            taken.append(f"date({column}, '-{days:.3f} days')")
        elif column in _TIMES.get(table, ()):
            moved = f"strftime('%Y-%m-%d %H:%M:%f000', {column}, '-{days:.3f} days')"
            taken.append(f"CASE WHEN {column} IS NULL THEN NULL ELSE {moved} END")
        else:
            taken.append(column)
    return (
        f"INSERT INTO {table} ({', '.join(kept)}) SELECT {', '.join(taken)} FROM {table}"
        f" WHERE {order} IN (SELECT id FROM base)"
    )
