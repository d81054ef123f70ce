"""Back an installation up while it runs, restore it into an empty folder, and say what is wrong with one.

A backup is a ZIP archive: the database as it stood at one moment, every picture it speaks of, and
``backup.json`` with the SHA-256 of each file. Pictures are on the disk before the database speaks of
them and are never changed, so the database copied first and the pictures after it belong together.
"""

from __future__ import annotations

import hashlib
import json
import re
import shutil
import tempfile
import zipfile
from contextlib import closing
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from reedling import __version__
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.store.folder import DATABASE, DataFolder
from reedling.store.sqlite import copy_database, find_faults, open_engine
from reedling.store.texts import BadText, find_bad_texts
from reedling.store.unit import Store

CONTENTS = "backup.json"

_FILE = re.compile(rf"{re.escape(DATABASE)}|reedling\.json|pictures/[0-9a-f]{{64}}")


@dataclass(frozen=True, slots=True, kw_only=True)
class BackupReport:
    """What a backup holds; ``missing`` are pictures whose files were not there to be copied."""

    path: Path
    n_pictures: int
    n_bytes: int
    missing: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Diagnosis:
    """What is wrong with an installation, and how much of it was looked at."""

    faults: tuple[str, ...]
    missing: tuple[str, ...]
    changed: tuple[str, ...]
    bad_texts: tuple[BadText, ...]
    n_pictures: int

    @property
    def is_well(self) -> bool:
        """Whether nothing is wrong."""
        return not (self.faults or self.missing or self.changed or self.bad_texts)


def back_up(folder: DataFolder, target: Path, *, now: datetime) -> BackupReport:
    """Write a backup, check it, and only then give it its name.

    Raises
    ------
    NotFound
        ``backups.nothing`` where there is no database.
    Conflict
        ``backups.there`` when there is a file of that name.
    InvalidInput
        ``backups.damaged`` when the database is damaged, or the copy does not read back equal.
    """
    if not folder.database.is_file():
        raise NotFound("backups.nothing", "there is no database to back up.", where=str(folder.path))
    if target.exists():
        raise Conflict(
            "backups.there", "there is a file of that name.", where=str(target), hint="Choose another."
        )
    target.parent.mkdir(parents=True, exist_ok=True)
    part = target.with_name(f"{target.name}.part")
    with tempfile.TemporaryDirectory(dir=target.parent) as scratch:
        copy = Path(scratch) / DATABASE
        copy_database(folder.database, copy)
        _refuse_faults(copy)
        wanted = _files_of(copy)
        here = [name for name in sorted(wanted) if (folder.pictures / name).is_file()]
        files = {DATABASE: copy, **{f"pictures/{name}": folder.pictures / name for name in here}}
        hashes = {name: _hash(path) for name, path in files.items()}
        head = {
            "reedling": __version__,
            "made_at": now.isoformat(),
            "demo": folder.is_demo(),
            "days_ahead": folder.days_ahead(),
            "files": hashes,
        }
        try:
            with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
                archive.writestr(CONTENTS, json.dumps(head, indent=1))
                for name, path in files.items():
                    kind = zipfile.ZIP_STORED if name.startswith("pictures/") else zipfile.ZIP_DEFLATED
                    archive.write(path, name, kind)
            part.chmod(0o600)
            _check(part)
            part.rename(target)
        finally:
            part.unlink(missing_ok=True)
    return BackupReport(
        path=target,
        n_pictures=len(here),
        n_bytes=target.stat().st_size,
        missing=tuple(sorted(wanted - set(here))),
    )


def restore(archive: Path, target: Path) -> int:
    """Put a backup into an empty folder, checked before anything is there; gives the number of pictures.

    Raises
    ------
    Conflict
        ``backups.not_empty`` for a folder that holds anything.
    InvalidInput
        ``backups.damaged`` for a file that is not a whole backup.
    """
    if target.exists() and (not target.is_dir() or any(target.iterdir())):
        raise Conflict(
            "backups.not_empty",
            "it holds something already, and nothing is written over.",
            where=str(target),
            hint="Name an empty folder, or one that is not there yet.",
        )
    head = _check(archive)
    target.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=target.parent) as scratch:
        made = Path(scratch) / "restored"
        made.mkdir(mode=0o700)
        with zipfile.ZipFile(archive) as packed:
            for name in head["files"]:
                path = made / name
                path.parent.mkdir(exist_ok=True, mode=0o700)
                with packed.open(name) as source, path.open("wb") as out:
                    shutil.copyfileobj(source, out)
        (made / DATABASE).chmod(0o600)
        _refuse_faults(made / DATABASE)
        DataFolder(made).write_mark(demo=bool(head.get("demo")), days_ahead=int(head.get("days_ahead") or 0))
        if target.exists():
            target.rmdir()
        made.rename(target)
    return len(head["files"]) - 1


def diagnose(folder: DataFolder) -> Diagnosis:
    """Look for damage: pages, indexes, references, missing or changed pictures, texts nobody can read."""
    if not folder.database.is_file():
        raise NotFound("backups.nothing", "there is no database here.", where=str(folder.path))
    faults = find_faults(folder.database)
    if any("malformed" in f or "not a database" in f for f in faults):
        return Diagnosis(faults=faults, missing=(), changed=(), bad_texts=(), n_pictures=0)
    wanted = sorted(_files_of(folder.database))
    there = [name for name in wanted if (folder.pictures / name).is_file()]
    return Diagnosis(
        faults=faults,
        missing=tuple(name for name in wanted if name not in set(there)),
        changed=tuple(name for name in there if _hash(folder.pictures / name) != name),
        bad_texts=find_bad_texts(open_engine(folder.database)),
        n_pictures=len(wanted),
    )


def _files_of(database: Path) -> frozenset[str]:
    """The pictures and illustrations that a database speaks of."""
    engine = open_engine(database)
    store = Store(engine=engine, pictures_dir=database.parent)
    with store.reading() as unit:
        found = unit.pictures.files() | {i.id for i in unit.illustrations.all()}
    engine.dispose()
    return found


def _refuse_faults(database: Path) -> None:
    faults = find_faults(database)
    if faults:
        raise InvalidInput(
            "backups.damaged",
            f"the database is damaged: {faults[0]}.",
            where=str(database.name),
            hint="Use an earlier backup.",
        )


def _check(archive: Path) -> dict[str, Any]:
    """The head of a backup whose every file is there and has the hash it says."""
    try:
        with closing(zipfile.ZipFile(archive)) as packed:
            head = json.loads(packed.read(CONTENTS))
            files: dict[str, str] = head["files"]
            strange = [name for name in files if not _FILE.fullmatch(name)]
            if strange or DATABASE not in files:
                raise _damaged(archive, f"it names {strange[0][:60]!r}" if strange else "it has no database")
            for name, wanted in files.items():
                digest = hashlib.sha256()
                with packed.open(name) as source:
                    for block in iter(lambda: source.read(1 << 20), b""):
                        digest.update(block)
                if digest.hexdigest() != wanted:
                    raise _damaged(archive, f"{name} is not what it was")
    except (OSError, KeyError, ValueError, TypeError, AttributeError, zipfile.BadZipFile) as error:
        raise _damaged(archive, str(error)[:120] or "it cannot be read") from error
    return dict(head)


def _damaged(archive: Path, why: str) -> InvalidInput:
    return InvalidInput(
        "backups.damaged", f"this is not a whole backup: {why}.", where=str(archive), hint="Use another one."
    )


def _hash(path: Path) -> str:
    digest = hashlib.sha256()
    with path.open("rb") as file:
        for block in iter(lambda: file.read(1 << 20), b""):
            digest.update(block)
    return digest.hexdigest()
