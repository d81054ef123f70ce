"""Every view: nothing serious for axe, nothing cut off at the two widths, reached by its link."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import ROOT, SignInAs, comes_true

AXE = (ROOT / "web/node_modules/axe-core/axe.min.js").read_text("utf-8")

VIEWS = [
    ("Ines Varga", "/author", "Choose an incident type"),
    ("Ines Varga", "/author/IT-001?step=pressure", "Rake stalls under load"),
    ("Ines Varga", "/match?asset=AS-101&symptom=stalls", "When each work plan applies"),
    ("Ines Varga", "/match/crew?document=IT-002", "Who can do it"),
    ("Ines Varga", "/match/kits?type=IT-001", "Parts, tools and kits"),
    ("Ines Varga", "/match/lists/parts", "Hydraulic oil ISO 32"),
    ("Marek Tilse", "/run", "Orders"),
    ("Marek Tilse", "/run/WO-0001", "Runsheet, frozen"),
    ("Ines Varga", "/review", "To read"),
    ("Ines Varga", "/review/IT-001", "Rake stalls under load"),
    ("Ines Varga", "/review/jobs/WO-0001", "What differed from the plan"),
    ("Ines Varga", "/desk", "Ines's desk"),
    ("Ines Varga", "/review/IT-001/together", "Readings in time"),
    ("Ines Varga", "/refine/IT-001/guide", "fault guide"),
    ("Ines Varga", "/review/help", "Nobody asks for help"),
    ("Ines Varga", "/review/routine", "Half-yearly pump survey"),
    ("Ines Varga", "/refine", "takes longer than"),
    ("Ines Varga", "/refine/IT-001/WP-001?older=A&newer=B", "Revision A and revision B"),
    ("Oda Fennimore", "/people", "Invite somebody"),
    ("Oda Fennimore", "/password", "The one you want"),
    ("Ines Varga", "/nowhere", "There is nothing at this address"),
]


def serious(page: Page, *, only: str = "") -> list[str]:
    """What axe finds; ``only`` names a rule where the rest of the page is known."""
    if not page.evaluate("'axe' in window"):
        page.evaluate(AXE)
    wanted = {"resultTypes": ["violations"], **({"runOnly": [only]} if only else {})}
    found = page.evaluate("wanted => axe.run(document, wanted)", wanted)
    return [
        f"{v['id']}: {n['html'][:120]} {n['failureSummary']}"
        for v in found["violations"]
        if v["impact"] in ("serious", "critical")
        for n in v["nodes"]
    ]


def settle(page: Page, heading: str) -> None:
    expect(page.get_by_text(heading).first).to_be_visible()
    page.wait_for_load_state("networkidle")


@pytest.mark.parametrize(("who", "path", "heading"), VIEWS)
def test_axe_finds_nothing_serious(look_as: SignInAs, who: str, path: str, heading: str) -> None:
    page = look_as(who, path)
    settle(page, heading)
    assert serious(page) == []
    page.evaluate("document.documentElement.dataset.mantineColorScheme = 'dark'")
    # Colours that are on their way from the one to the other are those of neither.
    comes_true(page, "document.getAnimations().every((a) => !(a instanceof CSSTransition))")
    assert serious(page, only="color-contrast") == []


def test_a_page_in_the_dark_stays_so(look_as: SignInAs) -> None:
    page = look_as("Ines Varga", "/review/IT-001")
    page.evaluate("localStorage.setItem('mantine-color-scheme-value', 'dark')")
    page.reload()
    settle(page, "Rake stalls under load")
    expect(page.locator("html")).to_have_attribute("data-mantine-color-scheme", "dark")
    assert serious(page) == []


@pytest.mark.parametrize(("who", "path", "heading"), VIEWS[1:15])
def test_nothing_runs_off_the_side(look_as: SignInAs, who: str, path: str, heading: str) -> None:
    page = look_as(who, path)
    settle(page, heading)
    for width, height in ((1280, 800), (1680, 1050)):
        page.set_viewport_size({"width": width, "height": height})
        comes_true(
            page,
            """[document.documentElement, ...document.querySelectorAll('.sheet, .margin, .shelf')]
            .every(e => e.scrollWidth <= e.clientWidth + 1)""",
            seconds=8,
        )


def test_the_sign_in_page_and_a_draft_with_its_details_open_pass_axe(
    sign_in_as: SignInAs, address: str
) -> None:
    page = sign_in_as("Ines Varga", "/author/IT-001")
    page.get_by_role("button", name="Begin revision C").click()
    page.get_by_role("button", name="Edit “Check relief valve seat”").click()
    expect(page.get_by_label("Detail, for the one who wants to know how")).to_be_visible()
    assert serious(page) == []
    page.request.delete(f"{address}/api/v1/session")
    page.goto("/")
    expect(page.get_by_text("Try the demo as")).to_be_visible()
    assert serious(page) == []


def test_pocket_passes_axe_and_its_targets_are_large(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Runa Ashdown", phone=True)
    expect(page.get_by_role("heading", name="Your orders")).to_be_visible()
    assert serious(page) == []
    page.get_by_role("button", name="Stalls").first.click()
    page.get_by_role("button", name="Head out").click()
    page.get_by_role("button", name="I have arrived").click()
    expect(page.get_by_text("Arrive, step 1 of")).to_be_visible()
    assert serious(page) == []
    heights = page.evaluate(
        "() => [...document.querySelectorAll('button')].map(b => b.getBoundingClientRect().height)"
    )
    assert heights
    assert min(heights) >= 44
    page.get_by_role("button", name="More").click()
    expect(page.get_by_role("heading", name="All steps")).to_be_visible()
    assert serious(page) == []
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_a_link_into_the_middle_survives_signing_in(sign_in_as: SignInAs, address: str) -> None:
    page = sign_in_as("Ines Varga")
    page.request.delete(f"{address}/api/v1/session")
    page.goto("/review/IT-001?step=WP-001%3Apressure")
    page.get_by_role("button", name="Ines Varga").click()
    expect(page.get_by_role("heading", name="“Read hydraulic pressure at stall”")).to_be_visible()


def test_nothing_is_asked_of_another_host(sign_in_as: SignInAs, address: str) -> None:
    page = sign_in_as("Ines Varga")
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    page.goto("/author/IT-001")
    page.wait_for_load_state("networkidle")
    assert asked
    assert [url for url in asked if not url.startswith((address, "data:"))] == []


def test_the_pictures_of_the_readme_are_there() -> None:
    readme = Path(ROOT / "README.md").read_text("utf-8")
    shots = sorted(p.name for p in (ROOT / "docs/screenshots").glob("*.png"))
    assert shots
    assert [s for s in shots if f"docs/screenshots/{s}" not in readme] == []
