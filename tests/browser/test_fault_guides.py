"""Fault guides: drafted from closed jobs, mended as on a sheet, released, and followed on the phone without a network."""

from __future__ import annotations

import re
from datetime import UTC, datetime
from pathlib import Path

from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.conftest import SignInAs
from tests.browser.test_pocket import on_site, taken_along_on_site
from tests.browser.test_views import serious

__all__ = ["on_site"]


def to_diagnose(page: Page) -> None:
    """Past the plate and the lock, up to where the cause is looked for."""
    page.get_by_role("button", name="Take photo").click()
    expect(page.get_by_role("img", name="Nameplate")).to_be_visible()
    page.get_by_role("button", name="Next").click()
    page.get_by_role("button", name="Take photo").click()
    expect(page.get_by_role("img", name="Lock on isolator")).to_be_visible()
    page.get_by_label("Permit number").fill("P-4417")
    page.get_by_label("Permit number").blur()
    page.get_by_role("button", name="Next").click()
    expect(page.get_by_text("Diagnose, step 3 of")).to_be_visible()


def chance(page: Page, cause: str) -> int:
    """The chance of a cause as the phone shows it, in percent."""
    line = page.locator(".pguide-causes li").filter(has_text=cause)
    return int(re.sub(r"\D", "", line.locator("b").inner_text()))


def test_the_guide_leads_on_the_phone_without_a_network(on_site: Page, sign_in_as: SignInAs) -> None:
    taken_along_on_site(on_site)
    on_site.context.set_offline(True)
    to_diagnose(on_site)
    guide = on_site.get_by_role("region", name="Fault guide")
    expect(guide.get_by_text("Fault guide, next")).to_be_visible()
    guide.locator(".pguide-more").click()
    before = chance(on_site, "Low oil")
    steps = guide.get_by_role("list", name="Checks and remedies")
    oil = steps.get_by_role("listitem").filter(has_text="sight glass")
    oil.get_by_role("button", name=re.compile("^So: Oil")).click()
    expect(oil.get_by_role("button", name=re.compile("^So: Oil"))).to_have_attribute("aria-pressed", "true")
    assert chance(on_site, "Low oil") > before
    on_site.get_by_label("Pressure in bar").fill("84")
    on_site.get_by_label("Pressure in bar").blur()
    pressure = steps.get_by_role("listitem").filter(has_text="Pressure low at stall")
    expect(pressure.locator("b")).to_have_text("so")
    assert serious(on_site) == []
    guide.get_by_label("None of these? Say what you see.").fill("The motor smells burnt")
    guide.get_by_role("button", name="None of these").click()
    expect(guide.get_by_text("Fault guide, next")).to_be_hidden()
    guide.get_by_role("button", name="Take it back").click()
    expect(guide.get_by_text("Fault guide, next")).to_be_visible()
    topped = steps.get_by_role("listitem").filter(has_text="Topped up and bled")
    topped.get_by_role("button", name=re.compile("^It works now")).click()
    expect(guide.get_by_text("Most likely it was: Low oil.")).to_be_visible()
    on_site.context.set_offline(False)
    expect(on_site.locator(".pocket-bar [role=status]")).to_have_text("all sent", timeout=30_000)
    order = on_site.url.rsplit("/", 1)[1]
    page = on_site.request.get(f"/api/v1/pocket/orders/{order}").json()
    assert page["job"]["beside"]["guided"] == {
        "seen": {"oil": True},
        "tried": {"oil-up": True},
        "none_of_these": None,
    }
    assert page["run"]["guide"]["found"] == "low-oil"
    ines = sign_in_as("Ines Varga", f"/review/jobs/{order}")
    told = ines.get_by_role("region", name="Fault guide")
    expect(told.get_by_text("Oil below the mark at the sight glass: so")).to_be_visible()
    expect(told.get_by_text("Topped up and bled: helped")).to_be_visible()


def test_a_guide_is_drafted_from_closed_jobs_mended_released_and_comes_with_the_next_order(
    sign_in_as: SignInAs,
) -> None:
    oda = sign_in_as("Oda Fennimore", "/refine/guides/FG-001")
    oda.get_by_role("button", name="More about this revision").click()
    oda.get_by_role("menuitem", name="Withdraw FG-001 A").click()
    oda.get_by_role("dialog").get_by_role("textbox").fill("To begin anew from the jobs")
    oda.get_by_role("button", name="Withdraw it").click()
    expect(oda.get_by_text("FG-001 A is withdrawn.")).to_be_visible()

    ines = sign_in_as("Ines Varga", "/refine/IT-001/guide")
    expect(ines.get_by_text("No fault guide is written for it yet")).to_be_visible()
    ines.get_by_role("button", name=re.compile(r"Draft a guide from \d+ jobs")).click()
    sheet = ines.get_by_role("table", name="Fault guide")
    expect(sheet).to_be_visible()
    work = ines.get_by_role("region", name="Order of work")
    expect(work.get_by_text("Best order found")).to_be_visible()
    assert serious(ines) == []

    often = sheet.get_by_label("How often Debris behind the tines")
    first = often.input_value()
    often.fill("90")
    often.press("Enter")
    expect(ines.get_by_role("button", name="Undo")).to_be_enabled()
    ines.get_by_role("button", name="Undo").click()
    expect(often).to_have_value(first)
    ines.get_by_role("combobox", name="Add a check").click()
    ines.get_by_role("option", name="In your own words").click()
    row = sheet.get_by_role("row").filter(has_text="Look at something")
    row.get_by_role("button", name="Change Look at something").click()
    ines.get_by_label("In other words").fill("Weed hangs out of the intake")
    ines.get_by_label("In other words").blur()
    ines.keyboard.press("Escape")
    weed = sheet.get_by_label("Weed hangs out of the intake, with Debris behind the tines")
    weed.fill("80")
    weed.press("ArrowRight")
    expect(sheet.get_by_text("Weed hangs out of the intake")).to_be_visible()
    expect(weed).to_have_value("80")
    so = sheet.get_by_role("button", name="So: Weed hangs out of the intake", exact=True)
    so.click()
    expect(so).to_have_attribute("aria-pressed", "true")
    expect(work.get_by_text("Next after what you marked")).to_be_visible()
    expect(ines).to_have_url(re.compile(r"\?yes="))
    checks = ines.get_by_role("region", name="Checks")
    expect(checks.get_by_text(re.compile("^0 to mend|No problems"))).to_be_visible()
    ines.get_by_role("button", name="Send for review").click()
    ines.get_by_role("textbox", name="What changed").fill("Begun from the jobs, with the weed at the intake")
    ines.get_by_role("dialog").get_by_role("button", name="Send for review").click()
    expect(ines.get_by_text("Waits for a second person.")).to_be_visible()

    oda.goto(ines.url)
    oda.get_by_role("button", name="Release").click()
    oda.get_by_role("dialog").get_by_role("button", name="Release").click()
    expect(oda.get_by_text(re.compile("revision A, released"))).to_be_visible()

    marek = sign_in_as("Marek Tilse", "/run")
    rake = next(
        o for o in marek.request.get("/api/v1/orders").json()["rows"] if o["incident_type"] == "IT-001"
    )
    asked = {"asset": rake["asset"]["code"], "symptom": "stalls", "report": "Stops with weed on"}
    order = marek.request.post("/api/v1/orders", data=asked).json()["id"]
    visit = {"technician": "runa", "planned_for": datetime.now(UTC).isoformat()}
    marek.request.post(f"/api/v1/orders/{order}/visit", data=visit)
    runa = sign_in_as("Runa Ashdown", f"/pocket/{order}", phone=True)
    runa.get_by_role("button", name="Head out").click()
    runa.get_by_role("button", name="I have arrived").click()
    to_diagnose(runa)
    guide = runa.get_by_role("region", name="Fault guide")
    guide.locator(".pguide-more").click()
    before = chance(runa, "Debris behind the tines")
    weed_seen = guide.get_by_role("button", name="So: Weed hangs out of the intake", exact=True)
    weed_seen.click()
    expect(weed_seen).to_have_attribute("aria-pressed", "true")
    assert chance(runa, "Debris behind the tines") > before


def test_the_order_of_work_is_drawn_as_it_is_listed_and_saved(sign_in_as: SignInAs, tmp_path: Path) -> None:
    page = sign_in_as("Ines Varga", "/refine/IT-001/guide")
    drawing = page.get_by_role("figure").filter(has_text="The order of work, drawn")
    expect(drawing).to_be_visible()
    listed = page.get_by_role("region", name="Order of work", exact=True).locator("ol li[data-act]")
    assert drawing.locator("rect[data-act]").count() == listed.count() > 3
    kinds = listed.evaluate_all("all => all.map((one) => one.dataset.act).sort()")
    assert (
        drawing.locator("rect[data-act]").evaluate_all("all => all.map((one) => one.dataset.act).sort()")
        == kinds
    )
    assert serious(page) == []
    with page.expect_download() as saving:
        drawing.get_by_role("button", name="PNG").click()
    kept = tmp_path / "order.png"
    saving.value.save_as(kept)
    assert Image.open(kept).width > 400


def test_a_draft_of_a_guide_is_replayed_on_past_jobs(sign_in_as: SignInAs) -> None:
    ines = sign_in_as("Ines Varga", "/refine/guides/FG-001")
    ines.get_by_role("button", name="Begin revision B").click()
    ines.get_by_role("link", name="Replay the draft on past jobs").click()
    expect(ines.get_by_role("heading", name=re.compile("^Replay of"))).to_be_visible(timeout=30_000)
    expect(ines.get_by_role("status")).to_contain_text("The draft changes no minutes of the last")
    expect(ines.get_by_text("Visits for a part saved")).to_be_hidden()
    assert serious(ines) == []
