"""A revision tried on some of the orders: begun by a second person, seen to go on, ended."""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta
from uuid import uuid4

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import SignInAs
from tests.browser.test_loop import send
from tests.browser.test_views import serious

pytestmark = pytest.mark.slow
PLAN = "/author/IT-001?plan=WP-001"


def letter_to_come(page: Page) -> str:
    """Begin the next revision of the plan and change its summary; the letter."""
    begin = page.get_by_role("button", name=re.compile("Begin revision "))
    letter = (begin.inner_text()).removeprefix("Begin revision ")
    begin.click()
    summary = page.get_by_label("Summary of the plan")
    summary.click()
    summary = page.get_by_role("textbox", name="Summary of the plan")
    summary.fill("Find what holds the rake, and put it right.")
    summary.press("Enter")
    expect(page.get_by_text("Find what holds the rake, and put it right.")).to_be_visible()
    return letter


def log_orders(page: Page, n: int) -> list[str]:
    """So many orders logged over the network by who is signed in."""
    made = []
    for i in range(n):
        body = {"asset": "AS-101", "symptom": "stalls", "report": f"Stuck, call {i}"}
        answer = page.request.post("/api/v1/orders", data=body, headers={"origin": page.url.rstrip("/")})
        made.append(str(answer.json()["id"]))
    return made


def begun(sign_in_as: SignInAs) -> tuple[Page, str]:
    """A trial on one in two orders; the page of it as its approver sees it, and the letter that is tried."""
    ines = sign_in_as("Ines Varga", PLAN)
    letter = letter_to_come(ines)
    send(ines, "Said in fewer words")
    oda = sign_in_as("Oda Fennimore", PLAN)
    oda.get_by_role("button", name="Try it first").click()
    oda.get_by_label("Minutes a job that are worth finding").fill("60")
    oda.get_by_role("button", name="Begin the trial").click()
    expect(oda.get_by_role("heading", name=re.compile(": trial$"))).to_be_visible()
    return oda, letter


def test_tried_on_one_in_two_orders_and_withdrawn(sign_in_as: SignInAs) -> None:
    ines = sign_in_as("Ines Varga", PLAN)
    letter = letter_to_come(ines)
    send(ines, "Said in fewer words")
    oda = sign_in_as("Oda Fennimore", PLAN)
    oda.get_by_role("button", name="Try it first").click()
    dialog = oda.get_by_role("dialog", name=f"Try revision {letter} on some of the orders")
    worth = dialog.get_by_label("Minutes a job that are worth finding")
    worth.fill("1")
    expect(dialog.get_by_text("would take more than 2,000 jobs to find")).to_be_visible()
    expect(dialog.get_by_role("button", name="Begin the trial")).to_be_disabled()
    worth.fill("60")
    expect(dialog.get_by_text(re.compile(r"At most \d+ jobs of both sides"))).to_be_visible()
    dialog.get_by_text("All orders of some districts").click()
    expect(dialog.get_by_text("Choose at least one district.")).to_be_visible()
    expect(dialog.get_by_role("button", name="Begin the trial")).to_be_disabled()
    dialog.get_by_text("Some of all orders, drawn").click()
    assert serious(oda) == []
    dialog.get_by_role("button", name="Begin the trial").click()
    expect(oda.get_by_role("heading", name=re.compile(": trial$"))).to_be_visible()
    expect(oda.get_by_role("status")).to_contain_text("0 jobs against 0")

    marek = sign_in_as("Marek Tilse", "/run")
    orders = log_orders(marek, 10)
    got = []
    for order in orders:
        sources = marek.request.get(f"/api/v1/orders/{order}").json()["documents"]
        got.append(next(s["revision"] for s in sources if s["document"] == "WP-001"))
    for order, revision in zip(orders[:3], got, strict=False):
        marek.goto(f"/run/{order}")
        words = f"it has revision {letter} of WP-001, the one tried"
        expect(
            marek.get_by_text(words if revision == letter else "it has the revision that was in force")
        ).to_be_visible()
        expect(marek.get_by_role("link", name="The trial")).to_have_count(0)
    tried = got.count(letter)
    oda.reload()
    figure = oda.locator(".figure").filter(has_text=f"Orders with {letter}")
    expect(figure.locator(".figure-value")).to_have_text(str(tried))
    assert serious(oda) == []

    ines.reload()
    expect(ines.get_by_role("link", name=f"Revision {letter} is on trial")).to_be_visible()
    expect(ines.get_by_role("button", name=re.compile("Begin revision"))).to_have_count(0)
    ines.get_by_role("link", name=f"Revision {letter} is on trial").click()
    expect(ines.get_by_text("An approver who did not write it releases it to all")).to_be_visible()
    expect(ines.get_by_role("button", name=f"Withdraw {letter}")).to_have_count(0)

    oda.get_by_role("button", name=f"Withdraw {letter}").click()
    asked = oda.get_by_role("dialog")
    expect(asked.get_by_role("button", name="Withdraw it")).to_be_disabled()
    asked.get_by_label("Why it is not released").fill("Nobody needs it.")
    asked.get_by_role("button", name="Withdraw it").click()
    expect(oda.get_by_text(re.compile("Withdrawn on .* by Oda Fennimore: Nobody needs it"))).to_be_visible()
    expect(oda.get_by_role("button", name=f"Release {letter} to all")).to_have_count(0)
    oda.goto("/refine")
    expect(oda.get_by_label("Trials", exact=True).get_by_text(re.compile("Withdrawn on"))).to_be_visible()
    ines.goto(PLAN)
    expect(ines.get_by_role("button", name=re.compile("Begin revision"))).to_be_visible()


def test_released_to_all_from_its_trial(sign_in_as: SignInAs) -> None:
    oda, letter = begun(sign_in_as)
    oda.get_by_role("button", name=f"Release {letter} to all").click()
    asked = oda.get_by_role("dialog", name=f"Release WP-001 {letter} to all")
    expect(asked.get_by_text("Too few jobs to say, 0 jobs against 0")).to_be_visible()
    asked.get_by_role("button", name="Leave it").click()
    expect(asked).to_have_count(0)
    oda.get_by_role("button", name=f"Release {letter} to all").click()
    oda.get_by_role("button", name="Release it").click()
    expect(oda.get_by_text(re.compile("Released to all on .* by Oda Fennimore"))).to_be_visible()
    expect(oda.get_by_role("button", name=f"Withdraw {letter}")).to_have_count(0)

    marek = sign_in_as("Marek Tilse", "/run")
    for order in log_orders(marek, 4):
        sources = marek.request.get(f"/api/v1/orders/{order}").json()["documents"]
        assert next(s["revision"] for s in sources if s["document"] == "WP-001") == letter
    ines = sign_in_as("Ines Varga", PLAN)
    expect(ines.get_by_role("button", name=re.compile("Begin revision"))).to_be_visible()
    expect(ines.get_by_text("Find what holds the rake, and put it right.")).to_be_visible()


def finish(runa: Page, order: str, minutes: float) -> None:
    """Carry an order out over the API as its technician: so many minutes on site, every step that may be left out."""
    path = f"/api/v1/pocket/orders/{order}"

    def at(before: float) -> str:
        return (datetime.now(UTC) - timedelta(minutes=before)).isoformat()

    def record(*events: dict[str, object]) -> None:
        sent = runa.request.post(f"{path}/submissions", data={"id": str(uuid4()), "events": list(events)})
        assert sent.ok, sent.text()
        assert sent.json()["loose"] == ""

    record({"kind": "headed out", "at": at(minutes + 20)}, {"kind": "arrived", "at": at(minutes)})
    while True:
        lines = runa.request.get(path).json()["run"]["progress"]["lines"]
        due = [line["line"] for line in lines if line["state"] == "due"]
        if not due:
            break
        if due[0] == "WP-001:isolate":
            # What makes safe is never left out; the picture is on its way.
            proof = {"WP-001:lock-photo": str(uuid4()), "WP-001:permit": "P-1234"}
            answered: list[dict[str, object]] = [
                {"kind": "answered", "at": at(1), "question": question, "value": value, "reason": ""}
                for question, value in proof.items()
            ]
            record(*answered, {"kind": "step done", "at": at(1), "line": due[0]})
        else:
            record({"kind": "step skipped", "at": at(1), "line": due[0], "reason": "Done by the keeper"})
    record(
        {"kind": "coded", "at": at(0.5), "cause": "debris", "remedy": "cleared"},
        {"kind": "left site", "at": at(0), "outcome": "finished"},
    )


def test_a_trial_whose_jobs_are_shorter_says_that_it_helped_and_is_released(sign_in_as: SignInAs) -> None:
    """Jobs with the revision tried take 20 to 30 minutes, the others three hours and more."""
    oda, letter = begun(sign_in_as)
    marek, runa = sign_in_as("Marek Tilse", "/run"), sign_in_as("Runa Ashdown", "/pocket", phone=True)
    finished = {True: 0, False: 0}
    for _ in range(80):
        if min(finished.values()) >= 11:
            break
        (order,) = log_orders(marek, 1)
        visit = {"technician": "runa", "planned_for": datetime.now(UTC).isoformat()}
        planned = marek.request.post(f"/api/v1/orders/{order}/visit", data=visit)
        assert planned.ok, planned.text()
        documents = marek.request.get(f"/api/v1/orders/{order}").json()["documents"]
        tried = any((d["document"], d["revision"]) == ("WP-001", letter) for d in documents)
        if finished[tried] < 11:
            finish(runa, order, (20 if tried else 190) + finished[tried])
            finished[tried] += 1
    oda.reload()
    expect(oda.get_by_role("status")).to_contain_text(
        re.compile(r"less a job .*11 jobs against 11"), timeout=20_000
    )
    expect(oda.locator(".figure").filter(has_text="Minutes a job")).to_contain_text("22 jobs")
    assert serious(oda) == []
    oda.goto("/refine")
    expect(oda.get_by_label("Trials", exact=True)).to_contain_text("less a job")
    oda.go_back()
    oda.get_by_role("button", name=f"Release {letter} to all").click()
    expect(oda.get_by_role("dialog")).to_contain_text("less a job")
    oda.get_by_role("button", name="Release it").click()
    expect(oda.get_by_text(re.compile("Released to all on .* by Oda Fennimore"))).to_be_visible()
