"""Try to make a phone lose or double something: over a line that fails, and with its page closed in the middle.

A real browser against a real server. Run by `make torture`; loopback only, bounded.
"""

from __future__ import annotations

import io
import random
import time
from collections import Counter
from itertools import count
from typing import Any

from PIL import Image
from playwright.sync_api import BrowserContext, Error, Page, Route, sync_playwright

from reedling.standins.field import DEMO_PASSWORD
from tests.chromium import launched
from tests.served import Server

PHONE = {"width": 390, "height": 844}
PARCEL = 5
"""Events of one parcel."""
SENT_WITHIN_MS = 15 * 60_000

WAITING = """async ([order, person, nEvents, nPhotos, parcel]) => {
    const open = indexedDB.open('reedling');
    const db = await new Promise((ok) => { open.onsuccess = () => ok(open.result) });
    const photo = new Uint8Array(await (await fetch('/torture.jpg')).arrayBuffer());
    const hex = (bytes) => [...new Uint8Array(bytes)].map((b) => b.toString(16).padStart(2, '0')).join('');
    const at = new Date().toISOString();
    const events = Array.from({ length: nEvents }, (_, i) => ({ kind: 'note written', at, text: `note ${i}` }));
    const pictures = [];
    for (let i = 0; i < nPhotos; i++) {
        const blob = new Blob([photo, `photo ${i}`], { type: 'image/jpeg' });
        const id = crypto.randomUUID();
        const sha256 = hex(await crypto.subtle.digest('SHA-256', await blob.arrayBuffer()));
        pictures.push({ id, person, order, question: '', name: 'photo.jpg', blob, sha256, at: Date.now() });
        events.push({ kind: 'equipment found', at, record: `found ${i}`, name: `Thing ${i}`, picture: id });
    }
    const writing = db.transaction(['parcels', 'pictures'], 'readwrite');
    for (let i = 0; i < events.length; i += parcel)
        writing.objectStore('parcels').add({
            id: crypto.randomUUID(), person, order, events: events.slice(i, i + parcel), at: Date.now(),
        });
    for (const picture of pictures) writing.objectStore('pictures').put(picture);
    await new Promise((ok, no) => { writing.oncomplete = ok; writing.onerror = no });
    db.close();
    return pictures.map((picture) => picture.id);
}"""
"""Puts on the phone what somebody recorded without a network: events in parcels, and pictures."""


def phone(server: Server, n_events: int, n_photos: int, n_rounds: int, seed: int) -> list[str]:
    """Send all of it over a line that fails every third request; close the page while it writes."""
    server.start()
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(**launched())
        context = browser.new_context(base_url=server.address, viewport=PHONE, service_workers="block")  # type: ignore[arg-type]
        context.request.post("/api/v1/session", data={"username": "runa", "password": DEMO_PASSWORD})
        page = context.new_page()
        order = _on_site(page)
        faults = _over_a_bad_line(context, page, order, n_events, n_photos, seed)
        faults += _closed_while_it_writes(context, order, n_rounds, seed)
        browser.close()
    server.stop()
    return faults


def _on_site(page: Page) -> str:
    page.goto("/pocket")
    page.locator(".pocket-orders button").first.click()
    page.get_by_role("button", name="Head out").click()
    page.get_by_role("button", name="I have arrived").click()
    _all_sent(page)
    return page.url.rsplit("/", 1)[1]


def _all_sent(page: Page, within_ms: float = SENT_WITHIN_MS) -> None:
    page.locator(".pocket-bar [role=status]", has_text="all sent").wait_for(timeout=within_ms)


def _job(context: BrowserContext, order: str) -> dict[str, Any]:
    job: dict[str, Any] = context.request.get(f"/api/v1/pocket/orders/{order}").json()["job"]
    return job


def _over_a_bad_line(
    context: BrowserContext, page: Page, order: str, n_events: int, n_photos: int, seed: int
) -> list[str]:
    rng, numbers = random.Random(seed), count(1)
    lost_before, lost_after = 0, 0

    def fail_every_third(route: Route) -> None:
        nonlocal lost_before, lost_after
        if next(numbers) % 3:
            route.continue_()
        elif rng.random() < 0.5:
            lost_before += 1
            route.abort()
        else:
            lost_after += 1
            route.fetch()  # The server has it, and its answer is lost.
            route.abort()

    photo = _photo(seed)
    page.route("**/torture.jpg", lambda route: route.fulfill(body=photo, content_type="image/jpeg"))
    pictures = page.evaluate(WAITING, [order, "runa", n_events, n_photos, PARCEL])
    page.route("**/api/v1/pocket/**", fail_every_third)
    began = time.perf_counter()
    page.reload()
    page.locator(".pocket-bar [role=status]", has_text="not sent").wait_for()
    _all_sent(page)
    seconds = time.perf_counter() - began
    page.unroute("**/api/v1/pocket/**")
    page.close()

    job = _job(context, order)
    notes = Counter(note["text"] for note in job["notes"])
    faults = [f"note {i}: {notes[f'note {i}']} times" for i in range(n_events) if notes[f"note {i}"] != 1]
    found = job["beside"]["equipment"]
    faults += [f"found {i} is missing" for i in range(n_photos) if f"found {i}" not in found]
    for i, picture in enumerate(pictures):
        kept = context.request.get(f"/api/v1/pictures/{picture}")
        if kept.status != 200:
            faults.append(f"photo {i}: {kept.status}")
    print(
        f"a bad line: {n_events} notes and {n_photos} photos of {len(photo) / 1e6:.1f} MB in {seconds:.0f} s; "
        f"{next(numbers) - 1} requests, {lost_before} lost on the way there, {lost_after} on the way back; "
        f"{len(faults)} lost, doubled or strange"
    )
    return faults


def _photo(seed: int) -> bytes:
    """A photo of about 4 MB."""
    noise = Image.frombytes("RGB", (2000, 1900), random.Random(seed).randbytes(2000 * 1900 * 3))
    out = io.BytesIO()
    noise.save(out, "JPEG", quality=93)
    return out.getvalue()


def _closed_while_it_writes(context: BrowserContext, order: str, n_rounds: int, seed: int) -> list[str]:
    rng = random.Random(seed + 1)
    shown: list[str] = []
    for n in range(n_rounds):
        page = context.new_page()
        page.goto(f"/pocket/{order}")
        page.get_by_role("button", name="More", exact=True).click()
        text = f"round {n}"
        page.get_by_label("Note").fill(text)
        page.get_by_role("button", name="Keep note").click(no_wait_after=True)
        page.wait_for_timeout(rng.uniform(0, 250))
        try:
            if page.get_by_label("Note").count() == 0:
                shown.append(text)
        except Error:
            pass
        page.close()
    page = context.new_page()
    page.goto(f"/pocket/{order}")
    _all_sent(page)
    page.close()
    notes = Counter(
        note["text"] for note in _job(context, order)["notes"] if note["text"].startswith("round")
    )
    faults = [
        f"{text} was shown as kept and is there {notes[text]} times" for text in shown if notes[text] != 1
    ]
    faults += [f"{text} is there {n} times" for text, n in notes.items() if n > 1]
    print(
        f"closed in the middle: {n_rounds} rounds, {len(shown)} shown as kept before the page was closed, "
        f"{sum(notes.values())} at the server; {len(faults)} lost or doubled"
    )
    return faults
