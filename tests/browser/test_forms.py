"""Forms and plans written from an empty page, as a new user would, and carried out in the preview."""

from __future__ import annotations

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.conftest import SignInAs

UNBALANCE = "max(abs(l1 - mean(l1, l2, l3)), abs(l2 - mean(l1, l2, l3)), abs(l3 - mean(l1, l2, l3))) / mean(l1, l2, l3)"
BEARING = '0["°C"] + (3.9083e-3 - sqrt(3.9083e-3**2 + 4 * 5.775e-7 * (1 - pt / 100["Ω"]))) / (2 * 5.775e-7) * 1["K"]'


def choose(page: Page | Locator, label: str, option: str) -> None:
    """Choose from a menu by typing into it."""
    field = page.get_by_role("combobox", name=label, exact=True).last
    field.click()
    owner = page if isinstance(page, Page) else page.page
    owner.get_by_role("option", name=option, exact=True).click()


def fill(page: Page | Locator, label: str, value: str) -> None:
    field = page.get_by_label(label, exact=True).last
    field.fill(value)
    field.blur()


def saved(page: Page) -> None:
    expect(page.get_by_role("status").filter(has_text="Saved")).to_be_visible()


def add_question(page: Page, kind: str, label: str) -> None:
    """A question from the palette, named where it stands."""
    page.get_by_role("toolbar", name="Add a question").get_by_role("button", name=kind, exact=True).click()
    fill(page, "Question", label)
    expect(page.locator(f'[data-question][aria-label="{kind}: {label}"]')).to_be_visible()


def details(page: Page, label: str) -> Locator:
    """Open a question's details."""
    page.get_by_role("button", name=f"Edit “{label}”").click()
    return page.locator(".fdetails")


def close(page: Page, label: str) -> None:
    page.get_by_role("button", name=f"Close “{label}”").click()


def reading(page: Page, label: str, unit: str, name: str, **limits: str) -> None:
    add_question(page, "Reading", label)
    box = details(page, label)
    choose(box, "Unit", unit)
    for field, value in limits.items():
        fill(box, field.replace("_", " ").capitalize(), value)
    box.get_by_role("button", name=re.compile("^More")).click()
    fill(box, "Name in formulas", name)
    close(page, label)


def computed(page: Page, label: str, unit: str, formula: str, name: str, high: str = "") -> None:
    add_question(page, "Computed", label)
    box = details(page, label)
    fill(box, "Formula", formula)
    choose(box, "Unit", unit)
    if high:
        fill(box, "High", high)
    box.get_by_role("button", name=re.compile("^More")).click()
    fill(box, "Name in formulas", name)
    close(page, label)


def test_the_half_yearly_pump_survey_is_written_from_an_empty_page_and_carried_out(
    sign_in_as: SignInAs,
) -> None:
    page = sign_in_as("Ines Varga", "/author")
    page.get_by_role("button", name="New form").click()
    page.get_by_label("Title").fill("Pump survey, spring")
    page.get_by_role("button", name="Begin", exact=True).click()
    expect(page.get_by_role("heading", name="Pump survey, spring")).to_be_visible()

    page.get_by_role("button", name="Section: First section. Edit").click()
    fill(page, "Section", "Each pump")
    page.get_by_role("button", name="Edit section “Each pump”").click()
    page.get_by_role("button", name="Repeat it").click()
    fill(page, "Each", "pump")
    fill(page, "Names, with commas between", "North, South")
    expect(page.get_by_text("once per pump: North, South")).to_be_visible()
    page.get_by_role("button", name="Close section “Each pump”").click()

    for phase in ("1", "2", "3"):
        reading(page, f"Current L{phase}", "A", f"l{phase}")
    computed(page, "Current unbalance", "%", UNBALANCE, "unbalance", high="10")
    reading(page, "Insulation", "MΩ", "megohm", low="1.4")
    reading(page, "Bearing probe", "Ω", "pt")
    computed(page, "Bearing temperature", "°C", BEARING, "bearing", high="80")
    add_question(page, "Yes or no", "Seal chamber dry")
    add_question(page, "Photo", "Seal chamber")
    page.keyboard.press("Alt+ArrowRight")
    expect(page.get_by_text("when seal chamber dry is no")).to_be_visible()

    page.get_by_role("button", name="Section", exact=True).click()
    fill(page, "Section", "All pumps together")
    computed(page, "Hottest bearing", "°C", "max(bearing)", "hottest", high="80")
    checks = page.get_by_role("region", name="Checks")
    expect(checks).to_contain_text("No problems found")

    preview = page.get_by_role("region", name="Pocket preview")
    forward = preview.get_by_role("button", name="Next")
    preview.get_by_role("button", name="Start again").click()
    for pump, amps, ohms in (
        ("North", ("29", "30", "31"), "109.73"),
        ("South", ("20", "30", "31"), "134.71"),
    ):
        expect(preview.get_by_role("heading", name=f"Each pump: {pump}")).to_be_visible()
        expect(forward).to_be_disabled()
        for phase, value in zip("123", amps, strict=True):
            fill(preview, f"Current L{phase} in A", value)
        fill(preview, "Insulation in MΩ", "120")
        fill(preview, "Bearing probe in Ω", ohms)
        if pump == "North":
            # The largest deviation from a mean of 30 A is 1 A; 109.73 Ω are 25 °C (IEC 60751, from memory).
            expect(preview.get_by_text("3.33 %")).to_be_visible()
            expect(preview.get_by_text(re.compile(r"^(24\.9\d|25) °C"))).to_be_visible()
            preview.get_by_role("button", name="Seal chamber dry: yes").click()
        else:
            # 20 A lie 7 A below a mean of 27 A; 134.71 Ω are 90 °C (IEC 60751, from memory).
            expect(preview.get_by_text("25.93 % is above 10 %.")).to_be_visible()
            expect(preview.get_by_text(re.compile(r"(89\.9\d|90(\.0\d)?) °C is above 80 °C"))).to_be_visible()
            preview.get_by_role("button", name="Seal chamber dry: no").click()
            preview.get_by_role("button", name=re.compile("^Take photo")).click()
        forward.click()
    expect(preview.get_by_role("heading", name="All pumps together")).to_be_visible()
    expect(preview.get_by_text(re.compile(r"(89\.9\d|90(\.0\d)?) °C is above 80 °C"))).to_be_visible()
    forward.click()
    expect(preview.get_by_text("3 sections done, 3 findings raised.")).to_be_visible()

    page.keyboard.press("Control+z")
    saved(page)
    page.reload()
    expect(page.get_by_role("button", name="Redo")).to_be_enabled()


def test_pump_trips_on_overload_is_written_from_an_empty_page_and_carried_out(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/author")
    page.get_by_role("button", name="New incident type").first.click()
    page.get_by_label("Title").fill("Pump trips on overload, written anew")
    page.get_by_role("button", name="Begin", exact=True).click()
    page.get_by_role("button", name="Paste lines").click()
    page.get_by_label("One step a line").fill(
        "1. Read the insulation of the motor\n2. Turn the impeller by hand\n3. Clear the impeller\n"
        "4. Run the pump and read the current"
    )
    page.get_by_role("button", name="Add as steps").click()
    expect(page.locator(".stem-row")).to_have_count(4)

    page.get_by_role("button", name="Reuse").click()
    page.get_by_role("menuitem", name="Isolate and lock off the drive").click()
    lock = page.locator('[aria-label^="Diagnose: Isolate and lock off the drive"]')
    expect(lock).to_be_visible()
    lock.click(modifiers=["Control"])
    picked = page.get_by_role("toolbar", name="Steps picked")
    picked.get_by_role("button", name="Move to a phase").click()
    page.get_by_role("menuitem", name="Make safe").click()
    expect(page.locator('[aria-label^="Make safe: Isolate and lock off the drive"]')).to_be_visible()
    picked.get_by_role("button", name="None").click()
    expect(page.get_by_text("standard step SS-002")).to_be_visible()

    page.get_by_role("button", name="Edit “Read the insulation of the motor”").click()
    choose(page, "Kind of question", "Reading")
    fill(page, "Question", "Insulation")
    choose(page, "Unit", "MΩ")
    fill(page, "Low", "1.4")
    page.get_by_role("button", name="Close", exact=True).first.click()
    page.get_by_role("button", name="Edit “Turn the impeller by hand”").click()
    choose(page, "Kind of question", "Yes or no")
    fill(page, "Question", "Turns freely")
    page.get_by_role("button", name="Close", exact=True).first.click()
    page.locator('[aria-label="Diagnose: Clear the impeller"]').focus()
    page.keyboard.press("Alt+ArrowRight")
    expect(page.get_by_text("when turns freely is no")).to_be_visible()
    for text, phase in (("Run the pump and read the current", "Prove"),):
        page.get_by_role("button", name=f"Edit “{text}”").click()
        choose(page, "Phase", phase)
        choose(page, "Kind of question", "Reading")
        fill(page, "Question", "Current")
        choose(page, "Unit", "A")
        fill(page, "High", "32")
        page.get_by_role("button", name="Close", exact=True).first.click()
    expect(page.get_by_role("region", name="Checks")).not_to_contain_text("Error.")

    preview = page.get_by_role("region", name="Pocket preview")
    forward = preview.get_by_role("button", name="Next")
    preview.get_by_role("button", name="Start again").click()
    expect(preview.get_by_role("heading", name="Isolate and lock off the drive")).to_be_visible()
    preview.get_by_role("button", name="I have read this").click()
    fill(preview, "Permit number", "P-17")
    preview.get_by_role("button", name=re.compile("^Take photo")).click()
    preview.get_by_role("button", name="Start button tried, nothing moved: yes").click()
    forward.click()
    fill(preview, "Insulation in MΩ", "0.8")
    expect(preview.get_by_text("0.8 MΩ is below 1.4 MΩ.")).to_be_visible()
    forward.click()
    preview.get_by_role("button", name="Turns freely: no").click()
    expect(preview.get_by_text("“Clear the impeller” is added")).to_be_visible()
    forward.click()
    preview.get_by_role("button", name="Done").click()
    forward.click()
    fill(preview, "Current in A", "29,5")
    forward.click()
    expect(preview.get_by_text("5 steps done, 1 finding raised.")).to_be_visible()


def test_which_pumps_a_condition_means_is_chosen_said_and_checked(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/author")
    page.get_by_role("button", name="New form").click()
    page.get_by_label("Title").fill("Pumps, hot or shaking")
    page.get_by_role("button", name="Begin", exact=True).click()
    page.get_by_role("button", name="Section: First section. Edit").click()
    fill(page, "Section", "Each pump")
    page.get_by_role("button", name="Edit section “Each pump”").click()
    page.get_by_role("button", name="Repeat it").click()
    fill(page, "Each", "pump")
    fill(page, "Names, with commas between", "North, South")
    page.get_by_role("button", name="Close section “Each pump”").click()
    reading(page, "Temperature", "°C", "t", high="80")
    reading(page, "Vibration", "mm/s", "v", high="7")
    page.get_by_role("button", name="Section", exact=True).click()
    fill(page, "Section", "Stop the pump")
    add_question(page, "Yes or no", "Stopped")
    page.get_by_role("button", name="Edit section “Stop the pump”").click()
    choose(page, "Depend on an earlier answer", "Temperature, Each pump")
    choose(page, "Depend on an earlier answer", "Vibration, Each pump")
    same = "when for the same pump, temperature is above 80 °C and vibration is above 7 mm/s"
    expect(page.get_by_text(same)).to_be_visible()
    for n in (0, 1):
        page.get_by_label("Of which").nth(n).click()
        page.get_by_role("option", name="of any pump").click()
    any_any = "when temperature of any pump is above 80 °C and vibration of any pump is above 7 mm/s"
    expect(page.get_by_text(any_any)).to_be_visible()


def drag(page: Page, grip: Locator, onto: Locator) -> None:
    """Draw something by its grip onto something else, as a hand does."""
    grip.scroll_into_view_if_needed()
    begin, end = grip.bounding_box(), onto.bounding_box()
    assert begin
    assert end
    page.mouse.move(begin["x"] + 6, begin["y"] + 8)
    page.mouse.down()
    page.mouse.move(end["x"] + 120, end["y"] + end["height"] / 2 + 20, steps=12)
    page.mouse.move(end["x"] + 120, end["y"] + end["height"] / 2, steps=6)
    page.mouse.up()


def test_a_question_is_dragged_in_its_section_and_into_another(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/author")
    page.get_by_role("button", name="New form").click()
    page.get_by_label("Title").fill("Three things to see")
    page.get_by_role("button", name="Begin", exact=True).click()
    page.get_by_role("button", name="Section: First section. Edit").click()
    fill(page, "Section", "Outside")
    for label in ("Fence", "Gate", "Roof"):
        add_question(page, "Yes or no", label)
    page.get_by_role("button", name="Section", exact=True).click()
    fill(page, "Section", "Inside")
    page.wait_for_load_state("networkidle")

    def question(label: str) -> Locator:
        return page.locator(f'[data-question][aria-label="Yes or no: {label}"]')

    rows = page.locator("[data-question]")
    drag(page, question("Roof").locator(".grip"), question("Fence"))
    expect(rows.first).to_have_attribute("aria-label", "Yes or no: Roof")
    drag(page, question("Roof").locator(".grip"), question("Gate"))
    expect(rows.last).to_have_attribute("aria-label", "Yes or no: Roof")
    inside = page.locator(".fsection").filter(has_text="Inside")
    drag(page, question("Gate").locator(".grip"), inside.locator(".fsection-head"))
    expect(inside.locator("[data-question]")).to_have_attribute("aria-label", "Yes or no: Gate")
    saved(page)
    page.reload()
    expect(inside.locator("[data-question]")).to_have_attribute("aria-label", "Yes or no: Gate")
    page.get_by_role("button", name="Undo").click()
    expect(inside.locator("[data-question]")).to_have_count(0)
    expect(rows).to_have_count(3)
