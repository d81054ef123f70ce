"""The real server on a free port over a copy of the demo, and Debian's browser on it."""

from __future__ import annotations

import shutil
import socket
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest
import uvicorn
from fastapi import FastAPI
from playwright.sync_api import Browser, ConsoleMessage, Page, expect

from reedling.services.shared.passwords import hash_password
from reedling.wiring import open_context
from tests.conftest import app_over

ROOT = Path(__file__).parents[2]
DESK = {"width": 1280, "height": 800}
PHONE = {"width": 390, "height": 844}

expect.set_options(timeout=8_000)


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, Any]:
    """The system's Chromium, headless, without calls home."""
    return {
        "executable_path": shutil.which("chromium") or "/usr/bin/chromium",
        "args": [
            "--no-sandbox",
            "--disable-gpu",
            "--disable-background-networking",
            "--host-resolver-rules=MAP reedling.test 127.0.0.1",
        ],
    }


@pytest.fixture
def address(demo_dir: Path) -> Iterator[str]:
    """Where the application is served."""
    assert (ROOT / "web/dist/index.html").is_file(), "The interface is not built: run make web."
    with served(app_over(open_context(demo_dir), demo_dir, web=str(ROOT / "web/dist"))) as port:
        yield f"http://127.0.0.1:{port}"


@contextmanager
def served(app: FastAPI) -> Iterator[int]:
    """The application on a free port of the loopback address."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = int(probe.getsockname()[1])
    server = uvicorn.Server(uvicorn.Config(app, port=port, log_level="error"))
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    yield port
    server.should_exit = True
    thread.join(timeout=10)


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


@pytest.fixture
def sign_in_as(browser: Browser, address: str) -> Iterator[SignInAs]:
    """Open a browser of their own for somebody, through the sign-in page; then go to a path.

    ``installed`` lets Pocket keep its own pages on the device, as it does outside tests.
    """
    pages: list[Page] = []
    faults: list[str] = []

    def against_policy(said: ConsoleMessage) -> None:
        if "Content Security" in said.text:
            faults.append(said.text)

    def open_page(name: str, path: str = "/", *, phone: bool = False, installed: bool = False) -> Page:
        context = browser.new_context(
            viewport=PHONE if phone else DESK,  # type: ignore[arg-type]
            base_url=address,
            reduced_motion="reduce",
            # A page that a service worker stands behind is out of reach of what tests do to its requests.
            service_workers="allow" if installed else "block",
        )
        page = context.new_page()
        page.on("pageerror", lambda error: faults.append(str(error)))
        page.on("console", against_policy)
        page.goto("/")
        page.get_by_role("button", name=name).click()
        expect(page.locator(".band, .pocket")).to_be_visible()
        if path != "/":
            page.goto(path)
        pages.append(page)
        return page

    yield open_page
    for page in pages:
        page.context.close()
    assert faults == []


@pytest.fixture
def plain_address(demo_dir: Path) -> Iterator[str]:
    """The application outside demo mode, over plain HTTP on a name that is not localhost."""
    context = open_context(demo_dir)
    with context.store.writing() as unit:
        unit.people.set_password("runa", hash_password("quiet water under reeds"))
    with served(app_over(context, demo_dir, demo=False, web=str(ROOT / "web/dist"))) as port:
        yield f"http://reedling.test:{port}"
