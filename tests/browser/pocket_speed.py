"""How quick Pocket is: first screen, an answer, what a day weighs. Run by `make bench`; it asserts nothing.

A runsheet of 300 questions, half of them under a condition, is carried out with and without a network; the
browser's main thread is slowed four times as well (the worker that runs the rules is not slowed by that).
"""

from __future__ import annotations

import shutil
import statistics
import tempfile
from pathlib import Path

from playwright.sync_api import BrowserContext, Page, sync_playwright

from reedling.core.orders.orders import Order
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Source
from reedling.standins.field import DEMO_PASSWORD, play_demo
from reedling.wiring import open_context
from tests.bench import long_form
from tests.chromium import launched
from tests.served import Server

N_QUESTIONS = 300
N_ANSWERS = 100
LINE = "{:66} {:>9} {:>9} {:>5}"

PRESS = """async ({ n }) => {
    const button = document.querySelectorAll('.pquestion .pchoice[aria-pressed=false]')[n % 3];
    if (!button) return null;
    const last = () => Number(document.querySelector('[data-recorded]').dataset.recorded);
    const before = last();
    const began = performance.now();
    const frame = () => new Promise((ok) => requestAnimationFrame(ok));
    button.click();
    while (button.isConnected && button.getAttribute('aria-pressed') !== 'true') await frame();
    const shown = performance.now() - began;
    while (last() <= before) {
        if (performance.now() - began > 10000) return 'not recorded: ' + document.body.innerText.slice(0, 400);
        await frame();
    }
    return [shown, performance.now() - began];
}"""


def told(name: str, found: list[float]) -> None:
    """One line: median and 95th percentile in milliseconds, with their count."""
    ordered = sorted(found)
    p95 = ordered[min(len(ordered) - 1, int(0.95 * len(ordered)))]
    print(LINE.format(name, f"{statistics.median(found):.0f} ms", f"{p95:.0f} ms", len(found)))


def add_long_order(folder: Path) -> str:
    """An order with a long runsheet, planned for Runa today."""
    context = open_context(folder, demo=True)
    with context.writing() as unit:
        like = next(o for o in unit.orders.find(technician="runa", states=("Planned",)))
        source = Source(document="WP-001", revision="A", title="Long survey")
        sheet = compile_runsheet([(source, long_form(N_QUESTIONS))])
        order = Order(
            id="WO-9999",
            asset=like.asset,
            site=like.site,
            symptom=like.symptom,
            report="",
            incident_type=None,
            incident_type_revision=None,
            runsheet=sheet,
            trace=(),
            logged_at=context.clock(),
            logged_by="marek",
            state="Planned",
            technician="runa",
            planned_for=context.clock(),
        )
        unit.orders.add(order)
    return order.id


def until(page: Page, expression: str) -> None:
    page.evaluate(f"async () => {{ while (!({expression})) await new Promise((ok) => setTimeout(ok, 50)) }}")


def answers(page: Page, name: str, *, slowed: int) -> None:
    """Press answers on a long step and say how long until shown, and until recorded and worked out."""
    tools = page.context.new_cdp_session(page)
    tools.send("Emulation.setCPUThrottlingRate", {"rate": slowed})
    shown, recorded = [], []
    for n in range(N_ANSWERS):
        found = page.evaluate(PRESS, {"n": n})
        if isinstance(found, str):
            raise RuntimeError(found)
        if found is None:
            page.get_by_role("button", name="Next").click()
            page.wait_for_timeout(300)
            continue
        shown.append(found[0])
        recorded.append(found[1])
    tools.send("Emulation.setCPUThrottlingRate", {"rate": 1})
    told(f"{name}: until an answer is shown", shown)
    told(f"{name}: until it is kept and all that follows is worked out", recorded)


def first_screen(context: BrowserContext, path: str, ready: str) -> float:
    """Milliseconds from opening a page of Pocket until it can be used."""
    page = context.new_page()
    page.goto(path, wait_until="commit")
    page.locator(ready).first.wait_for()
    taken = page.evaluate("performance.now()")
    page.close()
    return float(taken)


def main() -> None:
    """Measure, and print a table."""
    folder = Path(tempfile.mkdtemp()) / "demo"
    play_demo(open_context(folder, demo=True), DEMO_PASSWORD)
    order = add_long_order(folder)
    server = Server(folder)
    server.start()
    print(LINE.format(f"Pocket, {N_QUESTIONS} questions", "median", "95 %", "n"))
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(**launched())
        context = browser.new_context(viewport={"width": 390, "height": 844}, base_url=server.address)
        page = context.new_page()
        page.goto("/")
        page.get_by_role("button", name="Runa Ashdown").click()
        page.get_by_text("on this phone").first.wait_for()
        until(page, "(await navigator.serviceWorker.getRegistration())?.active?.state === 'activated'")
        until(page, "![...document.querySelectorAll('main li')].some((l) => l.innerText.includes('needs a'))")
        sizes = page.evaluate(
            """async () => {
                const day = await (await fetch('/api/v1/pocket/orders')).json();
                for (const o of day.orders) await (await fetch('/api/v1/pocket/orders/' + o.line.id)).text();
                const all = performance.getEntriesByType('resource').filter((e) => e.name.includes('/pocket/orders/'));
                return all.slice(-day.orders.length).map((e) => e.encodedBodySize);
            }"""
        )
        page.goto(f"/pocket/{order}")
        page.get_by_role("button", name="Head out").click()
        page.get_by_role("button", name="I have arrived").click()
        page.locator(".pquestion").first.wait_for()
        page.locator("main[data-rules=here]").wait_for(timeout=120_000)
        answers(page, "with a network", slowed=1)
        answers(page, "with a network, slowed 4 times", slowed=4)
        context.set_offline(True)
        answers(page, "without a network", slowed=1)
        answers(page, "without a network, slowed 4 times", slowed=4)
        list_opened = [first_screen(context, "/pocket", ".pocket-orders button") for _ in range(10)]
        told("first screen without a network, the list", list_opened)
        opened = [first_screen(context, f"/pocket/{order}", ".pquestion") for _ in range(10)]
        told("first screen without a network, a step", opened)
        begun = [first_screen(context, f"/pocket/{order}", "main[data-rules=here]") for _ in range(10)]
        told("the same, until the rules of the job run on the device", begun)
        browser.close()
    server.stop()
    print(f"a day's orders over the line, compressed: {', '.join(f'{s / 1000:.1f} kB' for s in sizes)}")
    shutil.rmtree(folder.parent)


if __name__ == "__main__":
    main()
