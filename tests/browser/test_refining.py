"""The loop closed: from the desk to what the evidence suggests, drafted, replayed, approved, and seen to have helped."""

from __future__ import annotations

import re
import shutil
from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, expect

from reedling.standins.field import FULL, play_demo
from reedling.store.folder import DataFolder
from reedling.wiring import DemoClock, open_context
from tests.browser.conftest import ROOT, SignInAs, served
from tests.browser.test_loop import send
from tests.browser.test_views import serious
from tests.conftest import app_over

NOW = datetime(2026, 6, 1, 10, 0, tzinfo=UTC)
EXTENT = replace(FULL, n_calls=320, is_wide=False)
SEED = 5

pytestmark = pytest.mark.slow


class StandingClock(DemoClock):
    """A demo's clock that moves only when weeks are let pass."""

    def __call__(self) -> datetime:
        return NOW + timedelta(days=self.days_ahead)


@pytest.fixture(scope="module")
def history(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("history")
    context = replace(open_context(folder, demo=True), clock=lambda: NOW)
    play_demo(context, "reed-bed", seed=SEED, extent=EXTENT)
    return folder


@pytest.fixture
def address(history: Path, tmp_path: Path) -> Iterator[str]:
    folder = Path(shutil.copytree(history, tmp_path / "demo"))
    context = replace(open_context(folder), clock=StandingClock(DataFolder(folder)))
    with served(app_over(context, folder, web=str(ROOT / "web/dist"))) as port:
        yield f"http://127.0.0.1:{port}"


def to_refine(page: Page) -> None:
    """From the desk to what the evidence suggests."""
    page.get_by_role("link", name="Reedling").click()
    page.get_by_role("link", name=re.compile(r"\d+ more proposals?")).click()
    expect(page.get_by_role("heading", name=re.compile("What the evidence suggests, "))).to_be_visible()


def drafted(page: Page, words: str) -> None:
    """Draft the proposal that says these words."""
    card = page.get_by_role("article").filter(has_text=words)
    card.get_by_role("button", name="Draft it").click()
    expect(page.get_by_role("button", name="Send for review")).to_be_visible()


def replayed(page: Page) -> None:
    """Replay the draft on past jobs and come back to it."""
    here = page.url
    page.get_by_role("link", name="Replay the draft on past jobs").click()
    expect(page.get_by_role("status").filter(has_text="jobs")).to_be_visible(timeout=60_000)
    page.goto(here)
    expect(page.get_by_role("button", name="Send for review")).to_be_visible()


def approved(page: Page, title: str) -> None:
    """A second person releases what waits for them on their desk."""
    page.get_by_role("link", name="Reedling").click()
    page.get_by_role("link", name=re.compile(f"{title}.* waits")).first.click()
    page.get_by_role("button", name="Release", exact=True).click()
    page.get_by_role("button", name="Release now").click()
    expect(page.get_by_role("button", name=re.compile("^Begin revision"))).to_be_visible()


def change_of(page: Page, title: str, letters: str) -> Locator:
    """The line of a change among what changes did."""
    changes = page.get_by_label("What changes did")
    return changes.get_by_role("row").filter(has_text=title).filter(has_text=letters)


def test_a_hard_step_and_a_misplaced_check_are_found_mended_and_seen_to_help(sign_in_as: SignInAs) -> None:
    ines = sign_in_as("Ines Varga")
    to_refine(ines)
    drafted(ines, "“Read hydraulic pressure at stall” draws help")
    ines.get_by_role("button", name="Edit “Read hydraulic pressure at stall”").click()
    detail = ines.get_by_label("Detail")
    expect(detail).to_have_value(re.compile("Asked on site: “"))
    kept = detail.input_value().partition("\n")[0]
    detail.fill(f"{kept} Its port is under the cover plate, the left one of two; screw the gauge in by hand.")
    detail.blur()
    ines.get_by_role("button", name="Close", exact=True).first.click()
    send(ines, "The gauge port of the newer pack, as asked on site")

    to_refine(ines)
    drafted(ines, "“Turn the impeller by hand” led to")
    replayed(ines)
    steps = ines.locator('[data-step="turn"], [data-step="insulation"]')
    expect(steps.first).to_have_attribute("data-step", "turn")
    send(ines, "The impeller first; insulation where it turns freely")

    oda = sign_in_as("Oda Fennimore")
    approved(oda, "Rake stalls under load")
    approved(oda, "Pump trips on overload")

    ines.get_by_role("link", name=re.compile("^Refine")).click()
    weeks = ines.get_by_label("Let weeks pass")
    weeks.get_by_label("How long").click()
    ines.get_by_role("option", name="half a year").click()
    weeks.get_by_role("button", name="Let them pass").click()
    expect(weeks.get_by_label("Calls carried out")).to_be_visible()
    expect(weeks.get_by_text(re.compile(r"\d+ calls came in and were carried out"))).to_be_visible(
        timeout=240_000
    )

    for title, letters in (("Rake stalls under load", "B → C"), ("Pump trips on overload", "A → B")):
        told = change_of(ines, title, letters)
        expect(told).to_contain_text(
            re.compile(rf"{letters}: \d+ min less a job \(\d+–\d+\), \d+ jobs against \d+"), timeout=30_000
        )
        taken = ines.get_by_role("row").filter(has_text="Promised:").filter(has_text=title)
        expect(taken).to_contain_text(re.compile(rf"Came: {letters}: \d+ min less a job"))
    assert serious(ines) == []
    ines.get_by_role("link", name="Reedling").click()
    evidence = ines.get_by_role("row").filter(has_text="IT-002")
    expect(evidence).to_contain_text(re.compile(r"A → B: \d+ min less a job"))
