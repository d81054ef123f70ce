"""Parts sent ahead and let go by colleagues, and costs, from the phones to the bill on the order."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import SignInAs


def beside(page: Page, label: str) -> None:
    """Open one of the kinds of what is recorded beside the steps."""
    if not page.get_by_role("region", name="Beside the steps").count():
        page.get_by_role("button", name="More", exact=True).click()
    page.get_by_role("button", name=label).click()


def choose(page: Page, field: str, option: str) -> None:
    page.get_by_role("combobox", name=field, exact=True).click()
    page.get_by_role("option", name=re.compile(option)).first.click()


def test_parts_come_from_elsewhere_and_the_bill_says_what_it_all_costs(sign_in_as: SignInAs) -> None:
    phone = sign_in_as("Runa Ashdown", phone=True)
    phone.get_by_role("button", name="Stalls").first.click()
    expect(phone.get_by_role("button", name="Head out")).to_be_visible()
    order = phone.url.rsplit("/", 1)[1]

    desk = sign_in_as("Marek Tilse", f"/run/{order}")
    desk.get_by_role("button", name="Send a part ahead").click()
    choose(desk, "Part", "^Relief-valve seat kit")
    desk.get_by_label("How many").fill("2")
    desk.get_by_label("Where it is to be found").fill("With the keeper")
    desk.get_by_role("button", name="Send it").click()
    elsewhere = desk.get_by_role("region", name="Parts from elsewhere")
    expect(elsewhere).to_contain_text("2 × Relief-valve seat kit: sent ahead, not confirmed as received yet.")

    phone.reload()
    coming = phone.get_by_role("region", name="Parts from elsewhere")
    expect(coming).to_contain_text("“With the keeper”")
    coming.get_by_label("How many came").fill("1")
    expect(coming.get_by_role("button", name="It is here")).to_be_disabled()
    coming.get_by_label("Why it is another number").fill("One box was empty")
    coming.get_by_role("button", name="It is here").click()
    expect(coming).to_contain_text("sent ahead, 1 here. “One box was empty”")
    phone.get_by_role("button", name="Head out").click()
    phone.get_by_role("button", name="I have arrived").click()

    beside(phone, "Parts sent ahead, or from a colleague")
    choose(phone, "Part to ask for", "^Hydraulic oil ISO 32")
    phone.get_by_role("button", name=re.compile("^Ask Teo Larkin")).click()
    expect(phone.get_by_text("asked of Teo Larkin, not answered yet.")).to_be_visible()
    expect(phone.locator(".pocket-bar [role=status]")).to_have_text("all sent")
    colleague = sign_in_as("Teo Larkin", "/pocket", phone=True)
    asks = colleague.get_by_role("region", name="A colleague asks")
    expect(asks).to_contain_text("1 l Hydraulic oil ISO 32")
    asks.get_by_label("Where and when, or why not").fill("At the depot until four")
    asks.get_by_role("button", name="You can have it").click()
    expect(asks).to_have_count(0)

    phone.reload()
    beside(phone, "Parts sent ahead, or from a colleague")
    expect(phone.get_by_text("Teo Larkin lets you have it. “At the depot until four”")).to_be_visible()
    phone.get_by_role("button", name="Picked up").click()
    expect(phone.get_by_text("picked up from Teo Larkin.")).to_be_visible()

    beside(phone, "Other costs")
    choose(phone, "What for", "^Ferry or toll")
    phone.get_by_label("What one cost").fill("4.5")
    phone.get_by_label("How many").last.fill("2")
    phone.get_by_role("button", name="Keep it").click()
    expect(phone.get_by_text("Ferry or toll: 2 × 4.5 = 9")).to_be_visible()

    choose(phone, "Part", "^Relief-valve seat kit")
    choose(phone, "Taken from", "sent ahead")
    phone.get_by_role("button", name="Charge another quantity").click()
    phone.get_by_label("Charged to the customer").first.fill("0")
    phone.get_by_role("button", name="Record part").click()
    expect(phone.locator(".pocket-bar [role=status]")).to_have_text("all sent")

    desk.reload()
    bill = desk.get_by_role("region", name="Costs and charges")
    expect(bill.get_by_role("row", name="Relief-valve seat kit")).to_contain_text("68.00")
    expect(bill.get_by_role("row", name="Ferry or toll")).to_contain_text("9.00")
    expect(bill.get_by_role("row", name="Together")).to_contain_text("77.00")
    expect(elsewhere).to_contain_text("1 l Hydraulic oil ISO 32: picked up from Teo Larkin.")


def test_the_office_reads_the_times_of_all_and_takes_them_along(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Marek Tilse", "/run")
    page.get_by_role("link", name="Time sheets").click()
    expect(page.get_by_role("heading", name="Time sheets")).to_be_visible()
    page.get_by_label("From").fill("2026-01-01")
    expect(page.get_by_text("62 days at most")).to_be_visible()
    page.go_back()
    page.goto("/run/time-sheets?first=2000-01-01&last=2000-01-05")
    expect(page.get_by_text("Nobody set off to an order in these days.")).to_be_visible()
    link = page.get_by_role("link", name="Save as a sheet").get_attribute("href") or ""
    assert page.request.get(link).text().startswith("technician,district,day,order")
