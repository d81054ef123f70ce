"""What an engineer opens first, and filters that cross, as step records grow; beside an analytical engine. Part of `make bench`.

The engine (DuckDB) holds the same rows in memory and answers the same questions by SQL; that both count the same is checked
in the same run.
"""

from __future__ import annotations

import csv
import shutil
import sqlite3
import statistics
import tempfile
import time
from collections.abc import Callable, Sequence
from contextlib import closing
from functools import partial
from pathlib import Path
from typing import Any

import duckdb
import httpx2 as httpx

from reedling.standins.field import DEMO_PASSWORD, play_demo
from reedling.store.folder import DATABASE
from reedling.wiring import open_context
from tests.scale import grow
from tests.served import serving

SIZES = (10_000, 100_000, 1_000_000)
"""Step records."""
TIMES = 12
TYPE = "/api/v1/incident-types/IT-001"
PAGES = (
    ("an incident type with its plans", TYPE),
    ("evidence of an incident type", f"{TYPE}/evidence"),
    ("how its jobs kept the order", f"{TYPE}/order-kept"),
    ("completions to read", "/api/v1/completions"),
    ("the desk", "/api/v1/desk"),
    ("routine work", "/api/v1/routine-work"),
    ("all jobs together", f"{TYPE}/jobs-together"),
    ("worth asking about", f"{TYPE}/asked-of-crews"),
    ("a cross-filter", f"{TYPE}/jobs-together?model=WR3"),
    ("a second cross-filter", f"{TYPE}/jobs-together?model=WR3&district=Saltings"),
)
LINE = "{:38}" + "{:>14}" * 4


def timed(act: Callable[[], object]) -> float:
    """Milliseconds."""
    began = time.perf_counter()
    act()
    return 1000 * (time.perf_counter() - began)


def read(client: httpx.Client, path: str) -> None:
    """Read a page."""
    client.get(path).raise_for_status()


def engine_over(folder: Path) -> duckdb.DuckDBPyConnection:
    """The engine with the summaries and step records of a data folder in memory."""
    engine = duckdb.connect()
    with closing(sqlite3.connect(folder / DATABASE)) as held:
        for table in ("job_summaries", "step_records"):
            sheet = folder / f"{table}.csv"
            rows = held.execute(f"SELECT * FROM {table}")
            with sheet.open("w", newline="") as out:
                writer = csv.writer(out)
                writer.writerow([column[0] for column in rows.description])
                writer.writerows(rows)
            engine.execute(f"CREATE TABLE {table} AS SELECT * FROM read_csv('{sheet}', all_varchar = false)")
            sheet.unlink()
    return engine


def steps(engine: duckdb.DuckDBPyConnection) -> list[tuple[Any, ...]]:
    """Each step of an incident type: jobs that wanted it, that did it, and the middle half of its minutes."""
    return engine.execute(
        "SELECT document_id, step, count(*) FILTER (wanted), count(*) FILTER (wanted AND done),"
        " quantile_cont(minutes, [0.25, 0.5, 0.75]) FROM step_records"
        " WHERE incident_type_id = 'IT-001' AND closed GROUP BY ALL"
    ).fetchall()


def crossed(engine: duckdb.DuckDBPyConnection, where: str) -> list[list[tuple[Any, ...]]]:
    """The bars of five facets over the jobs that meet a choice, each with its median time on site."""
    facets = ("model", "district", "symptom", "cause", "substr(CAST(finished_at AS VARCHAR), 1, 7)")
    return [
        engine.execute(
            f"SELECT {facet}, count(*), median(minutes_on_site) FROM job_summaries"
            f" WHERE incident_type_id = 'IT-001' AND {where} GROUP BY ALL"
        ).fetchall()
        for facet in facets
    ]


def measure(client: httpx.Client, engine: duckdb.DuckDBPyConnection) -> None:
    """Print each page: the first answer, the median of those after it, and the engine where it answers the same."""
    beside: dict[str, Callable[[], object]] = {
        "evidence of an incident type": lambda: steps(engine),
        "all jobs together": lambda: crossed(engine, "true"),
        "a cross-filter": lambda: crossed(engine, "model = 'WR3'"),
        "a second cross-filter": lambda: crossed(engine, "model = 'WR3' AND district = 'Saltings'"),
    }
    for name, path in PAGES:
        first, *taken = (timed(partial(read, client, path)) for _ in range(TIMES + 1))
        ours = statistics.median(taken)
        theirs = statistics.median(timed(beside[name]) for _ in range(TIMES)) if name in beside else None
        told = (
            f"{first:.0f}",
            f"{ours:.1f}",
            f"{theirs:.1f}" if theirs else "",
            f"{ours / theirs:.2f}" if theirs else "",
        )
        print(LINE.format(name, *told))


def check(client: httpx.Client, engine: duckdb.DuckDBPyConnection) -> None:
    """Both count the same."""
    evidence = client.get(f"{TYPE}/evidence").json()
    counted = {(d, s): (wanted, done) for d, s, wanted, done, _ in steps(engine)}
    for row in evidence["steps"]:
        if row["evidence"]:
            found = (row["evidence"]["wanted"]["n_hits"], row["evidence"]["done"]["n_hits"])
            assert counted[row["document"], row["step"]] == found, row["step"]
    found = client.get(f"{TYPE}/jobs-together?model=WR3").json()["found"]
    ((_, n, _),) = [bar for bar in crossed(engine, "model = 'WR3'")[0] if bar[0] == "WR3"]
    assert found["n"] == n


def main(sizes: Sequence[int] = SIZES) -> None:
    """Print a table for each size."""
    folder = Path(tempfile.mkdtemp())
    play_demo(open_context(folder / "demo", demo=True), DEMO_PASSWORD)
    for n in sizes:
        data = folder / f"data-{n}"
        shutil.copytree(folder / "demo", data)
        with closing(sqlite3.connect(data / DATABASE)) as held:
            n_orders, n_steps = held.execute(
                "SELECT (SELECT count(*) FROM orders), (SELECT count(*) FROM step_records)"
            ).fetchone()
        grow(data, round(n * n_orders / n_steps), is_thin=True)
        engine = engine_over(data)
        ((n_steps,),) = engine.execute("SELECT count(*) FROM step_records").fetchall()
        ((n_jobs,),) = engine.execute("SELECT count(*) FROM job_summaries").fetchall()
        with serving(data) as server:
            client = server.client("ines")
            check(client, engine)
            print(f"{n_steps:,} step records of {n_jobs:,} finished jobs")
            print(LINE.format("", "first, ms", "then, ms", "engine, ms", "ratio"))
            measure(client, engine)
            print(f"peak {server.peak_mb():.0f} MB, both processes of the server")
        engine.close()
    shutil.rmtree(folder)


if __name__ == "__main__":
    main()
