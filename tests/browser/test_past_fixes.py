"""Past fixes at the desk and on the phone without a network, and what to carry."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import SignInAs
from tests.browser.test_pocket import on_site, taken_along_on_site
from tests.browser.test_views import serious

__all__ = ["on_site"]


def test_a_planner_reads_what_solved_jobs_like_it_and_opens_one(sign_in_as: SignInAs) -> None:
    marek = sign_in_as("Marek Tilse", "/run")
    marek.get_by_role("row", name=re.compile("Stalls Planned")).first.get_by_role("link").first.click()
    fixes = marek.get_by_label("Past fixes").get_by_role("listitem")
    expect(fixes).not_to_have_count(0)
    expect(fixes.first).to_contain_text(re.compile(r"Solved \d+ jobs?"))
    assert serious(marek) == []
    fixes.first.get_by_role("link").first.click()
    expect(marek.get_by_text("What differed from the plan").first).to_be_visible()


def test_without_a_network_a_fix_is_marked_and_its_cause_is_recorded(on_site: Page) -> None:
    taken_along_on_site(on_site)
    on_site.context.set_offline(True)
    on_site.get_by_role("button", name="More", exact=True).click()
    fixes = on_site.get_by_label("Past fixes").get_by_role("listitem")
    first = fixes.first
    first.get_by_role("button", name="Not it").click()
    expect(first.get_by_role("button", name="Not it")).to_have_attribute("aria-pressed", "true")
    first.get_by_role("button", name="This solved it").click()
    expect(first.get_by_role("button", name="This solved it")).to_have_attribute("aria-pressed", "true")
    expect(first.get_by_role("button", name="Not it")).to_have_attribute("aria-pressed", "false")
    on_site.get_by_role("button", name="Close").click()
    on_site.context.set_offline(False)
    status = on_site.locator(".pocket-bar [role=status]")
    expect(status).to_have_text("all sent", timeout=30_000)
    order = on_site.url.rsplit("/", 1)[1]
    job = on_site.request.get(f"/api/v1/pocket/orders/{order}").json()["job"]
    (mark,) = job["beside"]["fixes"]
    assert mark["helped"] is True
    assert (job["cause"], job["remedy"]) == (mark["cause"], mark["remedy"])


def test_what_to_carry_names_what_is_short_and_for_which_orders(sign_in_as: SignInAs) -> None:
    runa = sign_in_as("Runa Ashdown", phone=True)
    carry = runa.locator(".to-carry")
    expect(carry.locator("summary")).to_contain_text(re.compile(r"What to carry: .*\d+ parts?"))
    # She lacks the gauge that her first step wants: that is said before she opens the list.
    gauge = carry.get_by_role("list", name="Short in your van").get_by_role("listitem")
    expect(gauge).to_contain_text("Pressure gauge")
    expect(gauge).to_contain_text("1 needed; 0 in the van, 1 short")
    expect(gauge).to_contain_text("WO-")
    seat_kit = carry.get_by_role("listitem").filter(has_text="Relief-valve seat kit")
    expect(seat_kit).to_have_count(0)
    carry.locator("summary").click()
    expect(carry.get_by_role("list", name="Tools").get_by_role("listitem").first).to_contain_text(
        "Pressure gauge"
    )
    expect(seat_kit).to_contain_text("in the van")


def test_a_technician_reads_two_weeks_of_times_also_without_a_network(on_site: Page) -> None:
    on_site.goto("/pocket")
    on_site.get_by_role("link", name="Your times").click()
    expect(on_site.get_by_text("on site").first).to_be_visible()
    expect(on_site.get_by_text("not left yet").first).to_be_visible()
    assert serious(on_site) == []
    on_site.get_by_role("button", name="‹ Your orders").click()
    on_site.context.set_offline(True)
    on_site.get_by_role("link", name="Your times").click()
    expect(on_site.get_by_text("not left yet").first).to_be_visible()
