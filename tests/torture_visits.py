"""Visits of a phone that everything happens to: no network, a page that is closed, a session that ends, a server that is
killed, an office that gives the order away, changes it or cancels it. A real browser against a real server, seeded.

Every note that the phone showed as kept is at the server once in the end: in its job, or beside the order.
"""

from __future__ import annotations

import random
import time
from collections import Counter
from collections.abc import Callable
from datetime import UTC, datetime, timedelta

from playwright.sync_api import Browser, BrowserContext, Error, Page, sync_playwright

from reedling.standins.field import DEMO_PASSWORD
from tests.chromium import launched
from tests.served import Server

PHONE = {"width": 390, "height": 844}
STEPS = 14
"""Things that happen on one visit."""
SHOWN_WITHIN_MS = 20_000
SENT_WITHIN_S = 90.0
BY_HAND = "WP-004"
"""A plan that the office puts on orders by hand."""


class Visit:
    """One order on one phone, from the moment it is given to a technician until all is sent."""

    def __init__(self, server: Server, browser: Browser, name: str, rng: random.Random) -> None:
        self.server, self.rng, self.name = server, rng, name
        self.happened: Counter[str] = Counter()
        self.written: list[str] = []
        self.shown: list[str] = []
        self.offline = False
        self.office = server.client("marek")
        self.engineer = server.client("ines")
        placed = self.office.get("/api/v1/assets").json()
        rakes = [one["asset"]["code"] for one in placed if one["asset"]["name"].startswith("Rake")]
        new = {"asset": rng.choice(rakes), "symptom": "stalls", "report": f"Visit {name}."}
        self.order: str = self.office.post("/api/v1/orders", json=new).json()["id"]
        self._plan("runa")
        self.context: BrowserContext = browser.new_context(
            base_url=server.address,
            viewport=PHONE,  # type: ignore[arg-type]
            reduced_motion="reduce",
        )
        self._sign_in()
        self.page: Page = self.context.new_page()

    def _plan(self, technician: str) -> None:
        at = (datetime.now(UTC) + timedelta(hours=1)).isoformat()
        self.office.post(
            f"/api/v1/orders/{self.order}/visit", json={"technician": technician, "planned_for": at}
        )

    def _sign_in(self) -> None:
        given = {"username": "runa", "password": DEMO_PASSWORD}
        assert self.context.request.post("/api/v1/session", data=given).ok

    def _act(self, name: str) -> None:
        self.page.get_by_role("button", name=name).click(timeout=SHOWN_WITHIN_MS)

    def write(self) -> None:
        """Write a note, and see whether the phone shows it as kept."""
        text = f"{self.name} {len(self.written)}"
        try:
            self.page.get_by_role("button", name="More", exact=True).click(timeout=3_000)
            self.page.get_by_label("Note", exact=True).fill(text, timeout=3_000)
        except Error:
            self.happened["nowhere to write"] += 1
            self.page.keyboard.press("Escape")
            return
        self.written.append(text)
        try:
            keep = self.page.get_by_role("button", name="Keep note")
            keep.click(timeout=3_000)
            keep.wait_for(state="detached", timeout=5_000)
        except Error:
            self.happened["not shown as kept"] += 1
            self.page.keyboard.press("Escape")
            return
        self.shown.append(text)

    def write_and_close(self) -> None:
        """Write a note, and close the page a moment later, whatever it shows by then."""
        try:
            self.page.get_by_role("button", name="More", exact=True).click(timeout=3_000)
            text = f"{self.name} {len(self.written)}"
            self.page.get_by_label("Note", exact=True).fill(text, timeout=3_000)
            self.written.append(text)
            keep = self.page.get_by_role("button", name="Keep note")
            keep.click(timeout=3_000, no_wait_after=True)
            self.page.wait_for_timeout(self.rng.uniform(0, 200))
            if self.page.get_by_label("Note", exact=True).count() == 0:
                self.shown.append(text)
        except Error:
            self.happened["nowhere to write"] += 1
        self.open_again()

    def cut_or_join(self) -> None:
        """The network goes, or comes again."""
        self.offline = not self.offline
        self.context.set_offline(self.offline)

    def open_again(self) -> None:
        """The page is closed and opened again; without a network from what the phone has."""
        for page in self.context.pages[1:]:
            page.close()
        fresh = self.context.new_page()
        self.page.close()
        self.page = fresh
        try:
            self.page.goto(f"/pocket/{self.order}", timeout=SHOWN_WITHIN_MS)
        except Error:
            # Without a network before the phone has taken the application along.
            self.happened["could not be opened"] += 1
            self.offline = False
            self.context.set_offline(False)
            self.page.goto(f"/pocket/{self.order}")

    def second_tab(self) -> None:
        """The same order is opened in a second tab, which goes on."""
        if len(self.context.pages) < 3 and not self.offline:
            self.page = self.context.new_page()
            self.page.goto(f"/pocket/{self.order}", timeout=SHOWN_WITHIN_MS)

    def end_session(self) -> None:
        """The session ends; somebody signs in over the page at once, later, or at the end."""
        self.context.clear_cookies()
        if self.rng.random() < 0.5:
            self._sign_in_again()

    def _sign_in_again(self) -> None:
        if not self.offline:
            self._sign_in()

    def kill_server(self) -> None:
        """The server is killed, and serves again a moment later."""
        self.server.kill_child()
        self.server.start_child()

    def give_away(self) -> None:
        """The office gives the order to a colleague, and half of the time back again."""
        self._plan("teo")
        if self.rng.random() < 0.5:
            self._plan("runa")

    def change(self) -> None:
        """The office puts a plan on the order, which is refused once the field has recorded something."""
        body = {"act": "added", "document": BY_HAND, "reason": "Looked at together."}
        self.engineer.post(f"/api/v1/orders/{self.order}/documents", json=body)

    def cancel(self) -> None:
        """The office cancels the order."""
        self.office.post(f"/api/v1/orders/{self.order}/cancellation", json={"reason": "No longer wanted."})

    def go(self) -> list[str]:
        """Let things happen, then wait until all is sent; gives what was lost or doubled."""
        acts: list[tuple[Callable[[], None], float]] = [
            (self.write, 10),
            (self.write_and_close, 3),
            (self.cut_or_join, 4),
            (self.open_again, 2),
            (self.second_tab, 1),
            (self.end_session, 1),
            (self.kill_server, 0.7),
            (self.give_away, 1),
            (self.change, 0.5),
            (self.cancel, 0.3),
        ]
        self.page.goto(f"/pocket/{self.order}")
        self._act("Head out")
        self._act("I have arrived")
        for _ in range(STEPS):
            act = self.rng.choices([a for a, _ in acts], [w for _, w in acts])[0]
            self.happened[act.__name__] += 1
            act()
        self.context.set_offline(False)
        self.offline = False
        self._sign_in()
        self.open_again()
        faults = self._settled()
        self.context.close()
        return faults

    def _settled(self) -> list[str]:
        until = time.monotonic() + SENT_WITHIN_S
        while True:
            notes = self._at_the_server()
            faults = [
                f"{text}: shown as kept, {notes[text]} times there" for text in self.shown if notes[text] != 1
            ]
            faults += [f"{text}: {n} times there" for text, n in notes.items() if n > 1]
            faults += [f"{text}: written by nobody" for text in notes if text not in self.written]
            if not faults or time.monotonic() > until:
                said = self.page.locator(".pocket-bar [role=status]")
                words = said.inner_text() if said.count() else "nothing"
                return [f"{fault}; the phone says “{words}” of {self.order}" for fault in faults]
            self.page.wait_for_timeout(300)

    def _at_the_server(self) -> Counter[str]:
        job = self.engineer.get(f"/api/v1/orders/{self.order}").json()["job"]
        notes = Counter(note["text"] for note in job["notes"])
        for line in self.engineer.get("/api/v1/loose-records").json():
            if line["order"] == self.order:
                notes.update(e["text"] for e in line["events"] if e["kind"] == "note written")
        return notes


def visits(server: Server, n_rounds: int, seed: int) -> list[str]:
    """So many visits; gives what was lost or doubled."""
    server.start_child()
    began, faults, happened = time.perf_counter(), list[str](), Counter[str]()
    n_written = n_shown = 0
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(**launched())
        for n in range(n_rounds):
            visit = Visit(server, browser, f"visit {n}", random.Random(f"{seed} {n}"))
            try:
                faults += visit.go()
            except Error as error:
                faults.append(
                    f"visit {n}: {error}; the page shows: {visit.page.locator('body').inner_text()[:400]}"
                )
            happened += visit.happened
            n_written, n_shown = n_written + len(visit.written), n_shown + len(visit.shown)
        browser.close()
    server.end_parent()
    print(
        f"a phone and an office: {n_rounds} visits, {sum(happened.values())} things happened "
        f"({', '.join(f'{name.replace(chr(95), chr(32))} {n}' for name, n in happened.most_common())}); "
        f"{n_written} notes written, {n_shown} shown as kept, {len(faults)} lost, doubled or strange; "
        f"{time.perf_counter() - began:.0f} s"
    )
    return faults
