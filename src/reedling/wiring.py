"""Settings, and the real store, clock and identities. The only place that picks implementations."""

from __future__ import annotations

import os
import secrets
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Literal

from sqlalchemy import Engine

from reedling import __version__
from reedling.errors import InvalidInput
from reedling.services.actions.summaries import bring_up_to_date
from reedling.services.context import Context
from reedling.store.folder import DATABASE, DataFolder
from reedling.store.sqlite import copy_database, open_engine
from reedling.store.unit import Store, plain_errors

_ID_LETTERS = "23456789abcdefghjkmnpqrstvwxyz"


@dataclass(frozen=True, slots=True)
class Setting:
    """One setting: the environment variable it is read from, its default, and what it is for."""

    name: str
    default: str
    sentence: str


SETTINGS: tuple[Setting, ...] = (
    Setting("REEDLING_DATA", "data", "Folder of the database and the pictures."),
    Setting("REEDLING_WEB", "web/dist", "Folder of the built interface."),
    Setting("REEDLING_HOST", "127.0.0.1", "Address the server listens on."),
    Setting("REEDLING_PORT", "8000", "Port the server listens on."),
    Setting("REEDLING_ADDRESS", "", "Address people open, such as https://guidance.example, behind a proxy."),
    Setting("REEDLING_HOSTS", "", "Names the server answers to, with commas between; empty for any."),
    Setting("REEDLING_PROXIES", "127.0.0.1", "Addresses of proxies whose word on the caller is taken."),
    Setting("REEDLING_METRICS_FROM", "127.0.0.1,::1", "Addresses that may read the metrics."),
    Setting("REEDLING_LOG", "json", "How the log is written: json (a line each) or text."),
    Setting("REEDLING_DEMO", "no", "Whether the sign-in page offers the people of the demo: yes or no."),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Settings:
    """The settings as read."""

    data_dir: Path
    web_dir: Path
    host: str
    port: int
    address: str
    hosts: tuple[str, ...]
    proxies: str
    metrics_from: tuple[str, ...]
    log: Literal["json", "text"]
    demo: bool


def read_settings(environment: Mapping[str, str] = os.environ) -> Settings:
    """Settings from the environment, with the defaults of :data:`SETTINGS`.

    Raises
    ------
    InvalidInput
        ``settings.value`` for a setting that cannot be read.
    """
    got = {s.name: environment.get(s.name) or s.default for s in SETTINGS}
    return Settings(
        data_dir=Path(got["REEDLING_DATA"]),
        web_dir=Path(got["REEDLING_WEB"]),
        host=got["REEDLING_HOST"],
        port=_port(got["REEDLING_PORT"]),
        address=got["REEDLING_ADDRESS"].rstrip("/"),
        hosts=_several(got["REEDLING_HOSTS"]),
        proxies=got["REEDLING_PROXIES"],
        metrics_from=_several(got["REEDLING_METRICS_FROM"]),
        log="text" if got["REEDLING_LOG"] == "text" else "json",
        demo=got["REEDLING_DEMO"].lower() in ("yes", "true", "1"),
    )


def _several(text: str) -> tuple[str, ...]:
    return tuple(part.strip() for part in text.split(",") if part.strip())


def _port(text: str) -> int:
    if text.isascii() and text.isdigit() and 0 < int(text[:6]) < 65_536:
        return int(text)
    raise InvalidInput(
        "settings.value", f"must be a port from 1 to 65535, got {text[:20]!r}.", where="REEDLING_PORT"
    )


class DemoClock:
    """The clock of a demo: the real one, ahead by the days that were let pass."""

    def __init__(self, folder: DataFolder) -> None:
        self._folder = folder
        self.days_ahead = folder.days_ahead()

    def __call__(self) -> datetime:
        """The instant it is in the demo."""
        return datetime.now(UTC) + timedelta(days=self.days_ahead)

    def let_pass(self, days: int) -> None:
        """Put it forward by so many days, for good."""
        self._folder.write_mark(demo=True, days_ahead=self.days_ahead + days)
        self.days_ahead += days


def open_context(data_dir: Path, *, demo: bool = False, is_ready: bool = False) -> Context:
    """The store in this folder, brought to the present shape, with the real clock.

    Before an upgrade the database is copied beside itself. ``demo`` marks a new folder as a demo's; ``is_ready`` says
    that another process has opened it and brought it to the present shape.

    Raises
    ------
    Unavailable
        ``store.missing``, ``store.newer``, ``store.corrupt``, ``store.read_only``, ``store.full`` or
        ``store.folder``, each with the way out.
    """
    folder = DataFolder(data_dir)
    folder.make_ready()
    engine = open_engine(folder.database)
    if not is_ready:
        _to_present_shape(engine, folder)
    if folder.mark() is None:
        folder.write_mark(demo=demo)
    context = Context(
        store=Store(engine=engine, pictures_dir=folder.pictures),
        clock=DemoClock(folder) if folder.is_demo() else lambda: datetime.now(UTC),
        new_id=short_id,
    )
    bring_up_to_date(context)
    return context


def _to_present_shape(engine: Engine, folder: DataFolder) -> None:
    # Eleven megabytes that a process which only reads does without.
    from reedling.store.migrate import is_empty, migrate, pending

    with plain_errors():
        if not is_empty(engine) and pending(engine):
            copy_database(folder.database, folder.path / f"before-{__version__}-{DATABASE}")
        migrate(engine)


def short_id() -> str:
    """Ten letters and digits that are hard to mistake for each other: 49 random bits."""
    return "".join(secrets.choice(_ID_LETTERS) for _ in range(10))
