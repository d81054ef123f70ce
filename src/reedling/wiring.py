"""Settings, and the real store, clock and identities. The only place that picks implementations."""

from __future__ import annotations

import os
import secrets
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from reedling.services.context import Context
from reedling.store.migrate import migrate
from reedling.store.sqlite import open_engine
from reedling.store.unit import Store

DATABASE = "reedling.sqlite"
PICTURES = "pictures"
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
    Setting("REEDLING_DEMO", "no", "Whether the sign-in page offers the people of the demo: yes or no."),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Settings:
    """The settings as read."""

    data_dir: Path
    web_dir: Path
    host: str
    port: int
    demo: bool


def read_settings(environment: Mapping[str, str] = os.environ) -> Settings:
    """Settings from the environment, with the defaults of :data:`SETTINGS`."""
    got = {s.name: environment.get(s.name) or s.default for s in SETTINGS}
    return Settings(
        data_dir=Path(got["REEDLING_DATA"]),
        web_dir=Path(got["REEDLING_WEB"]),
        host=got["REEDLING_HOST"],
        port=int(got["REEDLING_PORT"]),
        demo=got["REEDLING_DEMO"].lower() in ("yes", "true", "1"),
    )


def open_context(data_dir: Path) -> Context:
    """The store in this folder, brought to the present shape, with the real clock."""
    engine = open_engine(data_dir / DATABASE)
    migrate(engine)
    return Context(
        store=Store(engine=engine, pictures_dir=data_dir / PICTURES),
        clock=lambda: datetime.now(UTC),
        new_id=short_id,
    )


def short_id() -> str:
    """Ten letters and digits that are hard to mistake for each other: 49 random bits."""
    return "".join(secrets.choice(_ID_LETTERS) for _ in range(10))
