"""Renew docs/screenshots: one picture of each main view, from demo data. Run by `make screenshots`."""

from __future__ import annotations

import shutil
import socket
import tempfile
import threading
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path
from uuid import uuid4

import uvicorn
from playwright.sync_api import Page, sync_playwright

from reedling.app import create_app
from reedling.services.views.completions import inbox
from reedling.standins.field import DEMO_PASSWORD, FULL, play_demo
from reedling.wiring import open_context, read_settings
from tests.chromium import launched

ROOT = Path(__file__).parents[2]
OUT = ROOT / "docs/screenshots"
DESK, PHONE = (1280, 800), (390, 844)


def begin_draft(page: Page) -> None:
    """Open the next revision and answer the preview so that its branch shows."""
    page.get_by_role("button", name="Begin revision C").click()
    page.get_by_role("button", name="Send for review").wait_for()
    page.locator('[data-step="pressure"]').focus()
    page.get_by_label("Pressure in bar").fill("84")
    page.get_by_text("Check relief valve seat” is added").wait_for()


def to_the_reading(page: Page) -> None:
    """Carry a job out up to a reading that is out of limits."""
    page.get_by_role("button", name="Stalls").first.click()
    page.get_by_role("button", name="Head out").click()
    page.get_by_role("button", name="I have arrived").click()
    page.get_by_role("button", name="Take photo").click()
    page.get_by_role("img", name="Nameplate").wait_for()
    page.get_by_role("button", name="Next").click()
    page.get_by_role("button", name="Take photo").click()
    page.get_by_role("img", name="Lock on isolator").wait_for()
    page.get_by_label("Permit number").fill("P-4417")
    page.get_by_label("Permit number").blur()
    page.get_by_role("button", name="Next").click()
    page.get_by_label("Pressure in bar").fill("84")
    page.get_by_text("84 bar is below 90 bar").wait_for()


def to_the_safety_note(page: Page) -> None:
    """Carry a survey out up to what has to be read first."""
    page.get_by_role("button", name="Half-yearly survey due").first.click()
    page.get_by_role("button", name="Head out").click()
    page.get_by_role("button", name="I have arrived").click()
    page.get_by_role("button", name="Scan", exact=True).click()
    page.get_by_role("button", name="Take photo, nameplate").click()
    page.get_by_role("img", name="Nameplate").wait_for()
    page.get_by_role("button", name="Next").click()
    page.get_by_role("button", name="I have read this").wait_for()


def open_gap(page: Page) -> None:
    """Open the cell of the map with most orders and no row."""
    page.get_by_role("button", name="Conveyor, Stalls: no row says what to do").click()
    page.get_by_text("orders came in, the latest first").wait_for()
    page.get_by_role("region", name="Coverage").evaluate("map => map.scrollIntoView()")


def change_asset(page: Page) -> None:
    """Open an asset of the list to be changed."""
    page.get_by_label("Filter assets").fill("farrow")
    page.get_by_role("button", name="Change AS-301").click()
    page.get_by_role("button", name="Save").wait_for()


def to_the_pump(page: Page) -> None:
    """Go on to the section for the first pump."""
    to_the_safety_note(page)
    page.get_by_role("button", name="I have read this").click()
    page.get_by_label("Permit number").fill("P-4418")
    page.get_by_label("Permit number").blur()
    page.get_by_role("button", name="Take photo, before").click()
    page.get_by_role("img", name="Lock on isolator").wait_for()
    page.get_by_role("button", name="Start button tried, nothing moved: yes").click()
    page.get_by_role("button", name="Next").click()
    page.get_by_role("heading", name="Survey each pump").wait_for()
    page.get_by_role("button", name="Next").click()
    page.get_by_label("Station hours run in h").fill("9120")
    page.get_by_label("Station hours run in h").blur()
    page.get_by_role("button", name="Usual").click()
    page.get_by_role("button", name="Next").click()
    for phase, amps in (("1", "29.1"), ("2", "35.2"), ("3", "29.4")):
        page.get_by_label(f"Current L{phase} in A").fill(amps)
        page.get_by_label(f"Current L{phase} in A").blur()
    page.get_by_text("is above 10 %").wait_for()


def leave_records_beside(page: Page) -> None:
    """Give an order to somebody else while its technician is on the way without a line."""
    order = page.url.rsplit("/", 1)[1]
    address = page.url.split("/run/")[0]
    at = datetime.now(UTC).isoformat()
    visit = {"technician": "teo", "planned_for": at}
    page.request.post(f"{address}/api/v1/orders/{order}/visit", data=visit)
    phone = page.context.browser.new_context(base_url=address)  # type: ignore[union-attr]
    phone.request.post("/api/v1/session", data={"username": "runa", "password": DEMO_PASSWORD})
    note = {"kind": "note written", "at": at, "text": "Screen blocked with weed up to the walkway."}
    for event in ({"kind": "headed out", "at": at}, {"kind": "arrived", "at": at}, note):
        body = {"id": str(uuid4()), "events": [event]}
        phone.request.post(f"/api/v1/pocket/orders/{order}/submissions", data=body)
    phone.close()
    page.reload()
    page.get_by_text("records to decide on").wait_for()
    page.get_by_text("3 records, received").click()


def keep_a_note(page: Page) -> None:
    """Record a note while there is no connection, and go back to the orders."""
    page.route("**/submissions", lambda route: route.abort())
    page.get_by_role("button", name="Stalls").first.click()
    page.get_by_role("button", name="Head out").click()
    page.get_by_text("1 not sent, no connection").wait_for()
    page.goto(page.url.rsplit("/", 1)[0])
    page.get_by_text("1 record not sent yet").wait_for()
    page.get_by_text("heading out").wait_for()


def choose_model(page: Page) -> None:
    """Narrow all jobs to those of one model."""
    page.get_by_role("region", name="Model").get_by_role("button", name="WR 3").click()
    page.get_by_role("button", name="Take off 1 choice").wait_for()


def answer_check(page: Page) -> None:
    """Begin the next revision, and say of the first check that it is so."""
    page.get_by_role("button", name="Begin revision B").click()
    page.get_by_role("button", name="Send for review").wait_for()
    page.get_by_role("button", name="So: Pressure low at stall", exact=True).click()
    page.get_by_text("Next after what you marked").wait_for()


def always_look_for_debris(page: Page) -> None:
    """Have the draft look for debris whatever the pressure is, and replay that."""
    draft = page.request.get(f"{page.url.split('/refine')[0]}/api/v1/documents/WP-001/plan")
    steps = [step["id"] for step in draft.json()["content"]["steps"]]
    at = f"/steps/{steps.index('debris')}/condition"
    page.request.patch(
        f"{page.url.split('/refine')[0]}/api/v1/documents/WP-001/draft",
        data=[{"op": "replace", "path": at, "value": None}],
        headers={"if-match": draft.headers["etag"]},
    )
    page.reload()
    page.get_by_text("Where the minutes change").wait_for()


Act = Callable[[Page], None]
SHOTS: list[tuple[str, str, str, tuple[int, int], Act | None]] = [
    ("author", "ines", "/author/IT-001", DESK, begin_draft),
    ("match", "ines", "/match/tables/DT-001?asset=AS-101&symptom=stalls", DESK, None),
    ("coverage", "ines", "/match/tables/DT-001", DESK, open_gap),
    ("kits", "ines", "/match/kits?type=IT-001", DESK, None),
    ("lists", "ines", "/match/lists/assets", DESK, change_asset),
    ("orders", "marek", "/run", DESK, None),
    ("desk", "ines", "/desk", DESK, None),
    ("inbox", "ines", "/review", DESK, None),
    ("together", "ines", "/review/IT-001/together", DESK, choose_model),
    ("refine", "ines", "/refine", DESK, None),
    ("guide", "ines", "/refine/guides/FG-001", DESK, answer_check),
    ("completion", "ines", "/review/jobs/{unusual}", DESK, None),
    ("evidence", "ines", "/review/IT-001?step=WP-001%3Apressure", DESK, None),
    ("routine", "ines", "/review/routine?work=WP-020%3Aturns&state=skipped", DESK, None),
    ("replay", "ines", "/refine/IT-001/WP-001/replay", DESK, always_look_for_debris),
    ("pocket-orders", "runa", "/pocket", PHONE, keep_a_note),
    ("pocket", "runa", "/pocket", PHONE, to_the_reading),
    ("pocket-form", "runa", "/pocket", PHONE, to_the_pump),
    ("order", "marek", "/run/{waiting}", DESK, leave_records_beside),
]


def main() -> None:
    """Serve a fresh demo, take every picture."""
    OUT.mkdir(parents=True, exist_ok=True)
    folder = Path(tempfile.mkdtemp())
    context = open_context(folder)
    play_demo(context, DEMO_PASSWORD, extent=FULL)
    with context.reading() as unit:
        planned = unit.orders.headings(states=("Planned",), technician="runa")
    waiting = next(order.id for order in planned if order.symptom == "trips")
    unusual = inbox(context).rows[0].line.id
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    settings = read_settings(
        {"REEDLING_DATA": str(folder), "REEDLING_DEMO": "yes", "REEDLING_WEB": str(ROOT / "web/dist")}
    )
    server = uvicorn.Server(uvicorn.Config(create_app(context, settings), port=port, log_level="error"))
    threading.Thread(target=server.run, daemon=True).start()
    while not server.started:
        time.sleep(0.05)
    address = f"http://127.0.0.1:{port}"
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(**launched())
        for name, user, path, (width, height), act in SHOTS:
            page = browser.new_context(
                viewport={"width": width, "height": height}, service_workers="block"
            ).new_page()
            page.request.post(f"{address}/api/v1/session", data={"username": user, "password": DEMO_PASSWORD})
            page.goto(address + path.format(waiting=waiting, unusual=unusual))
            page.wait_for_load_state("networkidle")
            if act:
                act(page)
                page.wait_for_load_state("networkidle")
            page.screenshot(path=OUT / f"{name}.png")
            page.context.close()
        browser.close()
    server.should_exit = True
    shutil.rmtree(folder)


if __name__ == "__main__":
    main()
