"""Pocket: what happens with the network off, leaving for a return, leaving a step out."""

from __future__ import annotations

import io
import re
from datetime import UTC, datetime
from pathlib import Path
from uuid import uuid4

import pytest
import skimage.data
from PIL import Image, ImageFilter
from playwright.sync_api import APIRequestContext, FilePayload, Page, expect

from tests.browser.conftest import ON_DEVICE, SignInAs, comes_true
from tests.browser.test_views import serious


@pytest.fixture
def on_site(sign_in_as: SignInAs) -> Page:
    """Runa on site at the stalled rake."""
    page = sign_in_as("Runa Ashdown", arrive, phone=True)
    expect(page.get_by_text("Arrive, step 1 of")).to_be_visible()
    begun_on_the_server(page)
    return page


def arrive(request: APIRequestContext, **where: float) -> str:
    """Head out to the stalled rake and arrive there; where its order is on the phone."""
    orders = request.get("/api/v1/pocket/orders").json()["orders"]
    order = next(o["line"]["id"] for o in orders if o["line"]["symptom"] == "stalls")
    at = datetime.now(UTC).isoformat()
    events = [{"kind": "headed out", "at": at}, {"kind": "arrived", "at": at, **where}]
    sent = request.post(
        f"/api/v1/pocket/orders/{order}/submissions", data={"id": str(uuid4()), "events": events}
    )
    assert sent.ok, sent.text()
    return f"/pocket/{order}"


def taken_along_on_site(page: Page) -> None:
    """Wait until nothing more is wanted of the network: rules and lists are on the phone."""
    expect(page.locator("[data-rules=here]")).to_be_visible(timeout=60_000)
    comes_true(page, f"(await ({ON_DEVICE})('answers')).some((kept) => kept.name === 'lists')")


def begun_on_the_server(page: Page) -> None:
    """Wait until the start of the first step, which nobody presses anything for, is with the server."""
    comes_true(
        page,
        """Object.keys((await (await fetch(`/api/v1/pocket/orders/${location.pathname.split('/').pop()}`)).json())
            .job.times).length > 0""",
    )
    expect(page.locator(".pocket-bar [role=status]")).to_have_text("all sent")


def test_an_arrival_far_from_the_site_is_noted_and_holds_nothing_up(sign_in_as: SignInAs) -> None:
    def from_afar(request: APIRequestContext) -> str:
        return arrive(request, east=0.9, north=0.9)

    page = sign_in_as("Runa Ashdown", from_afar, phone=True)
    expect(page.get_by_text("Arrive, step 1 of")).to_be_visible()
    noted = page.get_by_text(re.compile(r"^Arrived \d+ km from Farrow Lode\. It is noted"))
    expect(noted).to_be_visible(timeout=60_000)
    order = page.url.rsplit("/", 1)[1]
    page.goto("/pocket")
    expect(page.get_by_text(re.compile("same site|from the one before")).first).to_be_visible()
    page.goto("/pocket/times")
    expect(page.get_by_text(re.compile("on the way")).first).to_be_visible()
    marek = sign_in_as("Marek Tilse", f"/run/{order}")
    visits = marek.get_by_label("Visits", exact=True)
    expect(visits.get_by_text(re.compile(r"Arrived \d+ km from Farrow Lode"))).to_be_visible()


def test_what_cannot_be_sent_is_kept_said_and_sent_later_once(on_site: Page, sign_in_as: SignInAs) -> None:
    on_site.context.set_offline(True)
    on_site.get_by_role("button", name="More").click()
    on_site.get_by_label("Note").fill("Gate key is under the sill.")
    on_site.get_by_role("button", name="Keep note").click()
    expect(on_site.get_by_text("1 not sent")).to_be_visible()
    on_site.context.set_offline(False)
    expect(on_site.get_by_text("all sent")).to_be_visible(timeout=20_000)
    order = on_site.url.rsplit("/", 1)[1]
    ines = sign_in_as("Ines Varga", f"/review/jobs/{order}")
    expect(ines.get_by_text("“Gate key is under the sill.”")).to_have_count(1)


def test_a_return_needs_a_reason_and_the_planner_sees_it(on_site: Page, sign_in_as: SignInAs) -> None:
    on_site.get_by_role("button", name="More").click()
    leave = on_site.get_by_role("button", name="Leave, return needed")
    expect(leave).to_be_disabled()
    on_site.get_by_role("combobox", name="Reason for return").click()
    on_site.get_by_role("option", name="no access").click()
    leave.click()
    expect(on_site.get_by_text("You left with a return needed: no access.")).to_be_visible()
    order = on_site.url.rsplit("/", 1)[1]
    marek = sign_in_as("Marek Tilse", f"/run/{order}")
    expect(marek.get_by_text("return needed").first).to_be_visible()
    expect(marek.get_by_role("button", name="Plan it anew")).to_be_visible()


def test_a_step_is_left_out_with_a_reason_but_never_one_that_makes_safe(on_site: Page) -> None:
    on_site.get_by_role("button", name="More").click()
    on_site.get_by_label("Why it is left out").fill("Plate is missing.")
    on_site.get_by_role("button", name="Leave it out").click()
    expect(on_site.get_by_role("heading", name="Isolate and lock rake drive")).to_be_visible()
    on_site.get_by_role("button", name="More").click()
    expect(on_site.get_by_role("heading", name="All steps")).to_be_visible()
    expect(on_site.get_by_role("heading", name="Leave this step out")).to_have_count(0)
    on_site.get_by_role("button", name=re.compile("Confirm asset by its plate")).click()
    expect(on_site.get_by_role("heading", name="Confirm asset by its plate")).to_be_visible()


def test_a_reload_on_site_goes_on_where_it_was(on_site: Page) -> None:
    on_site.get_by_role("button", name="Take photo").click()
    expect(on_site.get_by_role("img", name="Nameplate")).to_be_visible()
    on_site.reload()
    expect(on_site.get_by_role("img", name="Nameplate")).to_be_visible()
    expect(on_site.get_by_role("button", name="Next")).to_be_enabled()


def test_what_is_shown_as_answered_is_on_the_phone_though_the_rules_have_not_looked_at_it(
    on_site: Page,
) -> None:
    expect(on_site.get_by_role("main")).to_have_attribute("data-rules", "here")
    on_site.evaluate("Worker.prototype.postMessage = () => undefined")
    on_site.get_by_role("button", name="Take photo").click()
    expect(on_site.get_by_role("img", name="Nameplate")).to_be_visible()
    expect(on_site.get_by_role("status").first).to_have_text("recording")
    on_site.reload()
    expect(on_site.get_by_role("img", name="Nameplate")).to_be_visible()
    expect(on_site.get_by_role("button", name="Next")).to_be_enabled()
    expect(on_site.locator(".pocket-bar [role=status]")).to_have_text("all sent")


def test_an_order_that_could_not_be_fetched_is_asked_for_again_by_itself(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Runa Ashdown", "/api/v1/health", phone=True)
    page.route("**/api/v1/pocket/orders/WO-*", lambda route: route.abort())
    page.goto("/pocket")
    page.get_by_role("button", name="Stalls").first.click()
    expect(page.get_by_role("alert")).to_contain_text("This order is not on this phone")
    page.unroute("**/api/v1/pocket/orders/WO-*")
    expect(page.get_by_role("button", name="Head out")).to_be_visible()


def test_what_is_not_a_number_is_told_at_once(on_site: Page) -> None:
    on_site.get_by_role("button", name="Take photo").click()
    on_site.get_by_role("button", name="Next").click()
    on_site.get_by_role("button", name="Take photo").click()
    on_site.get_by_label("Permit number").fill("P-7")
    on_site.get_by_label("Permit number").blur()
    on_site.get_by_role("button", name="Next").click()
    on_site.get_by_label("Pressure in bar").fill("about ninety")
    expect(on_site.get_by_text("This is not a number. Write it in figures, as 84 or 84.5.")).to_be_visible()
    expect(on_site.get_by_role("button", name="Next")).to_be_disabled()


def test_a_technician_stays_in_pocket(on_site: Page) -> None:
    on_site.goto("/author/IT-001")
    expect(on_site.get_by_role("heading", name="Your orders")).to_be_visible()


def test_a_photo_is_drawn_on_and_the_office_sees_it(on_site: Page, sign_in_as: SignInAs) -> None:
    on_site.get_by_role("button", name="Take photo").click()
    on_site.get_by_role("button", name="Draw on it").click()
    over = on_site.get_by_role("dialog", name="Draw on Nameplate")
    box = over.get_by_test_id("mark-room").bounding_box()
    assert box is not None
    on_site.mouse.move(box["x"] + 20, box["y"] + 20)
    on_site.mouse.down()
    on_site.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2, steps=5)
    on_site.mouse.up()
    over.get_by_role("button", name="Words").click()
    over.get_by_label("Words", exact=True).fill("Plate is worn")
    over.get_by_test_id("mark-room").click(position={"x": 40, "y": 60})
    over.get_by_role("button", name="Ring").click()
    on_site.mouse.move(box["x"] + 200, box["y"] + 100)
    on_site.mouse.down()
    on_site.mouse.move(box["x"] + 300, box["y"] + 160, steps=5)
    on_site.mouse.up()
    over.get_by_role("button", name="Take back").click()
    over.get_by_role("button", name="Keep marks").click()
    marked = "marked: arrow, “Plate is worn”"
    expect(on_site.get_by_role("img", name=f"Nameplate, {marked}")).to_be_visible()
    expect(on_site.locator(".pocket-bar [role=status]")).to_have_text("all sent")
    order = on_site.url.rsplit("/", 1)[1]
    ines = sign_in_as("Ines Varga", f"/review/jobs/{order}")
    expect(ines.get_by_role("img", name=re.compile(marked))).to_be_visible()


def test_what_finishing_wants_is_told_early_and_holds_up_the_end(on_site: Page) -> None:
    def go_on() -> None:
        on_site.get_by_role("button", name="Next").click()

    def fill(label: str, words: str) -> None:
        on_site.get_by_label(label).fill(words)
        on_site.get_by_label(label).blur()

    on_site.get_by_role("button", name="Take photo").click()
    go_on()
    on_site.get_by_role("button", name="Take photo").click()
    fill("Permit number", "P-7")
    go_on()
    fill("Pressure in bar", "84")
    go_on()
    on_site.get_by_role("button", name="Scored").click()
    expect(on_site.get_by_role("button", name="Next")).to_be_enabled()
    on_site.get_by_role("button", name="More").click()
    open_rules = on_site.get_by_role("region", name="Still open")
    expect(open_rules).to_contain_text("Say in a note how the valve seat looked.")
    on_site.get_by_role("button", name="Close").click()
    go_on()
    fill("Valve set at in bar", "110")
    go_on()
    fill("Peak current in A", "9.6")
    go_on()
    for step in ("Put guard back", "Take waste and tools", "Tell control"):
        expect(on_site.get_by_role("heading", name=step)).to_be_visible()
        on_site.locator(".pstep button").first.click()
        go_on()
    expect(on_site.get_by_role("heading", name="What was it?")).to_be_visible()
    expect(open_rules).to_be_visible()
    for label, option in (("Cause found", "Relief valve"), ("Remedy", "Valve reseated")):
        on_site.get_by_role("combobox", name=label).click()
        on_site.get_by_role("option", name=re.compile(option)).click()
    on_site.get_by_role("button", name="Finish the job").click()
    expect(on_site.get_by_role("alert")).to_contain_text(
        "still open: Say in a note how the valve seat looked."
    )
    on_site.get_by_label("Anything the next one should know").fill("Scored right round.")
    on_site.get_by_role("button", name="Keep note").click()
    expect(open_rules).to_have_count(0)
    on_site.get_by_role("button", name="Finish the job").click()
    expect(on_site.get_by_text("This job is finished")).to_be_visible()


def test_a_question_from_site_is_answered_over_the_same_picture(on_site: Page, sign_in_as: SignInAs) -> None:
    def draw(page: Page) -> None:
        room = page.get_by_test_id("mark-room")
        expect(room).to_be_visible()
        comes_true(page, "document.querySelector('[data-testid=mark-room] img').naturalWidth > 0")
        box = room.bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + box["width"] * 0.2, box["y"] + box["height"] * 0.3)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] * 0.6, box["y"] + box["height"] * 0.6, steps=5)
        page.mouse.up()

    on_site.get_by_role("button", name="Ask for help").click()
    on_site.get_by_role("dialog").get_by_role("button", name="Take photo").click()
    draw(on_site)
    on_site.get_by_role("button", name="Keep marks").click()
    on_site.get_by_label("What do you want to know?").fill("Is this the plate?")
    on_site.get_by_role("button", name="Ask", exact=True).click()
    expect(on_site.get_by_text("Nobody has answered yet")).to_be_visible()
    ines = sign_in_as("Ines Varga", "/review")
    ines.get_by_role("link", name="question from site").click()
    expect(ines.get_by_text("Is this the plate?")).to_be_visible()
    ines.get_by_label("Your answer").fill("Yes, the drive end.")
    ines.get_by_role("button", name="Answer", exact=True).click()
    expect(on_site.get_by_text("Yes, the drive end.")).to_be_visible()
    ines.get_by_role("button", name="Draw on the picture").click()
    draw(ines)
    ines.get_by_role("button", name="Send marks").click()
    for page in (ines, on_site):
        expect(page.locator(".help-frame .picture-marks[data-side=office]")).to_have_count(1)
        expect(page.locator(".help-frame .picture-marks[data-side=site]")).to_have_count(1)
    on_site.get_by_role("button", name="End and keep").click()
    expect(on_site.get_by_role("button", name="Ask for help")).to_be_visible()
    expect(ines.get_by_text("It stays with the step.")).to_be_visible()
    order = on_site.url.rsplit("/", 1)[1]
    ines.goto(f"/review/jobs/{order}")
    expect(ines.get_by_role("heading", name="Help asked")).to_be_visible()


def phone_photo(name: str, *, blur: float = 0, light: float = 1) -> FilePayload:
    """A photograph that scikit-image ships, as a phone would take it."""
    with Image.open(Path(skimage.data.__file__).parent / name) as opened:
        image = opened.convert("RGB").filter(ImageFilter.GaussianBlur(blur)).point(lambda tone: tone * light)
    out = io.BytesIO()
    image.save(out, "JPEG", quality=88)
    return {"name": name, "mimeType": "image/jpeg", "buffer": out.getvalue()}


def test_a_blurred_or_dark_photo_is_told_at_once_also_without_a_network(on_site: Page) -> None:
    doubt = on_site.get_by_role("status").filter(has_text="Take it again if that matters.")

    def take(photo: FilePayload) -> None:
        with on_site.expect_file_chooser() as choosing:
            on_site.get_by_role("button", name="or a picture from this device").first.click()
        choosing.value.set_files(photo)
        expect(on_site.get_by_role("button", name="✓ Taken. Take again").first).to_be_visible()

    take(phone_photo("coffee.png", blur=6))
    expect(doubt).to_have_text("It is blurred. Take it again if that matters.", timeout=30_000)
    on_site.context.set_offline(True)
    take(phone_photo("coffee.png", light=0.1))
    expect(doubt).to_have_text("It is dark. Take it again if that matters.")
    take(phone_photo("coffee.png"))
    expect(doubt).to_have_count(0)
    expect(on_site.get_by_role("button", name="Next")).to_be_enabled()
    on_site.context.set_offline(False)


@pytest.mark.parametrize("screen", [(360, 640), (820, 1180)])
def test_every_text_can_be_read_in_the_sun_and_none_is_cut_off(
    on_site: Page, screen: tuple[int, int]
) -> None:
    """Contrast of 7 to 1 and more (WCAG 2.2, success criterion 1.4.6), and nothing wider than the screen."""
    on_site.set_viewport_size({"width": screen[0], "height": screen[1]})

    def look() -> None:
        assert serious(on_site, only="color-contrast-enhanced") == []
        assert not on_site.evaluate("document.documentElement.scrollWidth > innerWidth")

    look()
    on_site.get_by_role("button", name="More", exact=True).click()
    beside = on_site.get_by_role("region", name="Beside the steps").get_by_role("button", expanded=False)
    for label in beside.all_inner_texts():
        on_site.get_by_role("button", name=label.splitlines()[0]).click()
        look()
    on_site.goto("/pocket")
    expect(on_site.get_by_role("heading", name="Your orders")).to_be_visible()
    look()
