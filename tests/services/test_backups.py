"""Backup while running, restore into an empty folder, and what the doctor finds."""

from __future__ import annotations

import threading
import zipfile
from datetime import UTC, datetime
from pathlib import Path
from uuid import uuid4

import pytest
from sqlalchemy import text

from reedling.core.runsheet.events import FieldEvent, NoteWritten
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.actions.backups import back_up, diagnose, restore
from reedling.services.actions.submissions import submit_events
from reedling.services.context import Context
from reedling.services.views.pocket import own_day
from reedling.store.folder import DATABASE, DataFolder
from reedling.store.texts import mend_texts
from reedling.wiring import open_context

NOW = datetime(2026, 6, 1, tzinfo=UTC)


def contents(folder: Path) -> dict[str, list[tuple[object, ...]]]:
    """Every row of every table."""
    context = open_context(folder)
    with context.store.reading() as unit:
        tables = (
            unit.session.execute(text("SELECT name FROM sqlite_master WHERE type = 'table'")).scalars().all()
        )
        found = {
            t: [tuple(r) for r in unit.session.execute(text(f'SELECT * FROM "{t}"'))]
            for t in tables
            if not t.startswith("sqlite_")
        }
    context.store.engine.dispose()
    return found


def test_a_backup_of_the_demo_restores_to_the_same_rows_and_pictures(demo_dir: Path, tmp_path: Path) -> None:
    report = back_up(DataFolder(demo_dir), tmp_path / "kept" / "demo.zip", now=NOW)
    assert report.missing == ()
    assert restore(report.path, tmp_path / "again") == report.n_pictures > 40
    assert contents(tmp_path / "again") == contents(demo_dir)
    for path in (demo_dir / "pictures").iterdir():
        assert (tmp_path / "again" / "pictures" / path.name).read_bytes() == path.read_bytes()
    assert diagnose(DataFolder(tmp_path / "again")).is_well
    assert DataFolder(tmp_path / "again").is_demo()
    with pytest.raises(Conflict, match="there is a file of that name"):
        back_up(DataFolder(demo_dir), report.path, now=NOW)
    with pytest.raises(Conflict, match="holds something already"):
        restore(report.path, tmp_path / "again")


@pytest.mark.slow
def test_a_backup_taken_while_notes_come_in_holds_whole_submissions(demo_dir: Path, tmp_path: Path) -> None:
    context = open_context(demo_dir)
    with context.store.reading() as unit:
        runa = unit.people.get("runa")
    assert runa is not None
    order = own_day(context, runa).orders[0].line.id
    _arrive(context, order)
    stop = threading.Event()
    n_sent = 0

    def write() -> None:
        nonlocal n_sent
        while not stop.is_set():
            events: list[FieldEvent] = [
                NoteWritten(at=context.clock(), text=f"{n_sent} of two"),
                NoteWritten(at=context.clock(), text="two"),
            ]
            submit_events(context, runa, order, str(uuid4()), events)
            n_sent += 1

    writer = threading.Thread(target=write)
    writer.start()
    reports = [back_up(DataFolder(demo_dir), tmp_path / f"{n}.zip", now=NOW) for n in range(3)]
    stop.set()
    writer.join()
    assert n_sent > 3
    for n, report in enumerate(reports):
        restore(report.path, tmp_path / f"again-{n}")
        assert diagnose(DataFolder(tmp_path / f"again-{n}")).is_well
        back = open_context(tmp_path / f"again-{n}")
        with back.store.reading() as unit:
            notes = [e for e in unit.recorded.events(order) if isinstance(e, NoteWritten)]
        assert len(notes) % 2 == 0


def _arrive(context: Context, order: str) -> None:
    from reedling.core.runsheet.events import Arrived, HeadedOut

    with context.store.reading() as unit:
        runa = unit.people.get("runa")
    assert runa is not None
    events: list[FieldEvent] = [HeadedOut(at=context.clock()), Arrived(at=context.clock())]
    submit_events(context, runa, order, str(uuid4()), events)


@pytest.mark.parametrize("how", ["cut", "changed", "no head", "other", "strange name"])
def test_a_file_that_is_not_a_whole_backup_restores_nothing(demo_dir: Path, tmp_path: Path, how: str) -> None:
    good = back_up(DataFolder(demo_dir), tmp_path / "good.zip", now=NOW).path
    bad = tmp_path / "bad.zip"
    if how == "cut":
        bad.write_bytes(good.read_bytes()[:-5000])
    elif how == "other":
        bad.write_text("a letter")
    else:
        with zipfile.ZipFile(good) as source, zipfile.ZipFile(bad, "w") as target:
            for name in source.namelist():
                data = source.read(name)
                if name == "backup.json" and how == "no head":
                    continue
                if name == "backup.json" and how == "strange name":
                    data = data.replace(b'"reedling.sqlite"', b'"../outside.sqlite"')
                if name.startswith("pictures/") and how == "changed":
                    data = data[:-1] + b"?"
                target.writestr(name, data)
    with pytest.raises(InvalidInput, match="this is not a whole backup"):
        restore(bad, tmp_path / "again")
    assert not (tmp_path / "again").exists()
    assert not (tmp_path / "outside.sqlite").exists()
    with pytest.raises(NotFound):
        back_up(DataFolder(tmp_path / "nowhere"), tmp_path / "x.zip", now=NOW)


SPOILT = {("catalogue", "entries"), ("events", "payload"), ("revisions", "content")}


def _spoil(context: Context) -> None:
    """Put half a character into a list, an event and a released document, as was taken in once."""
    raw = context.store.engine.raw_connection()
    guards = raw.execute("SELECT name, sql FROM sqlite_master WHERE type = 'trigger'").fetchall()
    for name, _ in guards:
        raw.execute(f"DROP TRIGGER {name}")
    for statement in (
        """UPDATE catalogue SET entries = replace(entries, '"label": "', '"label": "\\ud83d') WHERE name = 'symptoms'""",
        """UPDATE events SET payload = replace(payload, '"kind": "coded"', '"kind": "coded", "x": "\\ud83d"')
           WHERE id = (SELECT min(id) FROM events WHERE kind = 'coded')""",
        """UPDATE revisions SET content = replace(content, '"summary": "', '"summary": "\\ud83d')
           WHERE document_id = 'WP-001' AND state = 'Released'""",
    ):
        assert raw.execute(statement).rowcount == 1, statement
    for _, statement in guards:
        raw.execute(statement)
    raw.commit()
    raw.close()


def test_the_doctor_finds_missing_and_changed_pictures_damage_and_bad_texts(demo_dir: Path) -> None:
    folder = DataFolder(demo_dir)
    assert diagnose(folder).is_well
    first, second = sorted((demo_dir / "pictures").iterdir())[:2]
    first.unlink()
    second.write_bytes(b"something else")
    context = open_context(demo_dir)
    _spoil(context)
    found = diagnose(folder)
    assert (found.missing, found.changed) == ((first.name,), (second.name,))
    assert {(b.table, b.column) for b in found.bad_texts} == SPOILT
    raw = context.store.engine.raw_connection()
    raw.execute("PRAGMA foreign_keys = OFF")
    raw.execute(
        "INSERT INTO sessions (token_hash, person_id, expires_at) VALUES ('x', 'nobody', '2026-01-01')"
    )
    raw.commit()
    raw.close()
    assert any("sessions refers to a row of people" in f for f in diagnose(folder).faults)


def test_texts_stored_before_the_check_are_mended_also_where_nothing_may_change(demo_dir: Path) -> None:
    """A lone surrogate in an event, a released document and a list: unreadable for all, then mended."""
    context = open_context(demo_dir)
    _spoil(context)
    assert diagnose(DataFolder(demo_dir)).bad_texts
    mended = mend_texts(context.store.engine)
    assert {(m.table, m.column) for m in mended} == SPOILT
    assert diagnose(DataFolder(demo_dir)).bad_texts == ()
    fresh = open_context(demo_dir)
    with fresh.store.reading() as unit:
        assert unit.catalogues.get().symptoms[0].label.startswith("\ufffd")
        names = (
            unit.session.execute(text("SELECT name FROM sqlite_master WHERE type='trigger'")).scalars().all()
        )
    assert {"events_are_final", "released_is_final", "log_is_final"} <= set(names)
    assert DATABASE in {p.name for p in demo_dir.iterdir()}
