"""What a data folder that is not as it was is answered with: one clear line with the way out."""

from __future__ import annotations

import os
import shutil
import sqlite3
import stat
import subprocess
import sys
from pathlib import Path

import pytest

from reedling.errors import Conflict, ReedlingError, Unavailable
from reedling.store.folder import DATABASE, DataFolder
from reedling.wiring import open_context

COMMAND = str(Path(sys.executable).parent / "reedling")


def code_of(folder: Path) -> str:
    with pytest.raises(ReedlingError) as refused:
        open_context(folder)
    assert refused.value.hint, "there is a way out"
    return refused.value.code


def close(folder: Path) -> None:
    """Open once and leave the folder as a server that stopped leaves it."""
    open_context(folder).store.engine.dispose()


def test_a_folder_that_never_held_anything_begins_afresh_and_is_its_owners_alone(tmp_path: Path) -> None:
    close(tmp_path / "new")
    assert stat.S_IMODE((tmp_path / "new").stat().st_mode) == 0o700
    assert stat.S_IMODE((tmp_path / "new" / DATABASE).stat().st_mode) == 0o600


@pytest.mark.parametrize("how", ["gone", "zero bytes", "gone, pictures left", "gone, as of an older version"])
def test_a_database_that_is_gone_is_an_error_and_no_fresh_start(tmp_path: Path, how: str) -> None:
    close(tmp_path)
    for path in tmp_path.glob(f"{DATABASE}*"):
        path.unlink()
    if how == "zero bytes":
        (tmp_path / DATABASE).touch()
    if how in ("gone, pictures left", "gone, as of an older version"):
        (tmp_path / "pictures").mkdir()
        (tmp_path / "pictures" / ("0" * 64)).write_bytes(b"x")
    if how == "gone, as of an older version":
        (tmp_path / "reedling.json").unlink()
    assert code_of(tmp_path) == "store.missing"


def test_a_damaged_file_a_newer_one_and_no_database_are_told_apart(tmp_path: Path) -> None:
    close(tmp_path)
    whole = (tmp_path / DATABASE).read_bytes()
    (tmp_path / DATABASE).write_bytes(b"not a database" * 400)
    assert code_of(tmp_path) == "store.corrupt"
    (tmp_path / DATABASE).write_bytes(whole[:100] + b"\xff" * 4000 + whole[4100:])
    assert code_of(tmp_path) == "store.corrupt"
    (tmp_path / DATABASE).write_bytes(whole)
    with sqlite3.connect(tmp_path / DATABASE) as held:
        held.execute("UPDATE alembic_version SET version_num = '9999'")
    held.close()
    assert code_of(tmp_path) == "store.newer"


@pytest.mark.skipif(os.geteuid() == 0, reason="root may write everything")
def test_a_folder_that_cannot_be_written_is_told(tmp_path: Path) -> None:
    close(tmp_path)
    (tmp_path / DATABASE).chmod(0o400)
    tmp_path.chmod(0o500)
    assert code_of(tmp_path) == "store.read_only"
    tmp_path.chmod(0o700)


def test_a_database_that_becomes_read_only_or_full_is_told_and_nothing_is_lost(tmp_path: Path) -> None:
    context = open_context(tmp_path)
    with context.store.writing() as unit:
        assert unit.next_number("X") == 1
    with context.store.engine.connect() as held:
        held.exec_driver_sql("PRAGMA query_only = ON")
        raw = held.connection.driver_connection
        with pytest.raises(sqlite3.OperationalError):
            raw.execute("CREATE TABLE t (a)")  # type: ignore[union-attr]
    from sqlalchemy import exc

    from reedling.store.sqlite import told_plainly

    for code, wanted in {
        sqlite3.SQLITE_FULL: "store.full",
        sqlite3.SQLITE_READONLY: "store.read_only",
        sqlite3.SQLITE_IOERR: "store.disk",
        sqlite3.SQLITE_BUSY: "store.busy",
        sqlite3.SQLITE_CANTOPEN: "store.folder",
        sqlite3.SQLITE_IOERR | (3 << 8): "store.disk",
    }.items():
        error = sqlite3.OperationalError("x")
        error.sqlite_errorcode = code
        plain = told_plainly(exc.OperationalError("x", {}, error))
        assert plain is not None
        assert (plain.code, bool(plain.hint)) == (wanted, True)


def test_a_full_disk_is_answered_503_and_what_was_there_stays(tmp_path: Path) -> None:
    """A database that may not grow stands for a disk that is full: SQLite answers with SQLITE_FULL."""
    context = open_context(tmp_path)
    engine = context.store.engine
    with engine.connect() as held:
        pages = held.exec_driver_sql("PRAGMA page_count").scalar()
    from sqlalchemy import event

    @event.listens_for(engine, "checkout")
    def bounded(connection: sqlite3.Connection, *_: object) -> None:
        connection.execute(f"PRAGMA max_page_count = {pages}")

    def fill() -> None:
        with context.store.writing() as unit:
            for n in range(10_000):
                unit.next_number(f"prefix {n} {'x' * 400}")
                unit.session.flush()

    with pytest.raises(Unavailable) as full:
        fill()
    assert full.value.code == "store.full"
    context.store.check()


@pytest.mark.slow
def test_the_command_tells_it_in_one_line_and_ends_with_1(tmp_path: Path) -> None:
    close(tmp_path)
    (tmp_path / DATABASE).write_bytes(b"not a database" * 400)
    ended = subprocess.run(
        [COMMAND, "serve"],
        env={**os.environ, "REEDLING_DATA": str(tmp_path), "REEDLING_PORT": "1"},
        capture_output=True,
        text=True,
        check=False,
    )
    assert ended.returncode == 1
    assert ended.stdout == ""
    (line,) = ended.stderr.strip().splitlines()
    assert line.startswith("Database: this file is not a database.")
    assert "restore a backup" in line


def test_a_demo_is_reset_only_where_there_is_one_and_nobody_serves_it(tmp_path: Path) -> None:
    close(tmp_path / "own")
    with pytest.raises(Conflict, match="not the folder of a demo"):
        DataFolder(tmp_path / "own").clear()
    (tmp_path / "papers").mkdir()
    (tmp_path / "papers" / "letter.txt").write_text("Dear all")
    with pytest.raises(Conflict, match="not the folder of a demo"):
        DataFolder(tmp_path / "papers").clear()
    open_context(tmp_path / "demo", demo=True).store.engine.dispose()
    folder = DataFolder(tmp_path / "demo")
    with folder.hold(), pytest.raises(Conflict, match="this folder is being served"):
        folder.clear()
    assert folder.database.is_file()
    folder.clear()
    assert not folder.database.exists()
    DataFolder(tmp_path / "nowhere").clear()


def test_before_an_upgrade_the_database_is_copied_beside_itself(tmp_path: Path) -> None:
    from alembic import command

    from reedling.store.migrate import alembic_config
    from reedling.store.sqlite import open_engine

    engine = open_engine(tmp_path / DATABASE)
    config = alembic_config()
    with engine.execution_options(writes=True).begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "0004")
    engine.dispose()
    close(tmp_path)
    (copy,) = tmp_path.glob(f"before-*-{DATABASE}")
    with sqlite3.connect(copy) as held:
        assert held.execute("SELECT version_num FROM alembic_version").fetchone() == ("0004",)
    held.close()
    back = tmp_path / "back"
    back.mkdir()
    shutil.copy(copy, back / DATABASE)
    close(back)
