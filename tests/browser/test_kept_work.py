"""What people record or type is never lost: sessions that end, colleagues on the phone, refusals, no connection."""

from __future__ import annotations

import json
import re
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, Route, expect

from reedling.standins.field import DEMO_PASSWORD
from tests.browser.conftest import PHONE, SignInAs
from tests.browser.test_author import begun
from tests.browser.test_pocket import on_site

__all__ = ["on_site"]


def note(page: Page, text: str) -> None:
    """Keep a note, through More."""
    page.get_by_role("button", name="More").click()
    page.get_by_label("Note").fill(text)
    page.get_by_role("button", name="Keep note").click()
    expect(page.get_by_role("button", name="Keep note")).to_have_count(0)


def status(page: Page) -> Any:
    return page.locator(".pocket-bar [role=status]")


def notes_of(page: Page, address: str) -> list[str]:
    """The notes of the order as the office reads them."""
    order = page.url.rsplit("/", 1)[1]
    office = page.context.browser.new_context(base_url=address)  # type: ignore[union-attr]
    office.request.post("/api/v1/session", data={"username": "ines", "password": DEMO_PASSWORD})
    found = office.request.get(f"/api/v1/orders/{order}").json()
    office.close()
    return [n["text"] for n in found["job"]["notes"]]


def sign_in_over(page: Page, password: str = DEMO_PASSWORD) -> None:
    """Sign in over the page."""
    over = page.get_by_role("dialog", name="Your session has ended")
    expect(over).to_be_visible()
    over.get_by_label("Password", exact=True).fill(password)
    over.get_by_role("button", name="Sign in").click()
    expect(over).to_have_count(0)


def test_three_notes_taken_offline_outlive_a_session_that_ended(on_site: Page, address: str) -> None:
    """Signed out elsewhere while the phone was offline: nothing is sent, nothing lost, and it says so."""
    on_site.context.set_offline(True)
    for text in ("First", "Second", "Third"):
        note(on_site, text)
    expect(status(on_site)).to_have_text("3 not sent, no connection")
    on_site.context.clear_cookies()
    on_site.context.set_offline(False)
    expect(status(on_site)).to_have_text("3 not sent, sign in to send", timeout=20_000)
    sign_in_over(on_site)
    expect(status(on_site)).to_have_text("all sent", timeout=20_000)
    assert notes_of(on_site, address) == ["First", "Second", "Third"]


def test_a_colleague_on_the_phone_neither_sends_nor_sees_it(on_site: Page, address: str) -> None:
    on_site.context.set_offline(True)
    note(on_site, "Mine alone")
    on_site.context.clear_cookies()
    on_site.context.set_offline(False)
    post = on_site.context.request.post
    teo = {"username": "teo", "password": DEMO_PASSWORD}
    assert post("/api/v1/session", data=teo).ok
    # The page still belongs to Runa; the session is somebody else's: the server is asked and nothing is sent.
    expect(status(on_site)).to_have_text("1 not sent, sign in to send", timeout=20_000)
    on_site.goto("/pocket")
    expect(on_site.get_by_text("Mine alone")).to_have_count(0)
    on_site.context.clear_cookies()
    on_site.goto("/")
    on_site.get_by_role("button", name="Runa Ashdown").click()
    expect(status(on_site)).to_have_text("all sent", timeout=20_000)


def test_a_refusal_is_kept_with_its_reason_and_can_be_sent_again(
    on_site: Page, address: str, sign_in_as: SignInAs
) -> None:
    """The office gave the order to somebody else meanwhile; it comes back, and the record goes in."""
    order = on_site.url.rsplit("/", 1)[1]

    def refuse(route: Route) -> None:
        body = {"detail": f"There is no order {order} for you.", "code": "orders.unknown", "status": 404}
        route.fulfill(status=404, content_type="application/problem+json", body=json.dumps(body))

    on_site.route("**/submissions", refuse)
    note(on_site, "Seal kit is wrong size")
    expect(status(on_site)).to_have_text("1 not taken in")
    alert = on_site.get_by_role("alert").filter(has_text="There is no order")
    expect(alert).to_be_visible()
    on_site.reload()
    expect(on_site.get_by_text("note: “Seal kit is wrong size”")).to_be_visible()
    on_site.unroute("**/submissions")
    on_site.get_by_role("button", name="Send again").click()
    expect(status(on_site)).to_have_text("all sent")
    assert notes_of(on_site, address) == ["Seal kit is wrong size"]


def test_signing_out_with_unsent_work_warns_and_keeps_it(on_site: Page, address: str) -> None:
    on_site.route("**/submissions", lambda route: route.abort())
    note(on_site, "Left on the phone")
    on_site.goto("/pocket")
    on_site.get_by_role("button", name="Sign out").click()
    warning = on_site.get_by_role("alertdialog")
    expect(warning).to_contain_text("1 record of yours is not with the server")
    warning.get_by_role("button", name="Sign out, keep them here").click()
    expect(on_site.get_by_role("heading", name="Try the demo as")).to_be_visible()
    on_site.unroute("**/submissions")
    on_site.get_by_role("button", name="Runa Ashdown").click()
    expect(status(on_site)).to_have_text("all sent", timeout=20_000)


@pytest.mark.parametrize("ahead_ms", [15 * 60_000, -3 * 3_600_000, 86_400_000])
def test_a_clock_that_is_wrong_is_no_refusal(sign_in_as: SignInAs, ahead_ms: int, address: str) -> None:
    page = sign_in_as("Runa Ashdown", phone=True)
    page.add_init_script(
        f"const real = Date; class Wrong extends real {{ constructor(...a) {{ a.length ? super(...a) : "
        f"super(real.now() + {ahead_ms}) }} static now() {{ return real.now() + {ahead_ms} }} }}; Date = Wrong;"
    )
    page.reload()
    page.get_by_role("button", name="Stalls").first.click()
    page.get_by_role("button", name="Head out").click()
    page.get_by_role("button", name="I have arrived").click()
    expect(page.get_by_text("Arrive, step 1 of")).to_be_visible()
    note(page, "Clock is off")
    expect(status(page)).to_have_text("all sent")
    assert notes_of(page, address) == ["Clock is off"]


def test_where_the_device_is_full_nothing_is_said_to_be_kept(on_site: Page) -> None:
    on_site.evaluate(
        "() => { IDBObjectStore.prototype.add = () => { throw new DOMException('full', 'QuotaExceededError') } }"
    )
    on_site.get_by_role("button", name="More").click()
    on_site.get_by_label("Note").fill("No room for this")
    on_site.get_by_role("button", name="Keep note").click()
    expect(on_site.get_by_role("alert")).to_contain_text("This is not recorded")
    expect(on_site.get_by_label("Note")).to_have_value("No room for this")


def test_photos_stop_before_the_device_is_full_and_answers_are_still_kept(
    on_site: Page, address: str
) -> None:
    on_site.evaluate(
        "() => { navigator.storage.estimate = async () => ({ usage: 91_000_000, quota: 100_000_000 }) }"
    )
    on_site.get_by_role("button", name="Ask for help").click()
    on_site.get_by_role("button", name="Take photo", exact=True).click()
    expect(on_site.get_by_role("alert").first).to_contain_text("This picture is not recorded")
    on_site.reload()
    note(on_site, "Nearly full")
    expect(status(on_site)).to_have_text("all sent")
    assert notes_of(on_site, address) == ["Nearly full"]


def edit_summary(page: Page, text: str) -> None:
    page.get_by_role("button", name=re.compile("^Summary of the plan")).click()
    page.get_by_label("Summary of the plan", exact=True).fill(text)
    page.get_by_label("Summary of the plan", exact=True).press("Enter")


@pytest.fixture
def draft(sign_in_as: SignInAs) -> Page:
    """Ines at the draft of the rake plan."""
    page = sign_in_as("Ines Varga", begun)
    expect(page.locator(".saving")).to_be_attached()
    return page


def test_typed_text_stays_and_is_saved_once_there_is_a_connection(draft: Page) -> None:
    draft.context.set_offline(True)
    edit_summary(draft, "Written while the network was down")
    expect(draft.locator(".saving")).to_contain_text(
        "Not saved yet: no connection. It is kept on this device"
    )
    expect(draft.get_by_text("Written while the network was down")).to_be_visible()
    draft.context.set_offline(False)
    expect(draft.locator(".saving")).to_contain_text("Saved", timeout=25_000)
    draft.reload()
    expect(draft.get_by_text("Written while the network was down")).to_be_visible()


def test_typed_text_outlives_a_session_that_ended_without_leaving_the_page(draft: Page) -> None:
    draft.context.clear_cookies()
    edit_summary(draft, "Written after the session had ended")
    sign_in_over(draft)
    expect(draft.locator(".saving")).to_contain_text("Saved", timeout=25_000)
    draft.reload()
    expect(draft.get_by_text("Written after the session had ended")).to_be_visible()


def test_what_was_never_saved_is_offered_when_the_draft_is_opened_again(draft: Page) -> None:
    draft.route("**/draft", lambda route: route.abort())
    edit_summary(draft, "Left behind")
    expect(draft.locator(".saving")).to_contain_text("Not saved yet")
    draft.on("dialog", lambda dialog: dialog.accept())
    draft.reload()
    offered = draft.get_by_role("alert").filter(has_text="never saved")
    expect(offered).to_contain_text("“Left behind”")
    draft.unroute("**/draft")
    offered.get_by_role("button", name="Make it now").click()
    expect(draft.get_by_text("Left behind")).to_be_visible()
    expect(draft.locator(".saving")).to_contain_text("Saved")


def test_a_text_that_is_refused_stays_to_be_mended(draft: Page) -> None:
    edit_summary(draft, "Bell \u0007 rings")
    expect(draft.get_by_label("Summary of the plan", exact=True)).to_have_value("Bell \u0007 rings")
    draft.get_by_label("Summary of the plan", exact=True).fill("Bell rings")
    draft.get_by_label("Summary of the plan", exact=True).press("Enter")
    expect(draft.locator(".saving")).to_contain_text("Saved")


def test_a_job_with_photos_is_done_over_plain_http_without_stand_ins(
    browser: Browser, demo_dir: Any, plain_address: str, tmp_path: Any
) -> None:
    """On a name other than localhost a page is no secure context: no randomUUID, no position, no clipboard."""
    from PIL import Image

    picture = tmp_path / "plate.jpg"
    Image.new("RGB", (640, 480), (90, 120, 90)).save(picture)
    context = browser.new_context(viewport=PHONE, base_url=plain_address)  # type: ignore[arg-type]
    page = context.new_page()
    page.goto("/")
    assert page.evaluate("() => [window.isSecureContext, typeof crypto.randomUUID]") == [False, "undefined"]
    page.get_by_label("User name").fill("runa")
    page.get_by_label("Password", exact=True).fill("quiet water under reeds")
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("button", name="Stalls").first.click()
    page.get_by_role("button", name="Head out").click()
    page.get_by_role("button", name="I have arrived").click()
    expect(page.get_by_text("Arrive, step 1 of")).to_be_visible()
    expect(status(page)).to_have_text("all sent")
    for _ in range(12):
        photo = page.get_by_role("button", name=re.compile("^Take photo"))
        if photo.count():
            with page.expect_file_chooser() as chooser:
                photo.first.click()
            chooser.value.set_files(picture)
            expect(page.get_by_role("button", name="✓ Taken. Take again")).to_be_visible()
            break
        answer_step(page)
    else:
        raise AssertionError("no photo was asked for")
    expect(status(page)).to_have_text("all sent")
    context.close()


def answer_step(page: Page) -> None:
    """Answer what the step asks, in the simplest way, and go on."""
    scan = page.get_by_placeholder("or type what it says")
    if scan.count():
        page.get_by_role("button", name="Scan", exact=True).click()
        expect(page.get_by_role("alert")).to_contain_text("or type what the plate says")
        page.get_by_role("button", name="Close").click()
        serial = page.evaluate(
            "async () => (await (await fetch('/api/v1/pocket/orders')).json()).orders[0].line.asset.serial"
        )
        scan.fill(serial)
        scan.press("Enter")
    for choice in page.locator(".pquestion .pchoice:not(.offer)").all()[:6]:
        if (
            choice.get_attribute("aria-pressed") != "true"
            and "photo" not in (choice.inner_text() or "").lower()
        ):
            choice.click()
            break
    following = page.get_by_role("button", name="Next")
    expect(following).to_be_enabled()
    place = page.locator(".pstep-place").inner_text()
    following.click()
    expect(page.locator(".pstep-place")).not_to_have_text(place)
