"""The real server on a free port over a copy of the demo, and Debian's browser on it."""

from __future__ import annotations

import shutil
import socket
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import pytest
import uvicorn
from fastapi import FastAPI
from playwright.sync_api import APIRequestContext, Browser, BrowserContext, ConsoleMessage, Page, expect

from reedling.services.shared.passwords import hash_password
from reedling.standins.field import DEMO_PASSWORD
from reedling.wiring import open_context
from tests.chromium import launched
from tests.conftest import app_over

ROOT = Path(__file__).parents[2]
WEB = str(ROOT / "web/dist")
DESK = {"width": 1280, "height": 800}
PHONE = {"width": 390, "height": 844}

expect.set_options(timeout=8_000)


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, Any]:
    """Debian's Chromium; a name of our own leads to this machine."""
    return launched("--host-resolver-rules=MAP reedling.test 127.0.0.1")


@pytest.fixture
def address(demo_dir: Path) -> str:
    """Where the application is served."""
    assert (ROOT / "web/dist/index.html").is_file(), "The interface is not built: run make web."
    return f"http://127.0.0.1:{standing(app_over(open_context(demo_dir), demo_dir, web=WEB))}"


_ports: dict[int, int] = {}
"""Where each application is served, by its identity."""


def standing(app: FastAPI) -> int:
    """The port of an application that is served as long as the tests run: to stop a server takes a fifth of a second."""
    if id(app) not in _ports:
        _ports[id(app)] = _begun(app)[0]
    return _ports[id(app)]


@contextmanager
def served(app: FastAPI) -> Iterator[int]:
    """The application on a free port of the loopback address."""
    port, server, thread = _begun(app)
    yield port
    server.should_exit = True
    thread.join(timeout=10)


def _begun(app: FastAPI) -> tuple[int, uvicorn.Server, threading.Thread]:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = int(probe.getsockname()[1])
    server = uvicorn.Server(uvicorn.Config(app, port=port, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    return port, server, thread


ON_DEVICE = """async (store) => {
    const open = indexedDB.open('reedling');
    const db = await new Promise((ok) => { open.onsuccess = () => ok(open.result) });
    const all = db.transaction(store).objectStore(store).getAll();
    return await new Promise((ok) => { all.onsuccess = () => { db.close(); ok(all.result) } });
}"""
"""What Pocket keeps on a device in one of its stores."""


def comes_true(page: Page, expression: str, *, seconds: float = 60) -> None:
    """Wait until an expression, which may wait for promises itself, is true on the page."""
    is_true = page.evaluate(
        f"""async () => {{
            for (const end = performance.now() + {seconds * 1000}; performance.now() < end; ) {{
                if ({expression}) return true;
                await new Promise((ok) => setTimeout(ok, 100));
            }}
            return false;
        }}"""
    )
    assert is_true, f"after {seconds} s not: {expression}"


SignInAs = Callable[..., Page]
ByTheApi = Callable[[APIRequestContext], str]
USERNAMES = {
    name: name.split()[0].lower()
    for name in ("Ines Varga", "Oda Fennimore", "Marek Tilse", "Runa Ashdown", "Teo Larkin")
}


@dataclass
class People:
    """Browsers of people on one address, and what went wrong on their pages."""

    browser: Browser
    address: str
    faults: list[str] = field(default_factory=list)
    contexts: list[BrowserContext] = field(default_factory=list)

    def context(self, **wanted: Any) -> BrowserContext:
        """A browser of somebody's own."""
        made = self.browser.new_context(base_url=self.address, reduced_motion="reduce", **wanted)
        self.contexts.append(made)
        return made

    def page(self, context: BrowserContext) -> Page:
        """A new page in it, watched."""
        page = context.new_page()
        page.on("pageerror", lambda error: self.faults.append(str(error)))
        page.on("console", self._against_policy)
        return page

    def _against_policy(self, said: ConsoleMessage) -> None:
        if "Content Security" in said.text:
            self.faults.append(said.text)

    def close(self) -> None:
        """Close them all."""
        for context in self.contexts:
            context.close()


def sign_in_behind(context: BrowserContext, name: str) -> None:
    """Sign somebody in without the sign-in page."""
    given = {"username": USERNAMES[name], "password": DEMO_PASSWORD}
    answer = context.request.post("/api/v1/session", data=given)
    assert answer.ok, answer.text()


@pytest.fixture
def sign_in_as(browser: Browser, address: str) -> Iterator[SignInAs]:
    """Open a browser of their own for somebody: on the page that signing in leads to, or at a path.

    ``installed`` lets Pocket keep its own pages on the device, as it does outside tests. The path may be a function
    that does something over the API first and gives it.
    """
    people = People(browser, address)

    def open_page(
        name: str, path: str | ByTheApi = "/", *, phone: bool = False, installed: bool = False
    ) -> Page:
        # A page that a service worker stands behind is out of reach of what tests do to its requests.
        context = people.context(
            viewport=PHONE if phone else DESK, service_workers="allow" if installed else "block"
        )
        page = people.page(context)
        if path == "/":
            page.goto("/")
            page.get_by_role("button", name=name).click()
            expect(page.locator(".band, .pocket")).to_be_visible()
        else:
            sign_in_behind(context, name)
            page.goto(path if isinstance(path, str) else path(context.request))
        return page

    yield open_page
    people.close()
    assert people.faults == []


@pytest.fixture(scope="session")
def looked_at(
    browser: Browser, played_demo: Path, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[tuple[People, dict[str, BrowserContext]]]:
    """A server that is only looked at, with a browser for everybody who was there before."""
    folder = Path(shutil.copytree(played_demo, tmp_path_factory.mktemp("looked at") / "demo"))
    app = app_over(open_context(folder), folder, web=WEB, used_for="looking")
    people = People(browser, f"http://127.0.0.1:{standing(app)}")
    yield people, {}
    people.close()


@pytest.fixture
def look_as(looked_at: tuple[People, dict[str, BrowserContext]]) -> Iterator[SignInAs]:
    """A page for somebody at a path, for tests that change nothing: server and browser stay for the next."""
    people, contexts = looked_at
    pages: list[Page] = []

    def open_page(name: str, path: str) -> Page:
        if name not in contexts:
            contexts[name] = people.context(viewport=DESK, service_workers="block")
            sign_in_behind(contexts[name], name)
        page = people.page(contexts[name])
        pages.append(page)
        page.goto(path)
        return page

    yield open_page
    for page in pages:
        page.evaluate("localStorage.clear()")
        page.close()
    faults, people.faults[:] = list(people.faults), []
    assert faults == []


@pytest.fixture
def plain_address(demo_dir: Path) -> str:
    """The application outside demo mode, over plain HTTP on a name that is not localhost."""
    context = open_context(demo_dir)
    with context.store.writing() as unit:
        unit.people.set_password("runa", hash_password("quiet water under reeds"))
    return f"http://reedling.test:{standing(app_over(context, demo_dir, demo=False, web=WEB))}"
