"""What is recorded beside the steps: from the phone without a network to the office that settles it."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import SignInAs
from tests.browser.test_pocket import on_site, taken_along_on_site
from tests.browser.test_views import serious

__all__ = ["on_site"]


def open_beside(page: Page, label: str) -> None:
    """Open one of the kinds of things that are recorded beside the steps."""
    if not page.get_by_role("dialog", name="More").is_visible():
        page.get_by_role("button", name="More", exact=True).click()
    page.get_by_role("button", name=re.compile(f"^{label}")).click()


def test_parts_work_and_equipment_reach_the_office_and_are_settled(
    on_site: Page, sign_in_as: SignInAs
) -> None:
    taken_along_on_site(on_site)
    on_site.context.set_offline(True)
    open_beside(on_site, "A part that is not in the list")
    on_site.get_by_label("What it says on it").fill("oil-hydrualic, iso 46")
    likeliest = on_site.get_by_role("button", name=re.compile("Hydraulic oil ISO 46.*taken for"))
    expect(likeliest).to_be_visible()
    on_site.get_by_label("What it says on it").fill("grey ring behind the cover")
    expect(on_site.get_by_text("Nothing in the list is like it.")).to_be_visible()
    on_site.get_by_role("button", name="Keep as typed").click()
    open_beside(on_site, "Further work")
    on_site.get_by_label("What should be done").fill("Replace the worn teeth")
    on_site.get_by_label("Price told").fill("480")
    on_site.get_by_role("button", name="Recommend it").click()
    on_site.get_by_role("button", name="Declined", exact=True).click()
    expect(on_site.get_by_role("button", name="Declined", exact=True)).to_have_attribute(
        "aria-pressed", "true"
    )
    open_beside(on_site, "Equipment the register lacks")
    on_site.get_by_label("What it is").fill("Booster pump")
    on_site.get_by_label("Serial number").fill("BP-7781")
    on_site.get_by_role("button", name="Take a picture of the plate").click()
    on_site.get_by_role("button", name="Tell the office").click()
    open_beside(on_site, "What the customer says")
    on_site.get_by_label("In their words").fill("Came late")
    assert serious(on_site) == []
    on_site.get_by_role("button", name="2", exact=True).click()
    on_site.get_by_role("button", name="Keep it").click()
    expect(on_site.get_by_role("button", name=re.compile("^What the customer says 1"))).to_be_visible()
    on_site.context.set_offline(False)
    on_site.get_by_role("button", name="Close").click()
    expect(on_site.locator(".pocket-bar [role=status]")).to_have_text("all sent", timeout=30_000)

    marek = sign_in_as("Marek Tilse", "/run")
    marek.get_by_text("3 site records to settle").click()
    records = marek.get_by_label("Recorded beside the steps").locator(".site-record")
    expect(records).to_have_count(3)
    assert serious(marek) == []
    part = records.filter(has_text="grey ring behind the cover")
    part.get_by_role("combobox").fill("seat")
    marek.get_by_role("option").first.click()
    expect(part).to_have_count(0)
    work = records.filter(has_text="Replace the worn teeth")
    expect(work).to_contain_text("The customer: declined")
    work.get_by_role("button", name="Log an order for it").click()
    expect(work).to_have_count(0)
    records.get_by_role("button", name="Set aside").click()
    marek.get_by_label("Why it is set aside").fill("It is the neighbour's")
    marek.get_by_role("button", name="Set it aside").click()
    expect(marek.get_by_text("site records to settle")).to_have_count(0)
    expect(
        marek.get_by_role("row", name=re.compile("Rake 1, Farrow Lode.*Stalls Logged")).first
    ).to_be_visible()

    open_beside(on_site, "Further work")
    on_site.reload()
    open_beside(on_site, "A part that is not in the list")
    expect(on_site.get_by_text("the office says it is")).to_be_visible(timeout=30_000)


def test_a_break_stops_the_clock_and_a_time_is_put_right_with_a_reason(
    on_site: Page, sign_in_as: SignInAs
) -> None:
    on_site.get_by_role("button", name="More", exact=True).click()
    on_site.get_by_role("button", name="Begin a break").click()
    expect(on_site.get_by_text("On a break since")).to_be_visible()
    expect(on_site.get_by_role("button", name="Next")).to_have_count(0)
    on_site.get_by_role("button", name="Go on working").click()
    expect(on_site.get_by_text("On a break since")).to_have_count(0)
    open_beside(on_site, "Times and breaks")
    on_site.get_by_role("combobox", name="A time to correct").click()
    on_site.get_by_role("option", name="Visit 1: headed out").click()
    on_site.get_by_label("It was").fill("2026-01-05T06:10")
    on_site.get_by_label("Why it is corrected").fill("Pressed it late")
    on_site.get_by_role("button", name="Correct it").click()
    expect(on_site.get_by_role("button", name="Correct it")).to_have_count(0)
    open_beside(on_site, "Times and breaks")
    expect(on_site.get_by_text(re.compile("headed out was .*: Pressed it late"))).to_be_visible()
    order = on_site.url.rsplit("/", 1)[1]
    on_site.get_by_role("button", name="Close").click()
    expect(on_site.locator(".pocket-bar [role=status]")).to_have_text("all sent", timeout=30_000)
    ines = sign_in_as("Ines Varga", f"/review/jobs/{order}")
    expect(ines.get_by_text("corrected: Pressed it late")).to_be_visible()
    expect(ines.get_by_text("1 break.")).to_be_visible()


def test_several_people_sign_with_their_names_and_what_they_are(on_site: Page, sign_in_as: SignInAs) -> None:
    open_beside(on_site, "Signatures")
    for name, role in (("H. Osk", "Keeper"), ("J. Rill", "Shift lead")):
        on_site.get_by_label("Name", exact=True).fill(name)
        on_site.get_by_label("What they are").fill(role)
        pad = on_site.get_by_label(f"Sign here, {name}")
        box = pad.bounding_box()
        assert box is not None
        on_site.mouse.move(box["x"] + 20, box["y"] + 20)
        on_site.mouse.down()
        on_site.mouse.move(box["x"] + 120, box["y"] + 40)
        on_site.mouse.up()
        on_site.get_by_role("button", name="Keep signature").click()
        expect(on_site.get_by_text(f"Signed by {name}, {role}.")).to_be_visible()
    order = on_site.url.rsplit("/", 1)[1]
    on_site.get_by_role("button", name="Close").click()
    expect(on_site.locator(".pocket-bar [role=status]")).to_have_text("all sent", timeout=30_000)
    ines = sign_in_as("Ines Varga", f"/review/jobs/{order}")
    expect(ines.get_by_text("Signed by J. Rill, Shift lead")).to_be_visible()


def test_the_office_corrects_the_leaving_time_of_a_finished_job(sign_in_as: SignInAs) -> None:
    marek = sign_in_as("Marek Tilse", "/run/WO-0001")
    visits = marek.get_by_role("region", name="Visits")
    visits.get_by_role("button", name="Correct a time").click()
    marek.get_by_role("combobox", name="Which time").click()
    marek.get_by_role("option", name=re.compile("^Visit 1: left")).click()
    field = marek.get_by_label("It was")
    field.fill(field.input_value()[:-5] + "23:59")
    marek.get_by_label("Why it is corrected").fill("Shut the phone off before leaving")
    marek.get_by_role("button", name="Correct it").click()
    expect(visits.get_by_text("corrected by the office: Shut the phone off before leaving")).to_be_visible()
    expect(visits.get_by_text("left 23:59")).to_be_visible()
    assert serious(marek) == []
    ines = sign_in_as("Ines Varga", "/run/WO-0001")
    expect(ines.get_by_text("corrected by the office")).to_be_visible()
    expect(ines.get_by_role("button", name="Correct a time")).to_be_hidden()
