"""Match through the interface: a table written by keyboard and paste, the map, by hand, crew, lists."""

from __future__ import annotations

import csv
import re

import pytest
from playwright.sync_api import Page, Route, expect

from tests.browser.conftest import SignInAs

TABLE = "/match/tables/DT-001"


def choose(page: Page, label: str, text: str) -> None:
    page.get_by_role("combobox", name=label).click()
    page.get_by_role("combobox", name=label).fill(text)
    page.get_by_role("option", name=re.compile(text)).first.click()


def paste(page: Page, place: str, text: str) -> None:
    """Paste a text into a cell, as the browser does on Ctrl+V."""
    page.locator(f'[data-place="{place}"]').focus()
    page.evaluate(
        """text => {
          const data = new DataTransfer();
          data.setData('text/plain', text);
          document.activeElement.dispatchEvent(
            new ClipboardEvent('paste', {clipboardData: data, bubbles: true, cancelable: true}));
        }""",
        text,
    )


@pytest.fixture
def sheet(sign_in_as: SignInAs) -> Page:
    """The table's draft, as Ines works on it."""
    page = sign_in_as("Ines Varga", TABLE)
    expect(page.get_by_role("table", name="When each work plan applies")).to_be_visible()
    return page


def test_a_table_is_written_by_keyboard_alone(sheet: Page) -> None:
    keys = sheet.keyboard
    sheet.locator('[data-place="0-0"]').focus()
    keys.press("ArrowDown")
    keys.press("ArrowRight")
    expect(sheet.get_by_role("button", name="Row 2, model: WR 3")).to_be_focused()
    keys.type("not WR 2")
    keys.press("Enter")
    expect(sheet.get_by_role("button", name="Row 2, model: not WR 2")).to_be_visible()
    expect(sheet.get_by_role("button", name="Row 3, model: any")).to_be_focused()
    keys.press("Control+z")
    expect(sheet.get_by_role("button", name="Row 2, model: WR 3")).to_be_visible()
    keys.press("Control+Shift+z")
    expect(sheet.get_by_role("button", name="Row 2, model: not WR 2")).to_be_visible()
    sheet.locator('[data-place="1-1"]').focus()
    keys.press("Delete")
    expect(sheet.get_by_role("button", name="Row 2, model: any")).to_be_visible()
    keys.press("Alt+ArrowUp")
    expect(sheet.get_by_role("button", name="Row 1, documents: Hose inspection, WR 3")).to_be_visible()
    keys.press("Control+Enter")
    expect(sheet.get_by_role("button", name="Row 2, documents: nothing yet")).to_be_visible()
    expect(sheet.get_by_text("Row 2 names no document. Say what it puts on an order")).to_be_visible()


def test_a_name_is_chosen_while_typing(sheet: Page) -> None:
    sheet.locator('[data-place="8-2"]').focus()
    sheet.keyboard.type("hunt")
    sheet.get_by_role("option", name="hunts about set point").click()
    sheet.keyboard.press("Enter")
    expect(sheet.get_by_role("button", name="Row 9, symptom: hunts about set point")).to_be_visible()
    sheet.locator('[data-place="8-2"]').focus()
    sheet.keyboard.press("F2")
    sheet.keyboard.type(" or runn")
    sheet.get_by_role("option", name="hunts about set point or running hot").click()
    sheet.keyboard.press("Tab")
    expect(sheet.get_by_role("button", name=re.compile("Row 9, symptom: .*or running hot"))).to_be_visible()
    expect(sheet.get_by_role("button", name="Row 9, day: any")).to_be_focused()


def test_a_cell_never_goes_back_to_what_it_said_before_it_was_typed(sheet: Page) -> None:
    # As on a busy machine: what is put off until later comes late.
    sheet.evaluate(
        """() => {
          const set = window.setTimeout;
          window.setTimeout = (act, ms = 0, ...more) => set(act, ms + 300, ...more);
        }"""
    )
    cell = sheet.locator('td:has([data-place="8-2"])')
    # Everything that the cell says from now on is written down, letter by letter.
    cell.evaluate(
        """cell => {
          window.said = [];
          const row = cell.parentElement;
          const note = () => {
            const button = row.querySelector('[data-place="8-2"]');
            if (button && window.said.at(-1) !== button.textContent) window.said.push(button.textContent);
          };
          new MutationObserver(note).observe(row, {subtree: true, childList: true, characterData: true});
        }"""
    )
    for text in ("running hot", "stalls", "hunts about set point"):
        sheet.evaluate("window.said.length = 0")
        sheet.locator('[data-place="8-2"]').focus()
        sheet.keyboard.press("Delete")
        sheet.keyboard.type(text)
        with sheet.expect_response(re.compile("/table-edits")):
            sheet.keyboard.press("Tab")
        expect(sheet.locator('[data-place="8-2"]')).not_to_have_attribute("data-pending", "yes")
        said = sheet.evaluate("window.said")
        assert said[-1] == text
        assert said.count(text) == 1, said


def test_a_cell_opened_before_its_answer_has_come_says_what_was_typed(sheet: Page) -> None:
    held: list[Route] = []
    edits = re.compile("/table-edits")
    sheet.route(edits, lambda route: held.append(route))
    sheet.locator('[data-place="8-2"]').focus()
    sheet.keyboard.type("running hot")
    with sheet.expect_request(edits):
        sheet.keyboard.press("Tab")
    sheet.locator('[data-place="8-2"]').focus()
    sheet.keyboard.press("F2")
    expect(sheet.locator(".cell-edit input")).to_have_value("running hot")
    held[0].continue_()
    sheet.unroute(edits)
    sheet.keyboard.type(" or stalls")
    sheet.keyboard.press("Tab")
    expect(
        sheet.get_by_role("button", name=re.compile("Row 9, symptom: running hot or stalls"))
    ).to_be_visible()


def test_what_cannot_be_read_is_told_and_the_sheet_stays(sheet: Page) -> None:
    sheet.locator('[data-place="0-1"]').focus()
    sheet.keyboard.type("WR 9")
    sheet.keyboard.press("Tab")
    expect(sheet.get_by_role("alert").filter(has_text="“WR 9” is not a model here.")).to_be_visible()
    field = sheet.locator(".cell-edit input")
    expect(field).to_have_value("WR 9")
    field.fill("WR 2")
    field.press("Enter")
    expect(sheet.get_by_role("button", name="Row 1, model: WR 2")).to_be_visible()


def test_a_sheet_is_pasted_and_of_a_wrong_one_nothing_is_lost(sheet: Page) -> None:
    wrong = "conveyor\tany\tstalls\tany\tWP-001\nconveyor\t12\thot\tin May\tWP-99"
    paste(sheet, "8-0", wrong)
    told = sheet.get_by_role("region", name="What was pasted")
    expect(told).to_contain_text("3 cells of what was pasted cannot be read, and nothing was written.")
    expect(told).to_contain_text("row 10, model “12” is not a model here.")
    expect(told).to_contain_text("row 10, day “in May” is not a day. Write 1 Nov, 1 Nov 2026 or 2026-11-01.")
    expect(sheet.get_by_role("button", name="Row 9, documents: Leave the site tidy")).to_be_visible()
    field = told.get_by_role("textbox")
    expect(field).to_have_value(wrong)
    field.fill(wrong.replace("12", "CV 1").replace("in May", "1 May to 31 May"))
    told.get_by_role("button", name="Paste it as it is now").click()
    expect(told).to_contain_text("1 cell of what was pasted cannot be read")
    told.get_by_role("button", name="Take the cells that can be read").click()
    expect(sheet.get_by_role("button", name="Row 9, equipment: conveyor")).to_be_visible()
    expect(sheet.get_by_role("button", name="Row 10, model: CV 1")).to_be_visible()
    expect(sheet.get_by_role("button", name="Row 10, day: 1 May to 31 May")).to_be_visible()
    expect(sheet.get_by_role("button", name="Row 10, documents: nothing yet")).to_be_visible()
    sheet.get_by_role("button", name="Undo").click()
    expect(sheet.get_by_role("button", name="Row 9, documents: Leave the site tidy")).to_be_visible()


def test_a_sheet_that_is_too_long_is_refused_with_the_way_out(sheet: Page) -> None:
    paste(sheet, "8-0", "\n".join("conveyor\tany\tstalls\tany\tWP-001" for _ in range(20_000)))
    expect(
        sheet.get_by_text("a table may have 5,000 rows, this would have 20,008. Paste it in parts")
    ).to_be_visible()
    expect(sheet.get_by_role("button", name="Row 9, documents: Leave the site tidy")).to_be_visible()


def test_a_column_is_added_filled_and_removed(sheet: Page) -> None:
    sheet.get_by_role("button", name="Column", exact=True).click()
    sheet.get_by_role("menuitem", name="site tag").click()
    expect(sheet.get_by_role("columnheader", name="Site tag")).to_be_visible()
    sheet.locator('[data-place="0-3"]').focus()
    sheet.keyboard.type("not tidal")
    sheet.keyboard.press("Enter")
    expect(sheet.get_by_role("button", name="Row 1, site tag: not tidal")).to_be_visible()
    sheet.get_by_role("button", name="Remove the column site tag").click()
    expect(sheet.get_by_role("columnheader", name="Site tag")).to_have_count(0)


def test_an_order_is_tried_against_the_draft_and_what_is_in_force(sheet: Page) -> None:
    sheet.goto(f"{TABLE}?asset=AS-108&symptom=stalls&day=2026-07-01")
    pane = sheet.get_by_role("complementary", name="Try an order")
    expect(pane.get_by_role("link", name="Hose inspection, WR 3").first).to_be_visible()
    expect(
        pane.get_by_text("One cell away: day is 1 Jul 2026, the row wants 1 Nov to 28 Feb.")
    ).to_be_visible()
    rows = sheet.get_by_role("table", name="When each work plan applies").locator("tr.meets")
    expect(rows).to_have_count(3)
    pane.get_by_role("switch", name="With DT-001 B in place of what is in force").click()
    expect(pane.get_by_text("The runsheet, 12 steps")).to_be_visible()
    expect(pane.get_by_text("One cell away: day")).to_have_count(0)


def test_two_things_set_before_the_page_is_drawn_again_both_stay(sheet: Page) -> None:
    sheet.evaluate(
        """() => {
          document.querySelector('[aria-label="Try an order"] input[type=checkbox]').click();
          const day = document.querySelector('[aria-label="Try an order"] input[type=date]');
          Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(day, '2026-11-05');
          day.dispatchEvent(new Event('input', {bubbles: true}));
        }"""
    )
    expect(sheet).to_have_url(re.compile(r"\?draft=no&day=2026-11-05$"))


def test_a_step_that_two_ask_for_is_done_once_and_says_so(sheet: Page) -> None:
    sheet.goto(f"{TABLE}?asset=AS-301&symptom=half-yearly")
    pane = sheet.get_by_role("complementary", name="Try an order")
    note = "Confirm asset by its plate is part of Half-yearly pump survey and is done once."
    expect(pane.get_by_text(note)).to_be_visible()
    expect(pane.locator(".stem-short").get_by_text("Confirm asset by its plate")).to_have_count(1)


def test_an_order_that_came_in_is_tried_again(sheet: Page) -> None:
    pane = sheet.get_by_role("complementary", name="Try an order")
    choose(sheet, "or an order that came in", "WO-0001")
    expect(pane.get_by_role("heading", name="What it gets")).to_be_visible()
    expect(sheet).to_have_url(re.compile("order=WO-0001"))


def test_who_would_notice_then_review_release_and_the_order_gets_it(
    sign_in_as: SignInAs, sheet: Page
) -> None:
    sheet.get_by_role("button", name=re.compile(r"Who would notice: \d+ orders")).click()
    drawer = sheet.get_by_role("dialog", name="Who would notice")
    expect(drawer.get_by_text(re.compile(r"\d+ of \d+ past and open orders would get"))).to_be_visible()
    expect(drawer.get_by_text("would get Hose inspection, WR 3").first).to_be_visible()
    sheet.keyboard.press("Escape")
    sheet.get_by_role("button", name="Send for review").click()
    sheet.get_by_label("What changed, for the one who reads it").fill("Hoses and ice")
    sheet.get_by_role("button", name="Send for review now").click()
    expect(sheet.get_by_text("Waits for a second person.")).to_be_visible()
    expect(sheet.get_by_role("button", name="New row")).to_have_count(0)

    oda = sign_in_as("Oda Fennimore", TABLE)
    oda.get_by_role("link", name="Compare with A").click()
    expect(oda.get_by_text("row 2").first).to_be_visible()
    oda.goto(TABLE)
    oda.get_by_role("button", name="Release", exact=True).click()
    oda.get_by_role("button", name="Release now").click()
    expect(oda.get_by_role("button", name="Begin revision C")).to_be_visible()
    oda.goto("/match?asset=AS-108&symptom=stalls")
    pane = oda.get_by_role("complementary", name="Try an order")
    expect(pane.get_by_role("link", name="Hose inspection, WR 3").first).to_be_visible()


def test_a_gap_on_the_map_is_opened_and_gets_its_row(sheet: Page) -> None:
    gap = sheet.get_by_role(
        "button", name=re.compile("^Conveyor, Stalls: no row says what to do, 7 past orders")
    )
    gap.click()
    pane = sheet.get_by_role("region", name="Cell: Conveyor, stalls")
    expect(pane.get_by_text("7 orders came in, the latest first:")).to_be_visible()
    expect(pane.get_by_text("By hand, Rake stalls under load was added on 1 of 7 orders")).to_be_visible()
    choose(sheet, "What the new row puts on the order", "Rake stalls under load")
    pane.get_by_role("button", name="Write a row").click()
    expect(sheet.get_by_role("button", name="Row 10, equipment: conveyor")).to_be_visible()
    expect(sheet.get_by_role("button", name="Row 10, documents: Rake stalls under load")).to_be_visible()
    expect(
        sheet.get_by_role("button", name=re.compile("^Conveyor, Stalls: one plan of its own, 7 past orders"))
    ).to_be_visible()


def test_findings_are_told_in_words_with_an_order_to_try(sheet: Page) -> None:
    found = sheet.get_by_role("region", name="What the rows leave open")
    expect(found.get_by_text("DT-001 row 1 and DT-001 row 2 both speak for WR 3, stalls.")).to_be_visible()
    expect(found.get_by_text(re.compile(r"conveyor, stalls.*: 7 of \d+ past orders"))).to_be_visible()
    found.get_by_role("button", name="Find such an asset").first.click()
    pane = sheet.get_by_role("complementary", name="Try an order")
    expect(pane.get_by_role("link", name="Hose inspection, WR 3").first).to_be_visible()


def test_a_pair_that_never_goes_together_is_declared_and_refused(sheet: Page) -> None:
    choose(sheet, "Never together, first", "Rake stalls under load")
    choose(sheet, "Never together, second", "Hose inspection, WR 3")
    sheet.get_by_label("Why they never go together").fill("Both need the drive stripped.")
    sheet.get_by_role("region", name="Never together").get_by_role("button", name="Add").click()
    expect(sheet.get_by_text("Both need the drive stripped.").first).to_be_visible()
    expect(sheet.get_by_text("DT-001 row 2 is refused on every order: DT-001 row 1 asks")).to_be_visible()
    sheet.goto(f"{TABLE}?asset=AS-108&symptom=stalls")
    expect(
        sheet.get_by_text(
            "Rake stalls under load (DT-001 row 1) and Hose inspection, WR 3 (DT-001 row 2) never"
        )
    ).to_be_visible()


def test_a_plan_is_put_on_an_order_by_hand_with_its_reason(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Marek Tilse", "/run")
    page.get_by_role("link", name=re.compile("WO-0083|WO-0082|WO-0081|WO-0080")).first.click()
    page.get_by_role("button", name="Add a plan").click()
    choose(page, "Plan, form or standard step", "Ice on the screen")
    page.get_by_label("Why", exact=True).fill("Frost since Sunday.")
    page.get_by_role("button", name="Add a plan").last.click()
    expect(page.get_by_text("Marek Tilse added Ice on the screen A by hand")).to_be_visible()
    expect(page.get_by_text("Look for ice behind the screen before any lift")).to_be_visible()
    expect(page.get_by_text("frozen when the order was last changed by hand")).to_be_visible()


def test_who_can_do_it_today_and_on_a_day(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/match/crew?document=IT-001")
    expect(page.get_by_text(re.compile(r"4 of 8 technicians can do it today"))).to_be_visible()
    north = page.get_by_role("region", name="North Carrs")
    expect(north.get_by_text("Runa Ashdown")).to_be_visible()
    expect(north.get_by_text("lacks one thing: hydraulics at Solo, holds Assisted")).to_be_visible()
    page.get_by_label("And on").fill("2040-01-01")
    expect(
        page.get_by_text(re.compile(r"4 of 8 technicians can do it today, 0 on 1 Jan 2040"))
    ).to_be_visible()
    expect(north.get_by_text("can today; isolation permit ran out on")).to_be_visible()


def test_the_kit_says_what_it_rests_on(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/match/kits?type=IT-001")
    kit = page.get_by_role("region", name="The kit")
    expect(kit).to_contain_text("1 × Relief-valve seat kit")
    expect(kit).to_contain_text(
        re.compile(r"\d+ % \(\d+–\d+\), \d+ jobs the first time, from what \d+ finished jobs")
    )
    all_of_it = kit.get_by_role("link", name=re.compile(r"With \d+ parts, 100 % of jobs: "))
    all_of_it.click()
    expect(kit).to_contain_text("It finishes 100 %")
    expect(all_of_it).to_have_attribute("aria-current", "true")
    kit.get_by_role("link", name=re.compile("With 0 parts")).press("Enter")
    expect(kit).to_contain_text(re.compile(r"No part: \d+ % of jobs are finished without one"))
    page.get_by_label("Finish the first time").fill("90")
    expect(page).to_have_url(re.compile("goal=0.9"))


def test_an_entry_of_a_list_is_changed_and_a_loop_is_refused(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/match/lists/equipment")
    page.get_by_role("button", name="Change screening").click()
    page.get_by_role("combobox", name="Below").click()
    page.get_by_role("option", name="Conveyor").click()
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("alert")).to_contain_text("The equipment tree has a loop")
    page.get_by_role("button", name="Leave it").click()
    page.get_by_role("link", name="Contracts").click()
    page.get_by_role("button", name="New entry").click()
    page.get_by_label("Code").fill("winter")
    page.get_by_label("Name").fill("Winter cover")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("cell", name="Winter cover")).to_be_visible()


def test_a_new_site_and_asset_are_there_to_try_an_order_on(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/match/lists/sites")
    page.get_by_role("button", name="New entry").click()
    page.get_by_label("Code").fill("reach-lock")
    page.get_by_label("Name").fill("Reach Lock")
    page.get_by_label("Name").press("Enter")
    expect(page.get_by_role("alert")).to_have_text("Not saved: see district.")
    expect(page.get_by_text("The site has no district.")).to_be_visible()
    page.get_by_label("District").fill("North Carrs")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("cell", name="Reach Lock")).to_be_visible()

    page.get_by_role("link", name="Assets").click()
    page.get_by_role("button", name="New entry").click()
    page.get_by_label("Code").fill("AS-900")
    page.get_by_label("Name", exact=True).fill("Rake 1")
    page.get_by_label("Year of commissioning").fill("2019")
    choose(page, "Site", "Reach Lock")
    choose(page, "Class", "Submersible pump")
    choose(page, "Model", "WR 3")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("WR 3 is a model of Weed-screen rake, not of Submersible pump.")).to_be_visible()
    choose(page, "Class", "Weed-screen rake")
    page.get_by_role("button", name="Save").click()
    made = page.get_by_role("row").filter(has=page.get_by_role("button", name="Change AS-900"))
    expect(made).to_contain_text("Year of commissioning: 2019")

    page.goto("/match")
    pane = page.get_by_role("complementary", name="Try an order")
    choose(page, "Asset", "Reach Lock")
    choose(page, "Symptom", "Stalls")
    expect(pane.get_by_role("link", name="Hose inspection, WR 3").first).to_be_visible()


def test_a_table_is_withdrawn_with_a_reason(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Oda Fennimore", TABLE)
    page.get_by_role("button", name="More about this revision").click()
    page.get_by_role("menuitem", name="Withdraw DT-001 A").click()
    asked = page.get_by_role("dialog", name="Withdraw DT-001 A")
    go = asked.get_by_role("button", name="Withdraw it")
    expect(go).to_be_disabled()
    asked.get_by_role("button", name="Leave it").click()
    expect(asked).to_have_count(0)
    page.get_by_role("button", name="More about this revision").click()
    page.get_by_role("menuitem", name="Withdraw DT-001 A").click()
    asked.get_by_label("Why it goes out of force").fill("It sends crews to the wrong rakes.")
    go.click()
    expect(page.get_by_text("DT-001 A is withdrawn.")).to_be_visible()


def test_what_an_order_takes_over_is_set_on_the_incident_type(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/author/IT-002")
    terms = page.get_by_role("region", name="Order terms")
    expect(terms).to_contain_text("Orders of this type get: call-out, 58 EUR an hour, 40 EUR fixed")
    terms.get_by_role("button", name="Set order terms").click()
    terms.get_by_label("Expected minutes").fill("85")
    terms.get_by_label("Expected minutes").press("Enter")
    expect(terms).to_contain_text("1 h 25 expected")
    terms.get_by_role("button", name="Undo the last change of order terms").click()
    expect(terms).not_to_contain_text("1 h 25 expected")


def test_a_planner_reads_the_table_and_writes_nothing(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Marek Tilse", TABLE)
    expect(page.get_by_role("table", name="When each work plan applies")).to_be_visible()
    page.locator('[data-place="0-0"]').focus()
    page.keyboard.type("pump")
    expect(page.locator(".cell-edit input")).to_have_count(0)
    for name in ("New row", "New table", "Send for review"):
        expect(page.get_by_role("button", name=name)).to_have_count(0)


def test_a_table_goes_out_as_csv_as_it_stands(sheet: Page) -> None:
    sheet.locator('[data-place="8-2"]').focus()
    sheet.keyboard.type("hunts about set point")
    sheet.keyboard.press("Tab")
    expect(sheet.get_by_role("button", name="Row 9, symptom: hunts about set point")).to_be_visible()
    expect(sheet.locator('[data-place="8-2"]')).not_to_have_attribute("data-pending", "yes")
    with sheet.expect_download() as going:
        sheet.get_by_role("link", name="Save as CSV").click()
    assert re.fullmatch(r"DT-001-[A-Z]\.csv", going.value.suggested_filename)
    rows = list(csv.reader(going.value.path().read_text("utf-8").splitlines()))
    headings = [cell.casefold() for cell in sheet.get_by_role("columnheader").all_inner_texts()]
    assert [heading for heading in rows[0][:-1] if heading.casefold() not in headings] == []
    assert len(rows) == 10
    assert rows[9][2] == "hunts about set point"


def test_a_list_goes_out_as_csv_and_a_changed_one_comes_back(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/match/lists/parts")
    with page.expect_download() as going:
        page.get_by_role("link", name="Save as CSV").click()
    text = going.value.path().read_text("utf-8")
    assert text.startswith("code,name,unit,stocked,substitutes")

    def load(name: str, content: str) -> None:
        held = {"name": name, "mimeType": "text/csv", "buffer": content.encode()}
        page.locator('input[type="file"]').set_input_files(held)  # type: ignore[arg-type]

    pane = page.get_by_role("region", name="The sheet loaded")
    load("wrong.csv", text.replace("substitutes", "colour", 1))
    expect(pane.get_by_role("alert")).to_contain_text("the first line names “colour”")
    page.goto("/match/lists/van_stock")
    load("vans.csv", "technician,part,quantity\nRuna Ashdown,OIL-32,plenty\n")
    expect(pane).to_contain_text("Line 2, quantity: it says “plenty”, and it wants a number.")
    page.goto("/match/lists/parts")
    load("parts.csv", text.replace("Relief-valve seat kit", "Seat set") + "SEAL-40,Shaft seal 40 mm,,,\r\n")
    expect(pane).to_contain_text("parts.csv: 1 new, 1 changed, 10 the same.")
    expect(page.get_by_role("cell", name="Seat set")).to_have_count(0)
    pane.get_by_role("button", name="Write it").click()
    expect(page.get_by_role("cell", name="Shaft seal 40 mm")).to_be_visible()
    expect(page.get_by_role("cell", name="Seat set")).to_be_visible()


def test_a_planner_reads_lists_and_takes_them_along(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Marek Tilse", "/match/lists/parts")
    expect(page.get_by_role("link", name="Save as CSV")).to_be_visible()
    expect(page.get_by_role("button", name="Load a CSV")).to_have_count(0)
    expect(page.get_by_role("button", name="New entry")).to_have_count(0)


def test_who_changed_a_list_is_told_and_the_change_taken_back(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/match/lists/parts")
    page.get_by_role("button", name="Change RV-SEAT").click()
    page.get_by_label("Name", exact=True).fill("Relief valve seat, hardened")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_role("cell", name="Relief valve seat, hardened")).to_be_visible()
    page.get_by_role("button", name="History").click()
    history = page.get_by_role("dialog")
    row = history.get_by_role("row").first
    expect(row).to_contain_text("Ines Varga")
    expect(row).to_contain_text("name: Relief-valve seat kit Relief valve seat, hardened")
    row.get_by_role("button", name="Take back").click()
    expect(history.get_by_role("row").first).to_contain_text("took back")
    page.keyboard.press("Escape")
    expect(page.get_by_role("cell", name="Relief-valve seat kit")).to_be_visible()
