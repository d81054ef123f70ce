"""The loop closed: from the desk to what the evidence suggests, drafted, replayed, approved, and seen to have helped."""

from __future__ import annotations

import re
import shutil
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from statistics import fmean

import pytest
from playwright.sync_api import Locator, Page, expect

from reedling.standins.field import FULL, play_demo
from reedling.standins.field_habits import HABITS
from reedling.standins.field_kinds import KINDS
from reedling.store.folder import DataFolder
from reedling.wiring import DemoClock, open_context
from tests.browser.conftest import WEB, SignInAs, standing
from tests.browser.test_loop import saved, send
from tests.browser.test_views import serious
from tests.conftest import SequentialIds, app_over

NOW = datetime(2026, 6, 1, 10, 0, tzinfo=UTC)
EXTENT = replace(FULL, n_calls=320, is_wide=False, trial_days_ago=None)
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
def address(history: Path, tmp_path: Path) -> str:
    folder = Path(shutil.copytree(history, tmp_path / "demo"))
    clock = StandingClock(DataFolder(folder))
    # The identities draw which orders a trial takes: the same ones each time.
    context = replace(open_context(folder), clock=clock, new_id=SequentialIds())
    return f"http://127.0.0.1:{standing(app_over(context, folder, web=WEB))}"


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


def let_pass(page: Page, how_long: str) -> None:
    """Let weeks pass in which calls come in and are carried out."""
    page.get_by_role("link", name=re.compile("^Refine")).click()
    weeks = page.get_by_label("Let weeks pass")
    weeks.get_by_label("How long").click()
    page.get_by_role("option", name=how_long).click()
    weeks.get_by_role("button", name="Let them pass").click()
    expect(weeks.get_by_label("Calls carried out")).to_be_visible()
    expect(weeks.get_by_text(re.compile(r"\d+ calls came in and were carried out"))).to_be_visible(
        timeout=240_000
    )


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

    let_pass(ines, "half a year")

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


def test_a_change_that_costs_time_is_told_by_its_trial_and_withdrawn(sign_in_as: SignInAs) -> None:
    """An hour more on every job: thirty jobs are enough to tell it from how jobs differ.

    Three quarters are planned; in the truth of the field the step takes half as long again, at people's usual pace.
    """
    slow = next(kind.slow["WP-002:ask"] for kind in KINDS if "WP-002:ask" in kind.slow)
    true_minutes = 45 * slow * fmean(habit.pace for habit in HABITS)
    ines = sign_in_as("Ines Varga", "/author/IT-002?plan=WP-002")
    ines.get_by_role("button", name="Begin revision B").click()
    step = "Ask the keeper when it tripped and what changed"
    ines.get_by_role("button", name=f"Edit “{step}”").click()
    for words, minutes in (("Minutes at the most", "60"), (f"Minutes planned for “{step}”", "49")):
        field = ines.get_by_label(words)
        field.fill(minutes)
        field.press("Enter")
        expect(field).to_have_value(minutes)
        saved(ines)
    send(ines, "The keeper's log of three months is gone through on every call")

    oda = sign_in_as("Oda Fennimore")
    oda.get_by_role("link", name=re.compile("Pump trips on overload.* waits")).first.click()
    oda.get_by_role("button", name="Try it first").click()
    dialog = oda.get_by_role("dialog", name="Try revision B on some of the orders")
    dialog.get_by_label("Minutes a job that are worth finding").fill("25")
    expect(dialog.get_by_text(re.compile(r"At most \d+ jobs of both sides"))).to_be_visible()
    dialog.get_by_role("button", name="Begin the trial").click()
    expect(oda.get_by_role("heading", name="Pump trips on overload: trial")).to_be_visible()
    expect(oda.get_by_text("Too few jobs to say, 0 jobs against 0")).to_be_visible()

    let_pass(ines, "3 months")

    oda.get_by_role("link", name="Reedling").click()
    oda.get_by_role("link", name="Trial of “Pump trips on overload” B has its answer").click()
    told = oda.get_by_role("status").filter(has_text="jobs against")
    expect(told).to_have_text(re.compile(r"^\d+ min more a job \(\d+–\d+\), \d+ jobs against \d+\.$"))
    low, high = (int(n) for n in re.findall(r"\((\d+)–(\d+)\)", told.inner_text())[0])
    assert low <= true_minutes <= high
    expect(oda.get_by_role("img", name=re.compile("job"))).to_be_visible()
    assert serious(oda) == []
    oda.get_by_role("button", name="Withdraw B").click()
    asked = oda.get_by_role("dialog")
    asked.get_by_label("Why it is not released").fill("It takes longer and finds nothing.")
    asked.get_by_role("button", name="Withdraw it").click()
    expect(oda.get_by_text(re.compile("Withdrawn on .* by Oda Fennimore: It takes longer"))).to_be_visible()

    ines.goto("/refine")
    trials = ines.get_by_label("Trials", exact=True)
    expect(trials.get_by_text(re.compile(r"\d+ min more a job"))).to_be_visible()
    ines.goto("/author/IT-002?plan=WP-002")
    expect(ines.get_by_role("button", name="Begin revision C")).to_be_visible()
