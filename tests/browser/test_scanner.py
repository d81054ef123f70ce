"""Codes on plates are read: off the stand-in's plate, by a camera held to one, and in pictures that other programs made."""

from __future__ import annotations

import io
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import barcode
import pytest
import segno
from barcode.writer import ImageWriter
from PIL import Image, ImageFilter
from playwright.sync_api import BrowserContext, BrowserType, Locator, Page, Route, expect

from reedling.core.register.assets import PlacedAsset
from reedling.services.shared.passwords import hash_password
from reedling.wiring import open_context
from tests.browser.conftest import PHONE, WEB, SignInAs, comes_true, standing
from tests.browser.test_views import serious
from tests.conftest import app_over

pytestmark = pytest.mark.slow
PASSWORD = "quiet water under reeds"


@pytest.fixture
def serial(demo_dir: Path) -> str:
    """The serial of the asset that Runa's survey is of."""
    with open_context(demo_dir).reading() as unit:
        (survey,) = (o for o in unit.orders.headings(states=("Planned",)) if o.incident_type == "IT-004")
    return survey.asset.serial


@pytest.fixture
def other_plates(demo_dir: Path, serial: str) -> tuple[PlacedAsset, PlacedAsset]:
    """An asset that Runa has no order for, and one of another order of hers."""
    with open_context(demo_dir).reading() as unit:
        own = {o.asset.code for o in unit.orders.headings(technician="runa")}
        waiting = {o.asset.code for o in unit.orders.headings(states=("Planned",), technician="runa")}
        assets = [p for p in unit.register.assets() if p.asset.serial not in ("", serial)]
    return (
        next(p for p in assets if p.asset.code not in own),
        next(p for p in assets if p.asset.code in waiting),
    )


def at_the_plate(page: Page) -> Locator:
    """On site at the step that asks for a scan of the plate; the dialog of the scanner."""
    page.get_by_role("button", name="Half-yearly survey due").click()
    page.get_by_role("button", name="Head out").click()
    page.get_by_role("button", name="I have arrived").click()
    return press_scan(page)


def press_scan(page: Page) -> Locator:
    page.get_by_role("button", name=re.compile("^Scan$|Scan again")).click()
    return page.get_by_role("dialog")


def scanned(page: Page) -> Locator:
    return page.get_by_label("Plate, typed")


def type_plate(page: Page, code: str) -> None:
    scanned(page).fill(code)
    scanned(page).blur()


def whose_plate(page: Page) -> Locator:
    """What is told of the asset that a wrong plate belongs to."""
    return page.get_by_role("alert").filter(has_text="is the plate of")


def of_code(code: str) -> Image.Image:
    """A QR code by an encoder of its own, after ISO/IEC 18004."""
    file = io.BytesIO()
    segno.make_qr(code, error="m").save(file, kind="png", scale=10, border=4)
    return Image.open(file).convert("RGB")


def of_bars(code: str) -> Image.Image:
    """A Code 128 label by an encoder of its own, after ISO/IEC 15417."""
    file = io.BytesIO()
    barcode.get("code128", code, writer=ImageWriter()).write(file, {"write_text": False})
    return Image.open(file).convert("RGB")


def askew(picture: Image.Image) -> Image.Image:
    """As a phone sees it: turned, a little out of focus, dimmer, on painted steel."""
    photo = Image.new("RGB", (960, 720), (95, 109, 98))
    photo.paste(picture, (480 - picture.width // 2, 360 - picture.height // 2))
    seen = photo.rotate(6, fillcolor=(95, 109, 98)).filter(ImageFilter.GaussianBlur(0.8))
    return seen.point(lambda x: int(x * 0.7))


def test_the_stand_in_scanner_reads_a_plate_also_without_a_network(
    sign_in_as: SignInAs, serial: str, other_plates: tuple[PlacedAsset, PlacedAsset]
) -> None:
    page = sign_in_as("Runa Ashdown", phone=True)
    at_the_plate(page)
    expect(scanned(page)).to_have_value(serial, timeout=20_000)
    comes_true(page, "document.querySelector('[data-rules=\"here\"]') !== null")
    type_plate(page, "S999")
    expect(page.get_by_role("alert")).to_contain_text("S999 is not the serial")
    other, planned = other_plates
    type_plate(page, other.asset.serial)
    told = whose_plate(page)
    expect(told).to_have_text(f"{other.asset.serial} is the plate of {other.asset.name}, {other.site.name}.")
    page.context.set_offline(True)
    type_plate(page, planned.asset.serial)
    expect(told).to_have_text(
        f"{planned.asset.serial} is the plate of {planned.asset.name}, {planned.site.name}."
    )
    press_scan(page)
    expect(scanned(page)).to_have_value(serial, timeout=20_000)


def test_what_is_known_of_a_plate_does_not_give_way_to_what_comes_late_of_an_earlier_one(
    sign_in_as: SignInAs, serial: str, other_plates: tuple[PlacedAsset, PlacedAsset]
) -> None:
    page = sign_in_as("Runa Ashdown", phone=True)
    at_the_plate(page)
    expect(scanned(page)).to_have_value(serial, timeout=20_000)
    held: list[Route] = []
    page.route("**/pocket/plate?code=S999", lambda route: held.append(route))
    with page.expect_request("**/pocket/plate?code=S999"):
        type_plate(page, "S999")
    other, _ = other_plates
    type_plate(page, other.asset.serial)
    told = whose_plate(page)
    expect(told).to_contain_text(other.asset.serial)
    with page.expect_response("**/pocket/plate?code=S999"):
        held[0].continue_()
    page.wait_for_timeout(300)
    expect(told).to_contain_text(other.asset.serial)


@pytest.mark.parametrize("written", [of_code, of_bars])
def test_pictures_of_codes_that_other_programs_wrote_are_read_and_others_are_refused_in_words(
    sign_in_as: SignInAs, tmp_path: Path, written: Callable[[str], Image.Image], serial: str
) -> None:
    page = sign_in_as("Runa Ashdown", phone=True)
    page.route("**/api/v1/sign-in", without_stand_ins)
    page.reload()
    dialog = at_the_plate(page)
    expect(dialog.get_by_role("alert")).to_contain_text("The camera cannot be used")
    assert serious(page) == []
    nothing = tmp_path / "nothing.png"
    Image.new("RGB", (640, 480), (95, 109, 98)).save(nothing)
    dialog.get_by_label("Picture of the code").set_input_files(nothing)
    expect(dialog.get_by_role("alert")).to_contain_text("No code can be read in this picture")
    code = tmp_path / "code.jpg"
    askew(written(serial)).save(code, quality=80)
    dialog.get_by_label("Picture of the code").set_input_files(code)
    expect(scanned(page)).to_have_value(serial)
    expect(dialog).to_have_count(0)


def without_stand_ins(route: Route) -> None:
    answer = route.fetch()
    route.fulfill(response=answer, json=answer.json() | {"stand_ins": False})


@pytest.fixture
def with_camera(
    browser_type: BrowserType,
    browser_type_launch_args: dict[str, Any],
    demo_dir: Path,
    tmp_path: Path,
    serial: str,
) -> Any:
    """A phone outside the demo whose camera is held to the plate of the survey's asset."""
    seen = tmp_path / "seen.mjpeg"
    frame = io.BytesIO()
    askew(of_code(serial)).resize((640, 480)).save(frame, "JPEG", quality=85)
    seen.write_bytes(frame.getvalue() * 30)
    args = [
        *browser_type_launch_args["args"],
        "--use-fake-device-for-media-stream",
        "--use-fake-ui-for-media-stream",
        f"--use-file-for-fake-video-capture={seen}",
    ]
    context = open_context(demo_dir)
    with context.store.writing() as unit:
        unit.people.set_password("runa", hash_password(PASSWORD))
    browser = browser_type.launch(**(browser_type_launch_args | {"args": args}))
    port = standing(app_over(context, demo_dir, demo=False, web=WEB))
    yield browser.new_context(viewport=PHONE, base_url=f"http://127.0.0.1:{port}")  # type: ignore[arg-type]
    browser.close()


def test_a_camera_that_is_held_to_a_plate_reads_it(with_camera: BrowserContext, serial: str) -> None:
    page = with_camera.new_page()
    page.goto("/")
    page.get_by_label("User name").fill("runa")
    page.get_by_label("Password", exact=True).fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    at_the_plate(page)
    expect(scanned(page)).to_have_value(serial, timeout=20_000)
    expect(page.get_by_role("dialog")).to_have_count(0)
