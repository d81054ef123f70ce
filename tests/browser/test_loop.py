"""Once round the whole loop, through the interface alone, by five people."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import SignInAs


def saved(page: Page) -> None:
    """Wait until the draft says it is saved."""
    expect(page.get_by_role("status").filter(has_text="Saved")).to_be_visible()


def choose(page: Page, label: str, option: str) -> None:
    """Pick an option from a list, by typing it."""
    page.get_by_role("combobox", name=label, exact=True).click()
    page.get_by_role("option", name=option).first.click()


def write_plan(page: Page) -> None:
    """An empty page becomes a plan with a reading, a branch with a part, and a proof."""
    page.get_by_role("button", name="New incident type").first.click()
    page.get_by_label("Title").fill("Conveyor stalls under load")
    choose(page, "Equipment", "Conveyor")
    page.get_by_role("button", name="Begin", exact=True).click()
    expect(page.get_by_role("heading", name="Conveyor stalls under load")).to_be_visible()

    page.get_by_role("button", name="First step").click()
    page.get_by_label("Step", exact=True).fill("Confirm conveyor by its plate")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="First step of Diagnose").click()
    page.get_by_label("Step", exact=True).fill("Measure belt slack")
    page.keyboard.press("Enter")
    saved(page)
    page.keyboard.press("Escape")
    page.locator('[aria-label="Diagnose: Measure belt slack"]').focus()
    page.keyboard.press("n")
    page.get_by_label("Step", exact=True).fill("Tighten the belt")
    page.keyboard.press("Enter")
    expect(page.locator(".stem-row")).to_have_count(3)
    page.get_by_role("button", name="First step of Prove").click()
    page.get_by_label("Step", exact=True).fill("Run it loaded for five minutes")
    page.keyboard.press("Enter")
    expect(page.locator(".stem-row")).to_have_count(4)

    page.get_by_role("button", name="Edit “Measure belt slack”").click()
    choose(page, "Kind of question", "Reading")
    page.get_by_label("Question", exact=True).fill("Slack")
    page.get_by_label("Question", exact=True).blur()
    choose(page, "Unit", "mm")
    page.get_by_label("High", exact=True).fill("25")
    page.get_by_label("High", exact=True).blur()
    expect(page.locator(".stem-sub").filter(has_text="slack in mm, want 25 mm or less")).to_be_visible()
    page.get_by_role("button", name="Close", exact=True).first.click()

    page.locator('[aria-label="Diagnose: Tighten the belt"]').focus()
    page.keyboard.press("Alt+ArrowRight")
    expect(page.locator(".stem-sub").filter(has_text="when slack is above 25 mm")).to_be_visible()
    page.get_by_role("button", name="Edit “Tighten the belt”").click()
    choose(page, "Add a part", "Drive chain 12B")
    choose(page, "Add a skill", "Hydraulics")
    choose(page, "Add a tool", "Torque wrench")
    page.get_by_label(re.compile("How many: Torque wrench")).fill("2")
    page.get_by_label(re.compile("How many: Torque wrench")).blur()
    totals = page.get_by_label("What it adds up to").get_by_role("listitem")
    expect(totals.filter(has_text="Parts")).to_contain_text("0 sure, 1 likely")
    expect(totals.filter(has_text="Tools")).to_contain_text("0 sure, 1 likely")
    page.get_by_role("button", name="Close", exact=True).first.click()

    page.get_by_role("button", name="Edit “Confirm conveyor by its plate”").click()
    choose(page, "Kind of question", "Photo")
    page.get_by_label("Photo of").fill("Nameplate")
    page.get_by_label("Photo of").blur()
    expect(page.locator(".stem-sub").filter(has_text="photo of nameplate")).to_be_visible()
    page.get_by_role("button", name="Close", exact=True).first.click()

    page.get_by_role("button", name="Change").click()
    choose(page, "Equipment is a", "Conveyor")
    choose(page, "Symptom is one of", "Stalls")
    page.keyboard.press("Escape")
    expect(
        page.get_by_text("Applies by itself when equipment is conveyor, model is any, symptom is stalls.")
    ).to_be_visible()


def run_preview(page: Page) -> None:
    """The preview shows the branch as soon as the reading asks for it."""
    preview = page.get_by_role("region", name="Pocket preview")
    page.locator('[aria-label="Diagnose: Measure belt slack"]').focus()
    preview.get_by_label("Slack in mm").fill("31")
    expect(
        preview.get_by_text("31 mm is above 25 mm. “Tighten the belt” is added, about 5 min.")
    ).to_be_visible()


def send(page: Page, note: str) -> None:
    page.get_by_role("button", name="Send for review").click()
    page.get_by_label("What changed, for the one who reads it").fill(note)
    page.get_by_role("button", name="Send for review now").click()
    expect(page.get_by_text("Waits for a second person.")).to_be_visible()


def log_order(page: Page) -> str:
    """Log an order for the conveyor; its identity."""
    page.goto("/run")
    page.get_by_role("button", name="Log an order").click()
    page.get_by_role("combobox", name="Asset").fill("Screen conveyor")
    page.get_by_role("option", name=re.compile("Screen conveyor")).first.click()
    choose(page, "Symptom", "Stalls")
    expect(page.get_by_text("It applies: equipment conveyor, symptom stalls.")).to_be_visible()
    page.get_by_role("button", name="Log it").click()
    expect(page.get_by_text("Runsheet, frozen when the order was logged")).to_be_visible()
    return page.url.rsplit("/", 1)[1]


def carry_out(page: Page) -> None:
    """The technician's job, with a reading out of limits, a photo, a part, cause and remedy."""
    page.get_by_role("button", name="Stalls: Screen conveyor").first.click()
    page.get_by_role("button", name="Head out").click()
    page.get_by_role("button", name="I have arrived").click()
    expect(page.get_by_text("Arrive, step 1 of")).to_be_visible()
    page.get_by_role("button", name="Take photo").click()
    expect(page.get_by_role("img", name="Nameplate")).to_be_visible()
    page.get_by_role("button", name="Next").click()

    page.get_by_label("Slack in mm").fill("31")
    consequence = page.get_by_text("31 mm is above 25 mm. “Tighten the belt” is added, about 5 min.")
    expect(consequence).to_be_visible()
    page.get_by_role("button", name="Next").click()

    expect(page.get_by_role("heading", name="Tighten the belt")).to_be_visible()
    expect(
        page.get_by_text("Takes 1 m Drive chain 12B. Done with 2 × Torque wrench, 20 to 120 N·m.")
    ).to_be_visible()
    page.get_by_role("button", name="Done").click()
    page.get_by_role("button", name="More").click()
    choose(page, "Part", "Drive chain 12B")
    page.get_by_role("button", name="Record part").click()
    for heading in (
        "Tighten the belt",
        "Run it loaded for five minutes",
        "Take waste and tools back to the van",
    ):
        expect(page.get_by_role("heading", name=heading)).to_be_visible()
        done = page.get_by_role("button", name=re.compile("Done"))
        if done.get_attribute("aria-pressed") != "true":
            done.click()
        page.get_by_role("button", name="Next").click()
    page.get_by_role("button", name="Control told: yes").click()
    page.get_by_role("button", name="Next").click()

    choose(page, "Cause found", "Worn chain")
    choose(page, "Remedy", "Part replaced")
    page.get_by_role("button", name="Finish the job").click()
    expect(page.get_by_text("This job is finished. Thank you.")).to_be_visible()


def test_once_round_the_loop(sign_in_as: SignInAs) -> None:
    ines = sign_in_as("Ines Varga", "/author")
    write_plan(ines)
    run_preview(ines)
    send(ines, "First writing")
    incident = re.search(r"IT-\d+", ines.url)
    assert incident

    oda = sign_in_as("Oda Fennimore", f"/author/{incident[0]}")
    oda.get_by_role("button", name="Release", exact=True).click()
    oda.get_by_role("button", name="Release now").click()
    expect(oda.get_by_role("button", name="Begin revision B")).to_be_visible()

    oda.goto("/match")
    oda.get_by_role("combobox", name="Asset").fill("Screen conveyor")
    oda.get_by_role("option", name=re.compile("Screen conveyor")).first.click()
    choose(oda, "Symptom", "Stalls")
    expect(oda.get_by_text("It applies: equipment conveyor, symptom stalls.")).to_be_visible()
    expect(
        oda.get_by_text("One cell away: equipment is conveyor, the row wants weed-screen rake.").first
    ).to_be_visible()

    marek = sign_in_as("Marek Tilse")
    kept_open = log_order(marek)
    worked = log_order(marek)
    expect(marek.get_by_text("Takes 1 m Drive chain 12B. Done with 2 × Torque wrench")).to_be_visible()
    choose(marek, "Technician", "Runa Ashdown")
    marek.get_by_role("button", name="Plan the visit").click()
    expect(marek.get_by_text(f"{worked} is planned.")).to_be_visible()

    runa = sign_in_as("Runa Ashdown", phone=True)
    carry_out(runa)

    ines.goto("/review")
    ines.get_by_role("link", name=worked).click()
    differed = ines.get_by_role("complementary", name="What differed from the plan")
    expect(differed.get_by_text("Slack: 31 mm is above 25 mm.")).to_be_visible()
    expect(ines.get_by_text("Worn chain")).to_be_visible()
    expect(ines.get_by_role("img", name="Nameplate, as taken on site")).to_be_visible()
    ines.get_by_role("button", name="Mark as read").click()
    expect(ines.get_by_role("link", name=worked)).to_have_count(0)

    ines.goto(f"/review/{incident[0]}?")
    expect(ines.get_by_text("1 too young")).to_be_visible()
    ines.get_by_role("button", name="Measure belt slack").click()
    expect(ines.get_by_role("heading", name="“Measure belt slack”: 1 job")).to_be_visible()
    ines.get_by_role("button", name="Draft revision B").click()
    field = ines.get_by_label("Minutes planned for “Measure belt slack”")
    field.fill("12")
    field.press("Enter")
    saved(ines)
    send(ines, "Slack takes longer than planned")

    oda.goto(f"/author/{incident[0]}")
    oda.get_by_role("button", name="Release", exact=True).click()
    oda.get_by_role("button", name="Release now").click()
    expect(oda.get_by_role("button", name="Begin revision C")).to_be_visible()

    later = log_order(marek)
    plan = marek.get_by_text(re.compile(r"^WP-\d+ B$")).first
    expect(plan).to_be_visible()
    identity = plan.inner_text().split()[0]
    marek.goto(f"/run/{kept_open}")
    expect(marek.get_by_text(re.compile(r"^WP-\d+ A$")).first).to_be_visible()
    expect(marek.get_by_text(f"{identity} B", exact=True)).to_have_count(0)
    assert later != kept_open

    oda.goto("/refine")
    oda.get_by_role("link", name="Compare A and B").first.click()
    row = oda.get_by_role("row").filter(has_text="minutes of “Measure belt slack”")
    if row.count() == 0:
        oda.goto(f"/refine/{incident[0]}/{identity}?older=A&newer=B")
    expect(row).to_contain_text("5 min")
    expect(row).to_contain_text("12 min")
    expect(oda.get_by_text("Too few to say: 10 jobs a side are wanted")).to_be_visible()
