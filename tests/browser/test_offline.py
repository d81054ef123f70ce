"""A whole visit with the network off: taken along, carried out, closed and reopened, sent once when there is a line."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import BrowserContext, Locator, Page, expect

from reedling.standins.field import DEMO_PASSWORD
from tests.browser.conftest import ON_DEVICE, SignInAs, comes_true
from tests.browser.test_kept_work import note, status
from tests.browser.test_pocket import begun_on_the_server, on_site
from tests.browser.test_views import serious

__all__ = ["on_site"]

DEVICE_VIEW = f"async (order) => (await ({ON_DEVICE})('views')).find((t) => t.id === order).view"


def taken_along(sign_in_as: SignInAs) -> Page:
    """Runa in Pocket with her day on the phone, and Pocket itself kept by the browser."""
    page = sign_in_as("Runa Ashdown", phone=True, installed=True)
    expect(page.get_by_text("on this phone")).to_have_count(3, timeout=30_000)
    comes_true(page, "(await navigator.serviceWorker.getRegistration())?.active?.state === 'activated'")
    return page


def open_again(context: BrowserContext, path: str) -> Page:
    """Close every tab and open Pocket anew, as somebody does who put the phone away."""
    page = context.new_page()
    for other in context.pages[:-1]:
        other.close()
    page.goto(path)
    return page


def answer(page: Page, asked: Locator, *, low: bool) -> None:
    """Answer one question by what it shows."""
    label = asked.locator(".pquestion-label, .psafety p").first
    name = label.inner_text() if label.count() else ""
    if asked.get_by_role("button", name="Scan", exact=True).count():
        asked.get_by_role("button", name="Scan", exact=True).click()
        expect(asked.get_by_role("button", name="✓ Scanned. Scan again")).to_be_visible()
    elif asked.get_by_role("button", name=re.compile("^Take photo")).count():
        asked.get_by_role("button", name=re.compile("^Take photo")).click()
        expect(asked.get_by_role("button", name="✓ Taken. Take again")).to_be_visible()
        expect(asked.get_by_role("img")).to_be_visible()
    elif asked.locator("canvas").count():
        asked.locator("canvas").scroll_into_view_if_needed()
        box = asked.locator("canvas").bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 40, box["y"] + 40)
        page.mouse.down()
        page.mouse.move(box["x"] + 120, box["y"] + 60, steps=4)
        page.mouse.up()
        asked.get_by_role("button", name="Keep signature").click()
        expect(asked.get_by_role("button", name="✓ Signed. Sign again")).to_be_visible()
    elif asked.locator(".preading input").count():
        field = asked.locator(".preading input")
        if not field.input_value():
            field.fill("84" if low or "hours" not in name.lower() else "9000")
            field.blur()
    elif asked.locator("input[type=date]").count():
        asked.locator("input[type=date]").fill("2026-05-04")
    elif asked.locator("textarea.ptext").count() and "if there is" not in name:
        asked.locator("textarea.ptext").first.fill("P-7")
        asked.locator("textarea.ptext").first.blur()
    else:
        choices = asked.locator(".pchoice:not(.offer)")
        pressed = asked.locator(".pchoice[aria-pressed=true]")
        if choices.count() and not pressed.count():
            choices.first.click()
            expect(pressed.first).to_be_visible()


def carry_out(page: Page, *, until: int = 40, low: bool = False) -> int:
    """Answer step after step; gives how many were done before the end or the number wanted."""
    for n in range(until):
        if page.get_by_role("heading", name="What was it?").count():
            return n
        following = page.get_by_role("button", name="Next")
        for _ in range(3):  # An answer may open further questions.
            for asked in page.locator(".pquestion").all():
                answer(page, asked, low=low)
            page.wait_for_timeout(600)
            if following.count() and following.is_enabled():
                break
        if page.get_by_role("heading", name="What was it?").count():
            return n
        expect(following, page.locator("main").aria_snapshot()).to_be_enabled()
        place = page.locator("main").inner_text()
        following.click()
        expect(page.locator("main")).not_to_have_text(place, use_inner_text=True)
    return until


def job_at_the_server(page: Page, order: str) -> dict[str, Any]:
    answer: dict[str, Any] = page.request.get(f"/api/v1/pocket/orders/{order}").json()
    return answer


@pytest.mark.slow
def test_a_call_out_and_a_survey_with_the_network_off(sign_in_as: SignInAs) -> None:
    """Branches, repeats, photos, scans, a signature, a part, a note, closed and reopened twice; sent once."""
    page = taken_along(sign_in_as)
    context = page.context
    context.set_offline(True)
    page = open_again(context, "/pocket")
    expect(page.get_by_text("No connection. Your orders as of")).to_be_visible()

    page.get_by_role("button", name="Stalls").first.click()
    page.get_by_role("button", name="Head out").click()
    page.get_by_role("button", name="I have arrived").click()
    order = page.url.rsplit("/", 1)[1]
    carry_out(page, until=3, low=True)
    here = page.locator(".pstep-place").inner_text()
    page = open_again(context, page.url)
    expect(page.locator(".pstep-place")).to_have_text(here)
    expect(status(page)).to_contain_text("not sent")
    note(page, "Done without a line")
    page.get_by_role("button", name="More").click()
    page.get_by_role("combobox", name="Part").click()
    page.get_by_role("option").first.click()
    page.get_by_role("button", name="Record part").click()
    assert carry_out(page, low=True) > 2
    page.get_by_role("combobox", name="Cause found").click()
    page.get_by_role("option").first.click()
    page.get_by_role("combobox", name="Remedy").click()
    page.get_by_role("option").first.click()
    page.get_by_role("button", name="Finish the job").click()
    expect(page.get_by_text("This job is finished")).to_be_visible()
    call_out = page.evaluate(DEVICE_VIEW, order)
    assert call_out["state"] == "Finished"

    page = open_again(context, "/pocket")
    expect(page.get_by_role("button", name="Stalls").first).to_contain_text("finished")
    page.get_by_role("button", name="survey").first.click()
    page.get_by_role("button", name="Head out").click()
    page.get_by_role("button", name="I have arrived").click()
    survey = page.url.rsplit("/", 1)[1]
    carry_out(page)
    page.get_by_role("button", name="More").click()
    page.get_by_role("combobox", name="Reason for return").click()
    page.get_by_role("option", name="more time").click()
    page.get_by_role("button", name="Leave, return needed").click()
    expect(page.get_by_text("You left with a return needed: more time.")).to_be_visible()
    seen = page.evaluate(DEVICE_VIEW, survey)

    context.set_offline(False)
    page.goto("/pocket")
    expect(status(page)).to_have_text("all sent", timeout=60_000)
    for found, name in ((call_out, order), (seen, survey)):
        server = job_at_the_server(page, name)
        assert server["job"] == found["job"], "the server's job is the device's, to the last answer"
        found["run"]["may_be_skipped"].sort()
        server["run"]["may_be_skipped"].sort()
        assert server["run"] == found["run"]
        assert server["loose"] == []
    pictures = [a for a in seen["job"]["answers"].values() if re.fullmatch(r"[0-9a-f-]{36}", str(a))]
    assert pictures
    for picture in pictures:
        assert page.evaluate("async (p) => (await fetch(`/api/v1/pictures/${p}`)).status", picture) == 200


def test_an_order_that_is_not_on_the_phone_says_so(sign_in_as: SignInAs) -> None:
    page = taken_along(sign_in_as)
    page.context.set_offline(True)
    page = open_again(page.context, "/pocket/WO-0001")
    expect(page.get_by_role("alert")).to_contain_text("This order is not on this phone")
    page.get_by_role("button", name="To your orders").click()
    expect(page.get_by_role("heading", name="Your orders")).to_be_visible()


def test_what_the_rules_refuse_is_told_at_once_and_nothing_is_sent(sign_in_as: SignInAs) -> None:
    page = taken_along(sign_in_as)
    page.context.set_offline(True)
    page.get_by_role("button", name="survey").first.click()
    page.get_by_role("button", name="Head out").click()
    page.get_by_role("button", name="I have arrived").click()
    expect(page.locator("main[data-rules=here]")).to_be_visible(timeout=60_000)
    page.get_by_placeholder("or type what it says").fill("WRONG-PLATE")
    page.get_by_placeholder("or type what it says").press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("This is not recorded")


@pytest.mark.parametrize("kept", [True, False])
def test_the_rules_go_on_from_the_build_and_are_begun_anew_where_they_cannot(
    sign_in_as: SignInAs, kept: bool
) -> None:
    page = sign_in_as("Runa Ashdown", phone=True)
    if not kept:
        page.context.route("**/begun.bin.gz", lambda route: route.abort())
    asked: list[str] = []
    page.context.on("request", lambda request: asked.append(request.url.rsplit("/", 1)[1]))
    page.reload()
    page.get_by_role("button", name="survey").first.click()
    page.get_by_role("button", name="Head out").click()
    page.get_by_role("button", name="I have arrived").click()
    expect(page.locator("main[data-rules=here]")).to_be_visible(timeout=60_000)
    assert ("begun.bin.gz" in asked, "rules.json" in asked) == (True, not kept)
    page.context.set_offline(True)
    page.get_by_placeholder("or type what it says").fill("WRONG-PLATE")
    page.get_by_placeholder("or type what it says").press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("This is not recorded")


@pytest.mark.slow
def test_two_tabs_record_on_one_order_and_show_the_same(sign_in_as: SignInAs) -> None:
    page = taken_along(sign_in_as)
    page.get_by_role("button", name="Stalls").first.click()
    page.get_by_role("button", name="Head out").click()
    page.get_by_role("button", name="I have arrived").click()
    begun_on_the_server(page)
    other = page.context.new_page()
    other.goto(page.url)
    page.context.set_offline(True)
    note(page, "From the first tab")
    note(other, "From the second tab")
    expect(status(page)).to_contain_text("2 not sent")
    expect(status(other)).to_contain_text("2 not sent")
    page.context.set_offline(False)
    expect(status(page)).to_have_text("all sent", timeout=30_000)
    expect(status(other)).to_have_text("all sent", timeout=30_000)
    order = page.url.rsplit("/", 1)[1]
    notes = [n["text"] for n in job_at_the_server(page, order)["job"]["notes"]]
    assert sorted(notes) == ["From the first tab", "From the second tab"]


def test_a_tab_that_is_opened_later_takes_nothing_from_the_first(on_site: Page) -> None:
    """The second tab fetches the order with what the first has sent, and what is on the phone of it goes: the first
    goes on from what the second fetched."""
    expect(on_site.locator("[data-rules=here]")).to_be_visible(timeout=60_000)
    on_site.get_by_role("button", name="Take photo, nameplate").click()
    expect(on_site.get_by_role("button", name="✓ Taken. Take again")).to_be_visible()
    on_site.get_by_role("button", name="Next").click()
    expect(on_site.get_by_text("step 2 of 7")).to_be_visible()
    on_site.get_by_role("button", name="Take photo, before").click()
    taken = on_site.get_by_role("button", name="✓ Taken. Take again")
    expect(taken).to_be_visible()
    comes_true(on_site, f"(await ({ON_DEVICE})('parcels')).every((p) => p.recorded)")
    other = on_site.context.new_page()
    other.goto(on_site.url)
    expect(other.get_by_text("step 2 of 7")).to_be_visible()
    comes_true(other, f"(await ({ON_DEVICE})('parcels')).length === 0")
    on_site.context.set_offline(True)
    note(on_site, "Written after it")
    note(on_site, "And another")
    order = on_site.url.rsplit("/", 1)[1]
    comes_true(on_site, f"(await ({DEVICE_VIEW})('{order}')).job.notes.length === 2")
    expect(taken).to_be_visible()


def test_what_the_office_changed_comes_down_and_moves_nothing_under_the_thumb(
    sign_in_as: SignInAs, address: str
) -> None:
    """The order is cancelled while its technician heads out without a line: what is recorded stays beside it."""
    page = taken_along(sign_in_as)
    page.get_by_role("button", name="Stalls").first.click()
    expect(page.get_by_role("button", name="Head out")).to_be_visible()
    order = page.url.rsplit("/", 1)[1]
    page.context.set_offline(True)
    office = page.context.browser.new_context(base_url=address)  # type: ignore[union-attr]
    office.request.post("/api/v1/session", data={"username": "marek", "password": DEMO_PASSWORD})
    cancelled = office.request.post(f"/api/v1/orders/{order}/cancellation", data={"reason": "Rang off"})
    assert cancelled.ok
    page.get_by_role("button", name="Head out").click()
    page.get_by_role("button", name="I have arrived").click()
    expect(page.get_by_text("Arrive, step 1 of")).to_be_visible()
    page.context.set_offline(False)
    expect(page.get_by_text("The office cancelled this order.")).to_be_visible(timeout=30_000)
    expect(page.get_by_role("region", name="Kept beside the order")).to_contain_text(
        "records kept beside the order, because it is cancelled."
    )
    desk = office.new_page()
    desk.goto("/run")
    expect(desk.get_by_role("region", name="Kept beside the order")).to_contain_text("Runa Ashdown")
    desk.goto(f"/run/{order}")
    beside = desk.get_by_role("region", name="Kept beside the order")
    expect(beside).to_contain_text("step started: Confirm asset by its plate")
    beside.get_by_role("button", name="Take all 3 in").click()
    expect(beside).to_contain_text("3 records decided on")
    office.close()


def test_an_engineer_sets_what_phones_take_along_and_sees_what_it_weighs(sign_in_as: SignInAs) -> None:
    ines = sign_in_as("Ines Varga", "/run/taking-along")
    ines.get_by_role("combobox", name="Technician").click()
    ines.get_by_role("option", name="Runa Ashdown").click()
    expect(ines.get_by_text(re.compile(r"3 orders of 3, \d+ kB on the phone"))).to_be_visible()
    ines.get_by_label("Days ahead").fill("3")
    ines.get_by_role("switch", name="With the pictures of instructions").click()
    ines.get_by_role("button", name="Set the rule").click()
    expect(ines.get_by_role("button", name="Set the rule")).to_be_disabled()
    ines.reload()
    expect(ines.get_by_label("Days ahead")).to_have_value("3")
    marek = sign_in_as("Marek Tilse", "/run/taking-along")
    expect(marek.get_by_text("Engineers and approvers set the rule.")).to_be_visible()
    expect(marek.get_by_label("Days ahead")).to_be_disabled()


def test_an_engineer_sets_what_the_orders_card_shows_and_the_phone_shows_it(sign_in_as: SignInAs) -> None:
    ines = sign_in_as("Ines Varga", "/run/order-card")
    ines.get_by_role("combobox", name="Add a field: In the list of orders").click()
    ines.get_by_role("option", name="Customer", exact=True).click()
    ines.get_by_label("Label of Customer").fill("Whose it is")
    preview = ines.get_by_label("How it looks on the phone")
    expect(preview.get_by_text("Whose it is")).to_be_visible()
    further = ines.get_by_role("region", name="On the order's page")
    further.get_by_label("Take away District").click()
    expect(preview.get_by_text("District")).to_have_count(0)
    # A key counts once the one before it was told, as it is to whoever listens to a reader.
    told = ines.get_by_role("status").filter(has_text="asset.serial")
    further.get_by_label("Move Serial").press("Space")
    expect(told).to_contain_text("moved over droppable area asset.serial")
    further.get_by_label("Move Serial").press("ArrowUp")
    expect(told).to_contain_text("moved over droppable area asset.model")
    further.get_by_label("Move Serial").press("Space")
    expect(preview.locator(".card-line")).to_have_text(
        [re.compile(w) for w in ("Whose", "Rep", "Ser", "Mod")]
    )
    assert serious(ines) == []
    ines.get_by_role("button", name="As it was").click()
    expect(preview.get_by_text("District")).to_be_visible()
    ines.get_by_role("combobox", name="Add a field: In the list of orders").click()
    ines.get_by_role("option", name="Customer", exact=True).click()
    ines.get_by_role("button", name="Set the card").click()
    expect(ines.get_by_role("button", name="Set the card")).to_be_disabled()
    marek = sign_in_as("Marek Tilse", "/run/order-card")
    expect(marek.get_by_text("Engineers and approvers set the card.")).to_be_visible()
    expect(marek.get_by_role("button", name="Set the card")).to_have_count(0)
    runa = sign_in_as("Runa Ashdown", "/pocket")
    first = runa.locator(".pocket-orders button").first
    expect(first.locator(".card-line")).to_contain_text("Customer")
    first.click()
    expect(runa.locator(".card-line").filter(has_text="Serial")).to_be_visible()


def test_a_page_of_another_version_is_opened_anew_by_itself(sign_in_as: SignInAs) -> None:
    """The server refuses it an order as it would after an update, until the page has been opened anew."""
    page = sign_in_as("Runa Ashdown", phone=True)
    orders = page.get_by_role("button", name="Stalls")
    # All are fetched: in the list a refusal would open the page anew at once.
    expect(page.get_by_text("on this phone")).to_have_count(3, timeout=30_000)
    refusal = {"status": 409, "title": "Outdated", "detail": "Another version.", "code": "pocket.outdated"}
    order = re.compile(r"/api/v1/pocket/orders/[^/]+$")
    page.route(order, lambda route: route.fulfill(status=409, json=refusal))
    page.evaluate("window.isOld = true")
    orders.first.click()
    notice = page.get_by_role("region", name="New version")
    expect(notice).to_contain_text("Reedling has a new version.")
    assert page.evaluate("window.isOld")  # On an order something may be half typed: it waits for a press.
    page.unroute(order)
    with page.expect_event("load"):
        notice.get_by_role("button", name="Open Pocket anew").click()
    assert not page.evaluate("Boolean(window.isOld)")
    expect(page.get_by_role("heading", name="Stalls: Rake 1")).to_be_visible()
    expect(notice).to_have_count(0)
