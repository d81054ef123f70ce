"""Standard steps, comments, words and releases, in the browser; and the form builder by keyboard."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.conftest import SignInAs


def test_a_form_is_built_by_keyboard_alone(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/author")
    page.get_by_role("button", name="New form").click()
    page.get_by_label("Title").fill("Weekly round")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Weekly round")).to_be_visible()
    rows = page.locator("[data-question]")
    for n, (kind, label) in enumerate((("yes", "Screen clear"), ("photo", "Weed"), ("text", "Remarks")), 1):
        page.keyboard.press("n")
        page.get_by_label("Kind of the next question").fill(kind)
        page.keyboard.press("Enter")
        expect(page.get_by_label("Question", exact=True)).to_be_focused()
        page.keyboard.type(label)
        page.keyboard.press("Enter")
        expect(rows).to_have_count(n)
        expect(rows.nth(n - 1)).to_be_focused()
    page.keyboard.press("k")
    expect(rows.nth(1)).to_be_focused()
    page.keyboard.press("Alt+ArrowRight")
    expect(page.get_by_text("when screen clear is no")).to_be_visible()
    page.keyboard.press("Alt+ArrowDown")
    expect(rows.nth(2)).to_have_attribute("aria-label", "Photo: Weed")
    page.keyboard.press("Delete")
    expect(rows).to_have_count(2)
    page.keyboard.press("Control+z")
    expect(rows).to_have_count(3)
    page.keyboard.press("Control+Shift+z")
    expect(rows).to_have_count(2)


def test_a_wrong_formula_is_named_with_its_place_while_it_is_written(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/author/documents/FM-001")
    page.get_by_role("button", name="Begin revision B").click()
    page.get_by_role("button", name="Edit “Worst unbalance”").click()
    formula = page.get_by_label("Formula")
    checks = page.get_by_role("region", name="Checks")
    for text, says in (
        ("max(unbalance) + bearing", "this stands for every repeat"),
        ("max(unbalance) + max(bearing)", "a plain number cannot be added to a temperature"),
        ("open('x')", "there is no function “open”"),
        ("max(unbalence)", "there is no number called “unbalence”"),
    ):
        formula.fill(text)
        formula.blur()
        expect(checks).to_contain_text(says)
        expect(checks).to_contain_text("formula, character")
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Undo").click()
    page.get_by_role("button", name="Undo").click()
    expect(checks).to_contain_text("0 to mend before review")


def test_what_a_change_of_a_standard_step_touches_is_told_before_it_is_released(
    sign_in_as: SignInAs,
) -> None:
    page = sign_in_as("Ines Varga", "/author/documents/SS-001")
    expect(page.get_by_text("Used in Half-yearly pump survey")).to_be_visible()
    page.get_by_role("button", name="Begin revision B").click()
    page.get_by_role("button", name="Find and replace").click()
    page.get_by_label("Find", exact=True).fill("its plate")
    expect(page.get_by_text("2 places with these words.")).to_be_visible()
    page.get_by_label("Replace by").fill("its nameplate")
    page.get_by_role("button", name="Replace in 2 places").click()
    expect(page.get_by_role("heading", name="Confirm asset by its nameplate", exact=True)).to_be_visible()
    page.get_by_label("New comment").fill("Does the scanner read the old plates?")
    page.get_by_role("button", name="Comment", exact=True).click()
    said = page.get_by_role("region", name="Comments")
    expect(said.get_by_text("Does the scanner read the old plates?")).to_be_visible()
    page.get_by_role("button", name="Send for review").click()
    touched = page.get_by_label("What it touches")
    expect(touched).to_contain_text("Changes with it: Half-yearly pump survey")
    expect(touched).to_contain_text(
        re.compile(r"1 open order keeps what it was issued with: WO-\d+ \(SS-001 A")
    )
    page.get_by_role("button", name="Send for review now").click()
    expect(page.get_by_text("Waits for a second person.")).to_be_visible()

    oda = sign_in_as("Oda Fennimore", "/author/documents/SS-001")
    oda.get_by_role("button", name="Settled", exact=True).click()
    oda.get_by_role("link", name="Compare with A").click()
    expect(oda.get_by_role("heading", name="Revision A and revision B")).to_be_visible()
    expect(oda.get_by_role("row").filter(has_text="Confirm asset by its nameplate").first).to_be_visible()
    oda.go_back()
    oda.get_by_role("button", name="Release", exact=True).click()
    oda.get_by_role("button", name="Release now").click()
    expect(oda.get_by_role("button", name="Begin revision C")).to_be_visible()
    oda.get_by_role("button", name="More about this revision").click()
    oda.get_by_role("menuitem", name="Revisions and who changed what").click()
    expect(oda.get_by_text("Ines Varga sent B")).to_be_visible()
    expect(oda.get_by_text("Oda Fennimore released B")).to_be_visible()


def test_steps_are_copied_from_one_plan_into_another(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/author/IT-001")
    page.get_by_role("button", name="Begin revision C").click()
    expect(page.get_by_role("button", name="Send for review")).to_be_visible()
    for step in ("pressure", "cycles"):
        page.locator(f'[data-step="{step}"]').click(modifiers=["Control"])
    page.get_by_role("toolbar", name="Steps picked").get_by_role("button", name="Copy").click()
    page.goto("/author/IT-003")
    page.get_by_role("button", name="Begin revision B").click()
    expect(page.get_by_role("button", name="Send for review")).to_be_visible()
    before = page.locator("[data-step]").count()
    page.locator("[data-step]").last.focus()
    page.keyboard.press("Control+v")
    expect(page.locator("[data-step]")).to_have_count(before + 4)  # the pressure has two branches
    expect(page.get_by_text("Run three full cycles, record peak current")).to_be_visible()


def test_a_survey_is_carried_out_in_pocket_pump_by_pump(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Runa Ashdown", phone=True)
    page.get_by_role("button", name="Half-yearly survey due").click()
    page.get_by_role("button", name="Head out").click()
    page.get_by_role("button", name="I have arrived").click()
    forward = page.get_by_role("button", name="Next")
    page.get_by_label("Plate, typed").fill("S999")
    page.get_by_label("Plate, typed").blur()
    expect(page.get_by_role("alert")).to_contain_text("S999 is not the serial of this asset")
    page.get_by_role("button", name="Scan", exact=True).click()
    page.get_by_role("button", name="Take photo, nameplate").click()
    expect(forward).to_be_enabled()
    forward.click()
    expect(page.get_by_text("Nobody reaches in before the lock is on")).to_be_visible()
    page.get_by_label("Permit number").fill("P-1")
    page.get_by_label("Permit number").blur()
    page.get_by_role("button", name="Take photo, before").click()
    page.get_by_role("button", name="Start button tried, nothing moved: yes").click()
    expect(page.get_by_role("img", name="Lock on isolator")).to_be_visible()
    expect(forward).to_be_disabled()
    page.get_by_role("button", name="I have read this").click()
    expect(forward).to_be_enabled()
    forward.click()
    expect(page.get_by_role("heading", name="Survey each pump")).to_be_visible()
    forward.click()
    hours = page.get_by_label("Station hours run in h")
    hours.fill("7")
    hours.blur()
    page.get_by_role("button", name="Usual").click()
    expect(page.get_by_text("7 h is below the last reading")).to_be_visible()
    expect(forward).to_be_disabled()
    page.get_by_label("Why Station hours run is lower").fill("Meter replaced in spring")
    page.get_by_label("Why Station hours run is lower").blur()
    expect(forward).to_be_enabled()
    forward.click()
    expect(page.get_by_role("heading", name="Each pump: Pump 1")).to_be_visible()
    page.get_by_label("Unit of Insulation, weakest phase").select_option("GΩ")
    page.get_by_label("Insulation, weakest phase in GΩ").fill("0.001")
    page.get_by_label("Insulation, weakest phase in GΩ").blur()
    expect(page.get_by_text("1 MΩ is below 1.4 MΩ.")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
