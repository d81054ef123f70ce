"""Writing: keyboard, undo, saving, two people on one draft, roles."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import APIRequestContext, Page, Route, expect

from tests.browser.conftest import SignInAs

STEPS = ".stem-row"


@pytest.fixture
def draft(sign_in_as: SignInAs) -> Page:
    """A draft of the rake plan, opened by its engineer."""
    page = sign_in_as("Ines Varga", begun)
    expect(page.get_by_role("button", name="Send for review")).to_be_visible()
    return page


def begun(request: APIRequestContext) -> str:
    """Begin the next revision of the rake plan; where it is."""
    assert request.post("/api/v1/documents/WP-001/draft").ok
    return "/author/IT-001"


def names(page: Page) -> list[str]:
    return [row.get_attribute("data-step") or "" for row in page.locator(STEPS).all()]


def row(page: Page, step: str) -> None:
    page.locator(f'[data-step="{step}"]').focus()


def test_steps_move_branch_and_go_by_keyboard_and_undo_takes_all_of_it_back(draft: Page) -> None:
    before = names(draft)
    row(draft, "cycles")
    draft.keyboard.press("Alt+ArrowUp")
    expect(
        draft.locator('[aria-label="Put right: Run three full cycles, record peak current"]')
    ).to_be_visible()
    draft.keyboard.press("Alt+ArrowRight")
    expect(draft.locator('[data-step="cycles"] .stem-text')).to_have_attribute("style", re.compile("26px"))
    draft.keyboard.press("Alt+ArrowLeft")
    expect(draft.locator('[data-step="cycles"] .stem-text')).to_have_attribute("style", re.compile(" 0|: 0"))
    row(draft, "debris")
    draft.keyboard.press("Delete")
    expect(draft.locator('[data-step="debris"]')).to_have_count(0)
    for _ in range(4):
        draft.keyboard.press("Control+z")
    expect(draft.get_by_role("button", name="Undo")).to_be_disabled()
    expect(draft.locator('[data-step="debris"]')).to_have_count(1)
    assert names(draft) == before
    draft.keyboard.press("Control+Shift+z")
    expect(
        draft.locator('[aria-label="Put right: Run three full cycles, record peak current"]')
    ).to_be_visible()


def test_j_and_k_walk_and_enter_opens(draft: Page) -> None:
    row(draft, "plate")
    draft.keyboard.press("j")
    expect(draft.locator('[data-step="isolate"]')).to_be_focused()
    draft.keyboard.press("k")
    draft.keyboard.press("Enter")
    expect(draft.get_by_role("button", name="Close “Confirm asset by its plate”")).to_be_visible()


def test_a_step_is_dragged_to_its_place(draft: Page) -> None:
    expect(draft.locator(".facts .taken")).to_be_visible()
    draft.wait_for_load_state("networkidle")
    grip = draft.locator('[data-step="pressure"] .grip').bounding_box()
    target = draft.locator('[data-step="isolate"]').bounding_box()
    assert grip
    assert target
    draft.mouse.move(grip["x"] + 6, grip["y"] + 8)
    draft.mouse.down()
    draft.mouse.move(target["x"] + 300, target["y"] + 60, steps=12)
    draft.mouse.move(target["x"] + 300, target["y"] + 12, steps=6)
    draft.mouse.up()
    expect(draft.locator('[aria-label="Make safe: Read hydraulic pressure at stall"]')).to_be_visible()


def test_the_roll_up_follows_the_minutes_at_once(draft: Page) -> None:
    planned = draft.locator(".facts .planned")
    expect(planned).to_have_text("1 h 30")
    field = draft.get_by_label("Minutes planned for “Isolate and lock rake drive”")
    field.fill("40")
    field.press("Enter")
    expect(planned).to_have_text("1 h 55")
    expect(draft.get_by_role("status").filter(has_text="Saved")).to_be_visible()
    draft.reload()
    expect(draft.locator(".facts .planned")).to_have_text("1 h 55")


def test_a_check_names_the_step_and_leads_to_it(draft: Page) -> None:
    row(draft, "isolate")
    draft.keyboard.press("n")
    draft.keyboard.press("Escape")
    checks = draft.get_by_role("region", name="Checks")
    expect(checks).to_contain_text("Step 3 has no text. Say what to do, verb first.")
    draft.get_by_role("button", name="Send for review").click()
    draft.get_by_role("button", name="Send for review now").click()
    expect(
        draft.get_by_text("IT-001: Step 3 has no text. Mend what the checks name, then send it.")
    ).to_be_visible()


def test_a_condition_is_built_from_menus_and_reads_as_a_sentence(draft: Page) -> None:
    draft.get_by_role("button", name="Edit “Clear debris and free the tines”").click()
    draft.get_by_role("combobox", name="Depend on an earlier answer").click()
    draft.get_by_role("option", name=re.compile("^Pressure")).click()
    sub = draft.locator('[data-step="clear"] .stem-sub')
    expect(sub).to_contain_text("when debris found is yes and pressure is below 90 bar")
    draft.get_by_role("combobox", name="Joined by").click()
    draft.get_by_role("option", name="or", exact=True).click()
    expect(sub).to_contain_text("when debris found is yes or pressure is below 90 bar")


def test_two_people_on_one_draft_cannot_overwrite_each_other_unseen(
    draft: Page, sign_in_as: SignInAs
) -> None:
    oda = sign_in_as("Oda Fennimore", "/author/IT-001")
    theirs = oda.get_by_label("Minutes planned for “Isolate and lock rake drive”")
    theirs.fill("14")
    theirs.press("Enter")
    expect(oda.get_by_role("status").filter(has_text="Saved")).to_be_visible()

    mine = draft.get_by_label("Minutes planned for “Confirm asset by its plate”")
    mine.fill("7")
    mine.press("Enter")
    clash = draft.get_by_role("alert")
    expect(clash).to_contain_text(
        "Oda Fennimore saved meanwhile: changed minutes of “Isolate and lock rake drive”"
    )
    expect(draft.get_by_label("Minutes planned for “Isolate and lock rake drive”")).to_have_value("14")
    draft.get_by_role("button", name="Make my change again").click()
    expect(clash).to_have_count(0)
    expect(mine).to_have_value("7")
    expect(draft.get_by_role("status").filter(has_text="Saved")).to_be_visible()
    draft.reload()
    expect(draft.get_by_label("Minutes planned for “Confirm asset by its plate”")).to_have_value("7")
    expect(draft.get_by_label("Minutes planned for “Isolate and lock rake drive”")).to_have_value("14")


def test_a_planner_reads_the_plan_and_changes_nothing(draft: Page, sign_in_as: SignInAs) -> None:
    marek = sign_in_as("Marek Tilse", "/author/IT-001")
    expect(marek.locator(STEPS)).to_have_count(10)
    expect(marek.get_by_role("button", name="Send for review")).to_have_count(0)
    expect(marek.get_by_label("Minutes planned for “Isolate and lock rake drive”")).to_have_count(0)


def test_find_opens_with_a_slash_and_goes_there(draft: Page) -> None:
    draft.locator("body").press("/")
    draft.get_by_placeholder("Incident type, form, order, asset").fill("frozen")
    draft.get_by_role("button", name=re.compile("Level reading frozen")).first.click()
    expect(draft.get_by_role("heading", name="Level reading frozen")).to_be_visible()


def test_g_then_a_letter_goes_to_a_verb(draft: Page) -> None:
    draft.locator("body").press("g")
    draft.locator("body").press("v")
    expect(draft.get_by_role("heading", name=re.compile("^To read"))).to_be_visible()


def test_the_preview_runs_to_the_end_answer_by_answer(draft: Page) -> None:
    preview = draft.get_by_role("region", name="Pocket preview")
    forward = preview.get_by_role("button", name="Next")

    def photo() -> None:
        preview.get_by_role("button", name=re.compile("Take photo")).click()
        forward.click()

    photo()
    preview.get_by_label("Permit number").fill("P-1")
    preview.get_by_label("Permit number").blur()
    photo()
    preview.get_by_label("Pressure in bar").fill("100")
    forward.click()
    expect(preview.get_by_role("heading", name="Look for debris behind the tines")).to_be_visible()
    preview.get_by_role("button", name="Debris found: yes").click()
    expect(preview.get_by_text("“Clear debris and free the tines” is added, about 25 min.")).to_be_visible()
    forward.click()
    photo()
    preview.get_by_label("Peak current in A").fill("11,5")
    expect(preview.get_by_text("11.5 A is above 11.2 A.")).to_be_visible()
    forward.click()
    preview.get_by_role("button", name="Done").click()
    forward.click()
    expect(preview.get_by_text("7 steps done, 1 finding raised.")).to_be_visible()


def test_a_step_nobody_can_reach_is_named_and_mended_with_one_press(draft: Page) -> None:
    checks = draft.get_by_role("region", name="Checks")
    expect(checks).to_contain_text("No problems found")
    draft.get_by_role("button", name="Edit “Check relief valve seat”").click()
    draft.get_by_role("combobox", name="Depend on an earlier answer").click()
    draft.get_by_role("option", name=re.compile("^Pressure")).click()
    draft.get_by_role("combobox", name="Comparison").nth(1).click()
    draft.get_by_role("option", name="is above").click()
    draft.get_by_label("Value", exact=True).nth(1).fill("120")
    draft.get_by_label("Value", exact=True).nth(1).blur()
    expect(checks).to_contain_text(
        "“Check relief valve seat” can never be asked: it needs both that pressure is below 90 bar "
        "and that pressure is above 120 bar."
    )
    checks.get_by_role("button", name="Remove the step").first.click()
    expect(draft.locator('[data-step="valve"]')).to_have_count(0)
    draft.keyboard.press("Control+z")
    expect(draft.locator('[data-step="valve"]')).to_have_count(1)


def test_a_witness_is_put_into_the_preview(draft: Page) -> None:
    draft.get_by_role("button", name="Edit “Run three full cycles, record peak current”").click()
    draft.get_by_role("combobox", name="Depend on an earlier answer").click()
    draft.get_by_role("option", name=re.compile("^Debris found")).click()
    checks = draft.get_by_role("region", name="Checks")
    expect(checks).to_contain_text("A job can end without any Prove step being asked.")
    checks.get_by_role("button", name="See it in the preview").click()
    preview = draft.get_by_role("region", name="Pocket preview")
    expect(preview.get_by_role("button", name="Start again")).to_be_visible()
    preview.get_by_role("button", name="Next").click()
    expect(preview.get_by_label("Permit number")).not_to_have_value("")


def test_pasted_lines_become_steps_below_the_chosen_one(draft: Page) -> None:
    row(draft, "isolate")
    draft.get_by_role("button", name="Paste lines").click()
    draft.get_by_label("One step a line").fill("1. Drain the sump\n2. Look for weed\n\n3. Wash the tines")
    draft.get_by_role("button", name="Add as steps").click()
    expect(draft.locator(STEPS)).to_have_count(13)
    expect(draft.locator('[aria-label="Make safe: Look for weed"]')).to_be_visible()
    draft.keyboard.press("Control+z")
    expect(draft.locator(STEPS)).to_have_count(10)


def test_fill_for_me_walks_one_way_through_after_another(draft: Page) -> None:
    preview = draft.get_by_role("region", name="Pocket preview")
    fill = preview.get_by_role("button", name=re.compile("^Fill for me"))
    fill.click()
    expect(fill).to_have_text(re.compile(r"Fill for me, 1 of \d"))
    ways = int((fill.text_content() or "").rsplit(" ", 1)[1])
    met: set[str] = set()
    for way in range(ways):
        if way:
            fill.click()
            expect(fill).to_have_text(f"Fill for me, {way + 1} of {ways}")
        while preview.get_by_text("The run ends here").count() == 0:
            heading = preview.get_by_role("heading", level=2).nth(1).text_content() or ""
            met.add(heading)
            preview.get_by_role("button", name="Next").click()
            expect(preview.get_by_role("heading", level=2).nth(1)).not_to_have_text(heading)
    assert len(met) == 10


def test_an_incident_type_is_renamed_where_its_title_stands(draft: Page) -> None:
    draft.get_by_role("button", name="Title: Rake stalls under load. Edit").click()
    draft.get_by_label("Title", exact=True).fill("Rake stalls on the way up")
    draft.keyboard.press("Enter")
    shelf = draft.get_by_role("navigation", name="Incident types")
    expect(shelf.get_by_role("link", name="Rake stalls on the way up")).to_be_visible()
    draft.reload()
    expect(draft.get_by_role("heading", name="Rake stalls on the way up")).to_be_visible()


def slowed(page: Page, times: int) -> None:
    """The browser's processor so many times slower."""
    page.context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": times})


def test_on_a_slow_machine_a_key_changes_the_row_that_it_was_pressed_on(draft: Page) -> None:
    """Saves are still on their way when the next row has the focus; their answers do not take it back."""
    slowed(draft, 6)
    draft.get_by_role("button", name="Edit “Look for debris behind the tines”").click()
    draft.get_by_label("Detail, for the one who wants to know how").fill("Shine a light between the tines.")
    draft.get_by_role("button", name="Close “Look for debris behind the tines”").click()
    row(draft, "clear")
    draft.keyboard.press("Alt+ArrowUp")
    row(draft, "other")
    expect(draft.locator(STEPS).nth(5)).to_have_attribute("data-step", "clear")
    draft.keyboard.press("Alt+ArrowRight")
    indented = re.compile("26px")
    expect(draft.locator('[data-step="other"] .stem-text')).to_have_attribute("style", indented)
    expect(draft.locator('[data-step="clear"] .stem-text')).not_to_have_attribute("style", indented)
    expect(draft.locator('[data-step="other"]')).to_be_focused()


def slowly_saved(page: Page) -> None:
    """Let every save take longer than it takes a person to choose the next thing."""

    def hold(route: Route) -> None:
        page.wait_for_timeout(700)
        route.continue_()

    page.route(
        "**/draft*", lambda route: hold(route) if route.request.method == "PATCH" else route.continue_()
    )


def test_what_is_chosen_before_the_last_choice_is_saved_is_not_lost(draft: Page) -> None:
    slowly_saved(draft)
    draft.get_by_role("button", name="Change").click()
    draft.get_by_role("option", name="Conveyor").click()
    draft.get_by_role("combobox", name="Model is one of").click()
    for model in ("HM 35", "HM 60"):
        draft.get_by_role("option", name=model).click()
    applies = draft.locator(".applies")
    expect(applies).to_contain_text("equipment is conveyor")
    expect(applies).to_contain_text("HM 35 or HM 60")


def test_a_step_is_repeated_once_for_each_thing_named(draft: Page) -> None:
    row(draft, "cycles")
    draft.keyboard.press("Enter")
    draft.get_by_role("button", name="Repeat it").click()
    draft.get_by_label("Each", exact=True).fill("rake")
    draft.get_by_label("Each", exact=True).press("Tab")
    draft.get_by_label("Names, with commas between").fill("upper, lower")
    draft.get_by_label("Names, with commas between").press("Tab")
    expect(draft.locator('[data-step="cycles"]')).to_contain_text("once per rake: upper, lower")
    draft.get_by_role("button", name="Once only").click()
    expect(draft.locator('[data-step="cycles"]')).not_to_contain_text("once per rake")


def test_a_finish_rule_that_nobody_can_meet_is_named_while_it_is_written(draft: Page) -> None:
    rules = draft.get_by_role("group", name="Before the job is finished")
    rules.get_by_role("button", name="Add a rule").click()
    says = rules.get_by_label("What rule 3 tells the technician")
    says.fill("Say how many photos you left out.")
    says.blur()
    needs = "The rule “Say how many photos you left out.” does not say what it needs."
    expect(draft.get_by_text(needs)).to_be_visible()
    own = rules.locator("#finish-2")
    own.get_by_role("combobox", name="What rule 3 needs").click()
    draft.get_by_role("option", name="the number of notes, known when it ends").click()
    own.get_by_role("combobox", name="Comparison").click()
    draft.get_by_role("option", name="is below").click()
    own.get_by_label("Value").fill("0")
    own.get_by_label("Value").blur()
    expect(draft.get_by_text("it never comes about that the number of notes is below 0")).to_be_visible()
    own.get_by_label("Value").fill("2")
    own.get_by_label("Value").blur()
    expect(draft.get_by_text("it never comes about that")).to_have_count(0)
    expect(draft.get_by_text("No problems found.")).to_be_visible()
