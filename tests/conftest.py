"""What tests share: a clock and identities that are set, a fresh store, the demo, the API."""

from __future__ import annotations

import atexit
import shutil
import tempfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from functools import cache
from pathlib import Path

import pytest
from anyio.from_thread import BlockingPortal, start_blocking_portal
from fastapi import FastAPI
from fastapi.testclient import TestClient
from hypothesis import settings
from pwdlib import PasswordHash
from pwdlib.hashers.argon2 import Argon2Hasher

from reedling.app import create_app, make_ready, put_over
from reedling.core.people import Person
from reedling.core.register.assets import Asset, Site
from reedling.services.context import Context
from reedling.services.shared import passwords
from reedling.standins.field import DEMO_PASSWORD, play_demo
from reedling.wiring import open_context, read_settings
from tests.examples import examples
from tests.lists import LISTS

settings.register_profile("reedling", deadline=None, max_examples=examples(50))
settings.load_profile("reedling")
"""A slow machine is no error: examples are not timed."""

HASHED_IN_EARNEST = passwords._PASSWORDS
passwords._PASSWORDS = PasswordHash((Argon2Hasher(time_cost=1, memory_cost=64, parallelism=1),))
"""Tests sign in many hundreds of times; what a hash is to cost is a test of its own."""

NOON = datetime(2026, 6, 1, 12, 0, tzinfo=UTC)


@dataclass
class FakeClock:
    """A clock that stands still until it is moved."""

    now: datetime = NOON

    def __call__(self) -> datetime:
        return self.now

    def forward(self, **by: float) -> None:
        """Move it on."""
        self.now += timedelta(**by)


@dataclass
class SequentialIds:
    """Identities in a row."""

    last: int = field(default=0)

    def __call__(self) -> str:
        self.last += 1
        return f"{self.last:04d}"


INES = Person(id="ines", name="Ines Varga", role="engineer", username="ines")
PIA = Person(id="pia", name="Pia Sandoval", role="engineer", username="pia")
ODA = Person(id="oda", name="Oda Fennimore", role="approver", username="oda")
MAREK = Person(id="marek", name="Marek Tilse", role="planner", username="marek")
RUNA = Person(id="runa", name="Runa Ashdown", role="technician", username="runa")
TEO = Person(id="teo", name="Teo Larkin", role="technician", username="teo")
LODE = Site(code="lode", name="Farrow Lode", district="North Carrs", east=0.1, north=0.3, zone="UTC")
"""Where the rake stands."""
RAKE = Asset(
    code="AS-1",
    name="Rake 1",
    site="lode",
    equipment="rake",
    model="WR2",
    serial="R1",
)


@pytest.fixture
def clock() -> FakeClock:
    return FakeClock()


@pytest.fixture
def context(tmp_path: Path, clock: FakeClock) -> Context:
    """A fresh store with people, one rake and the lists, and nothing written."""
    return fresh_context(tmp_path / "data", clock)


def fresh_context(folder: Path, clock: FakeClock) -> Context:
    """As the fixture, in a folder of one's own."""
    shutil.copytree(_as_it_begins(), folder)
    return replace(open_context(folder), clock=clock, new_id=SequentialIds())


@cache
def _as_it_begins() -> Path:
    """A store with people, one rake and the lists, made once: to make the tables takes longer than to copy them."""
    folder = Path(tempfile.mkdtemp(prefix="reedling"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    made = open_context(folder / "data")
    with made.store.writing() as unit:
        for person in (INES, PIA, ODA, MAREK, RUNA, TEO):
            unit.people.add(person, "no password")
        unit.register.put_site(LODE)
        unit.register.put_asset(RAKE)
        unit.catalogues.replace(LISTS)
    made.store.engine.dispose()
    return folder / "data"


@pytest.fixture(scope="session")
def played_demo(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo, loaded and played once; copy it before changing anything."""
    folder = tmp_path_factory.mktemp("demo")
    play_demo(open_context(folder, demo=True), DEMO_PASSWORD)
    return folder


@pytest.fixture
def demo_dir(played_demo: Path, tmp_path: Path) -> Path:
    """A copy of the played demo that a test may change."""
    return Path(shutil.copytree(played_demo, tmp_path / "demo"))


_apps: dict[str, FastAPI] = {}
"""Applications by their settings. Building all routes of one takes seconds; the store under it is another each time."""


def app_over(
    context: Context, data: Path, *, demo: bool = True, web: str = "/none", used_for: str = ""
) -> FastAPI:
    """The application over a context, the same one for tests that want the same settings and use it for the same."""
    key = f"{demo} {web} {used_for}"
    if key not in _apps:
        settings = {
            "REEDLING_DATA": str(data),
            "REEDLING_WEB": web,
            **({"REEDLING_DEMO": "yes"} if demo else {}),
        }
        _apps[key] = create_app(context, read_settings(settings))
        make_ready(_apps[key])
    put_over(_apps[key], context)
    return _apps[key]


@pytest.fixture
def demo_app(demo_dir: Path) -> FastAPI:
    """The application over a copy of the demo."""
    return app_over(open_context(demo_dir), demo_dir)


@pytest.fixture(scope="session")
def portal() -> Iterator[BlockingPortal]:
    """One event loop for the requests of all clients: to begin one each time takes a third of a small request."""
    with start_blocking_portal() as portal:
        yield portal


@pytest.fixture
def sign_in(demo_app: FastAPI, portal: BlockingPortal) -> Iterator[Callable[[str], TestClient]]:
    """Clients of the demo, signed in by user name; an empty name stays outside."""
    opened: list[TestClient] = []

    def client(username: str) -> TestClient:
        made = TestClient(demo_app)
        made.portal = portal
        opened.append(made)
        if username:
            answer = made.post("/api/v1/session", json={"username": username, "password": DEMO_PASSWORD})
            assert answer.status_code == 200, answer.text
        return made

    yield client
    for made in opened:
        made.close()
