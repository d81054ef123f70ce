"""The data folder: what it holds, whether it may be opened, and who is serving it.

A small file beside the database says that there was one, so that a database that is gone is an error
and never a fresh start.
"""

from __future__ import annotations

import fcntl
import json
import os
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from reedling.errors import Conflict, Unavailable

DATABASE = "reedling.sqlite"
PICTURES = "pictures"
MARK = "reedling.json"
SERVED = "reedling.lock"


@dataclass(frozen=True, slots=True)
class DataFolder:
    """Where one installation keeps everything: the database, and the pictures beside it."""

    path: Path

    @property
    def database(self) -> Path:
        """The database file."""
        return self.path / DATABASE

    @property
    def pictures(self) -> Path:
        """The folder of pictures, each file named by the hash of its bytes."""
        return self.path / PICTURES

    def mark(self) -> dict[str, Any] | None:
        """What the folder says of itself; nothing where it never held a database."""
        try:
            found = json.loads((self.path / MARK).read_text("utf-8"))
        except FileNotFoundError:
            return None
        except (OSError, ValueError):
            return {}
        return found if isinstance(found, dict) else {}

    def write_mark(self, *, demo: bool, days_ahead: int = 0) -> None:
        """Say that there is a database here, and whether it is a demo's; one may be so many days ahead of today."""
        held: dict[str, Any] = {"holds": "reedling", "demo": demo}
        if days_ahead:
            held["days_ahead"] = days_ahead
        part = self.path / f"{MARK}.part"
        part.write_text(json.dumps(held) + "\n", "utf-8")
        part.replace(self.path / MARK)

    def days_ahead(self) -> int:
        """By how many days a demo is ahead of today."""
        found = (self.mark() or {}).get("days_ahead")
        return found if isinstance(found, int) else 0

    def is_demo(self) -> bool:
        """Whether the folder was made by the demo."""
        return bool((self.mark() or {}).get("demo"))

    def make_ready(self) -> None:
        """Make the folder and an empty database that only its owner may read, where none ever was.

        Raises
        ------
        Unavailable
            ``store.missing`` where there was a database and it is gone or empty; ``store.folder`` when
            the folder cannot be made; ``store.read_only`` when it cannot be written.
        """
        try:
            self.path.mkdir(parents=True, exist_ok=True, mode=0o700)
        except OSError as error:
            raise Unavailable(
                "store.folder",
                f"the data folder cannot be made: {error.strerror}.",
                where=str(self.path),
                hint="Name a folder that can be written in REEDLING_DATA.",
            ) from error
        is_there = self.database.is_file() and self.database.stat().st_size > 0
        if not is_there and (self.mark() is not None or self.database.exists() or _has_files(self.pictures)):
            raise Unavailable(
                "store.missing",
                "there was a database here, and it is gone or empty.",
                where=str(self.database),
                hint="Put it back, or restore a backup into an empty folder with reedling restore.",
            )
        if not os.access(self.path, os.W_OK) or (is_there and not os.access(self.database, os.W_OK)):
            raise read_only(self.database)
        if is_there:
            self.database.chmod(0o600)
        else:
            os.close(os.open(self.database, os.O_CREAT | os.O_RDWR, 0o600))

    def clear(self) -> None:
        """Take away the database and the pictures of a demo that nobody is serving.

        Raises
        ------
        Conflict
            ``demo.not_one`` for a folder that is not a demo's, ``demo.served`` while it is served.
        """
        if not self.is_demo():
            if self.path.exists() and any(self.path.iterdir()):
                raise Conflict(
                    "demo.not_one",
                    "this is not the folder of a demo, and nothing of it is taken away.",
                    where=str(self.path),
                    hint="Name another folder with --data.",
                )
            return
        with self.hold(alone=True):
            for path in (*self.path.glob(f"{DATABASE}*"), *self.pictures.glob("*"), self.path / MARK):
                path.unlink(missing_ok=True)

    def hold(self, *, alone: bool = False) -> _Held:
        """Say that the folder is in use; ``alone`` waits for nobody and refuses if it is used already."""
        return _Held(self.path, alone=alone)


class _Held:
    """A lock on the folder, let go at the end of its block or with the process."""

    def __init__(self, path: Path, *, alone: bool) -> None:
        self.descriptor = os.open(path / SERVED, os.O_CREAT | os.O_RDWR, 0o600)
        try:
            fcntl.flock(self.descriptor, (fcntl.LOCK_EX if alone else fcntl.LOCK_SH) | fcntl.LOCK_NB)
        except OSError as error:
            os.close(self.descriptor)
            raise Conflict(
                "demo.served",
                "this folder is being served." if alone else "this folder is being reset.",
                where=str(path),
                hint="Stop the server first.",
            ) from error

    def __enter__(self) -> _Held:
        return self

    def __exit__(self, *_: object) -> None:
        self.release()

    def release(self) -> None:
        """Let go."""
        os.close(self.descriptor)


def read_only(path: Path) -> Unavailable:
    """The refusal of a store that cannot be written."""
    return Unavailable(
        "store.read_only",
        "the database cannot be written.",
        where=str(path),
        hint="Give the user who runs Reedling the right to write the folder and its files.",
    )


def _has_files(folder: Path) -> bool:
    return folder.is_dir() and any(folder.iterdir())
