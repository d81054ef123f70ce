"""Routine work as an engineer meets it: set, overdue, followed from the desk to its pieces, saved as a sheet."""

from __future__ import annotations

import csv
from datetime import timedelta
from pathlib import Path

import pytest
from playwright.sync_api import expect

from reedling.services.actions.orders import log_order
from reedling.services.shared.matched import OrderToMatch
from reedling.services.views.routine_work import routine_page
from reedling.wiring import open_context
from tests.browser.conftest import SignInAs
from tests.browser.test_views import serious


@pytest.fixture
def overdue(demo_dir: Path) -> str:
    """An order for a half-yearly visit that was logged long ago and that nobody has made."""
    context = open_context(demo_dir)
    with context.reading() as unit:
        planner = next(p for p in unit.people.all() if p.role == "planner")
        station = next(p.asset for p in unit.register.assets() if p.asset.equipment == "station")
    asked = OrderToMatch(asset=station.code, symptom="half-yearly")
    return log_order(context, planner, asked, "Due.", at=context.clock() - timedelta(days=60)).id


def test_what_is_overdue_is_followed_from_the_desk_to_its_pieces(
    overdue: str, sign_in_as: SignInAs, demo_dir: Path, tmp_path: Path
) -> None:
    page = sign_in_as("Ines Varga", "/desk")
    page.get_by_role("link", name="1 routine visit overdue").click()
    pieces = page.get_by_role("complementary", name="Pieces of work")
    counted = routine_page(open_context(demo_dir), {}).work
    expect(pieces.get_by_role("heading", level=2)).to_have_text(
        f"{counted['overdue']} pieces of work, overdue"
    )
    expect(pieces.get_by_role("link", name=overdue).first).to_be_visible()
    assert serious(page) == []
    kinds = page.get_by_role("row").filter(has_text="Make safe").first
    kinds.get_by_role("button", name="1 overdue").click()
    expect(pieces.get_by_role("heading", level=2)).to_have_text("1 piece of work, overdue")
    expect(page.get_by_role("button", name="Take off 1 choice")).to_be_visible()
    page.reload()
    expect(pieces.get_by_role("heading", level=2)).to_have_text("1 piece of work, overdue")
    page.get_by_role("button", name="Take off 1 choice").click()
    with page.expect_download() as saving:
        page.get_by_role("link", name="Save as CSV").click()
    sheet = tmp_path / "routine.csv"
    saving.value.save_as(sheet)
    with sheet.open(newline="") as lines:
        rows = list(csv.DictReader(lines))
    assert len(rows) == sum(counted.values())
    assert {row["order"] for row in rows if row["state"] == "overdue"} == {overdue}
    pieces.get_by_role("link", name=overdue).first.click()
    expect(page.get_by_text("Routine visit, overdue: it was to be made by")).to_be_visible()
    page.goto("/run")
    expect(page.get_by_role("row").filter(has_text=overdue)).to_contain_text("overdue since")


def test_an_engineer_says_within_how_many_days_a_visit_is_made(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/author/IT-003")
    page.get_by_role("button", name="Set order terms").click()
    days = page.get_by_label("Routine: days until made")
    days.fill("10")
    days.blur()
    expect(page.get_by_text("a visit within 10 days")).to_be_visible()
    days.fill("400")
    days.blur()
    expect(
        page.get_by_text("A routine visit is done within 0 to 366 days of falling due.").first
    ).to_be_visible()


def test_a_planner_reads_it_and_choices_that_nothing_meets_say_so(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Marek Tilse", "/review/routine?district=Nowhere")
    expect(page.get_by_text("No work meets the other choices.").first).to_be_visible()
    page.get_by_role("button", name="Take off 1 choice").click()
    expect(page.get_by_text("Half-yearly pump survey").first).to_be_visible()
