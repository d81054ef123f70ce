"""From the desk to a draft: what waits, all jobs together, what the evidence suggests, and the pile to read."""

from __future__ import annotations

import re
from pathlib import Path
from xml.etree import ElementTree

from PIL import Image
from playwright.sync_api import expect

from reedling.core.evidence.jobs import WantedJobs
from reedling.store.job_tables import JobOutOfTurnRow
from reedling.wiring import open_context
from tests.browser.conftest import SignInAs
from tests.browser.test_author import row
from tests.browser.test_views import serious


def test_from_the_desk_a_proposal_is_followed_to_its_jobs_and_into_a_draft(sign_in_as: SignInAs) -> None:
    """As somebody new would: from the desk, to what the evidence says of the slow step, to the changed draft."""
    page = sign_in_as("Ines Varga")
    expect(page.get_by_role("heading", name="Ines's desk")).to_be_visible()
    page.get_by_role("link", name="“Read hydraulic pressure at stall” takes longer").click()
    proposal = page.get_by_role("article").filter(has_text="Read hydraulic pressure at stall")
    proposal.get_by_role("button", name=re.compile("Why, and")).click()
    expect(proposal.get_by_text("leaves out the minutes planned")).to_be_visible()
    expect(proposal.get_by_role("link", name=re.compile("WO-"))).not_to_have_count(0)
    proposal.get_by_role("button", name="Draft it").click()
    expect(page.get_by_role("heading", name="Rake stalls under load").first).to_be_visible()
    expect(page.get_by_role("button", name="Send for review")).to_be_visible()
    page.goto("/refine")
    expect(page.get_by_role("heading", name="What became of those taken")).to_be_visible()
    expect(page.get_by_text("Not released yet.")).to_be_visible()
    page.get_by_role("button", name="Show 1 decided proposal").click()
    expect(page.get_by_text("Drafted in revision C")).to_be_visible()


def test_a_proposal_is_declined_with_a_reason_and_opened_again(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/refine")
    proposal = page.get_by_role("article").filter(has_text="Ask the keeper when it tripped")
    proposal.get_by_role("button", name="Decline").click()
    refuse = proposal.get_by_role("button", name="Decline it")
    expect(refuse).to_be_disabled()
    proposal.get_by_label("Why it is declined").fill("Keepers are hard to reach this summer.")
    refuse.click()
    expect(proposal).to_have_count(0)
    page.get_by_role("button", name=re.compile("Show 1 decided")).click()
    expect(proposal.get_by_text("Keepers are hard to reach this summer.")).to_be_visible()
    proposal.get_by_role("button", name="Open it again").click()
    expect(proposal.get_by_role("button", name="Draft it")).to_be_visible()


def test_a_planner_reads_proposals_and_decides_nothing(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Marek Tilse", "/refine")
    expect(page.get_by_text("takes longer than the 10 min planned")).to_be_visible()
    expect(page.get_by_role("button", name="Draft it")).to_have_count(0)


def test_choosing_a_bar_narrows_all_else_and_lives_in_the_address(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/review/IT-001")
    page.get_by_role("link", name="All jobs together").click()
    expect(page.get_by_role("heading", name="Rake stalls under load: all jobs together")).to_be_visible()
    model = page.get_by_role("region", name="Model")
    bar = model.get_by_role("button", name="WR 3")
    n = bar.locator(".facet-n").inner_text()
    bar.click()
    expect(page.get_by_text(re.compile(rf"{n} jobs? of ")).first).to_be_visible()
    expect(bar).to_have_attribute("aria-pressed", "true")
    expect(model.get_by_role("button")).to_have_count(2)
    assert "model=WR3" in page.url
    page.reload()
    expect(page.get_by_text(re.compile(rf"{n} jobs? of ")).first).to_be_visible()
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save as CSV").click()
    rows = saved.value.path().read_text("utf-8").splitlines()
    assert len(rows) == 1 + int(n)
    page.get_by_role("button", name="Take off 1 choice").click()
    expect(bar).to_have_attribute("aria-pressed", "false")
    expect(page.get_by_role("img", name=re.compile("came back within 30 days"))).to_be_visible()
    expect(page.get_by_role("heading", name="Readings in time")).to_be_visible()


def test_what_has_nothing_unusual_is_marked_as_read_together(sign_in_as: SignInAs) -> None:
    page = sign_in_as("Ines Varga", "/review")
    rows = page.locator("table.rows tbody tr")
    expect(rows.first).to_contain_text("out of limit")
    before = rows.count()
    button = page.get_by_role("button", name=re.compile(r"Mark \d+ with nothing unusual"))
    n = int(re.findall(r"\d+", button.inner_text())[0])
    button.click()
    expect(rows).to_have_count(before - n)
    expect(button).to_have_count(0)


def test_a_draft_of_a_table_is_replayed_on_past_jobs(sign_in_as: SignInAs) -> None:
    ines = sign_in_as("Ines Varga", "/match/tables/DT-001")
    ines.get_by_role("link", name="Replay the draft on past jobs").click()
    expect(ines.get_by_role("heading", name="Where the minutes change")).to_be_visible(timeout=30_000)
    expect(ines.get_by_text("Those that would get the same change by nothing.")).to_be_visible()
    assert serious(ines) == []
    ines.get_by_role("link", name="DT-001").click()
    expect(ines.get_by_role("button", name=re.compile("^Who would notice"))).to_be_visible()


def test_a_draft_is_replayed_on_past_jobs(sign_in_as: SignInAs) -> None:
    ines = sign_in_as("Ines Varga", "/refine")
    proposal = ines.get_by_role("article").filter(has_text="Read hydraulic pressure at stall")
    proposal.get_by_role("button", name="Draft it").click()
    ines.get_by_role("link", name="Replay the draft on past jobs").click()
    # Another figure of the author's changes nothing of what jobs take.
    expect(ines.get_by_text("The draft changes no minutes of the last")).to_be_visible(timeout=30_000)
    ines.goto("/author/IT-001?plan=WP-001&step=handover")
    ines.get_by_role("button", name="Send for review").wait_for()
    row(ines, "handover")
    with ines.expect_response(re.compile("/documents/WP-001/")):
        ines.keyboard.press("Delete")
    expect(ines.locator('[data-step="handover"]')).to_have_count(0)
    ines.get_by_role("link", name="Replay the draft on past jobs").click()
    expect(ines.get_by_text("The draft would have saved")).to_be_visible(timeout=30_000)
    steps = ines.get_by_label("Where the minutes change")
    expect(steps.get_by_text("not in the draft")).to_be_visible()
    assert serious(ines) == []
    jobs = ines.get_by_label("Jobs that change most").get_by_role("link")
    expect(jobs).to_have_count(5)
    jobs.first.click()
    expect(ines.get_by_text("What differed from the plan").first).to_be_visible()


def test_a_view_is_kept_by_name_and_jobs_are_compared_with_it(sign_in_as: SignInAs) -> None:
    ines = sign_in_as("Ines Varga", "/review/IT-001/together?model=WR3")
    ines.get_by_role("button", name="Keep this view").click()
    ines.get_by_label("Name of the view").fill("Newer rakes")
    ines.get_by_role("button", name="Keep it").click()
    kept = ines.get_by_role("region", name="Kept views")
    expect(kept.get_by_role("link", name="Newer rakes")).to_be_visible()
    ines.get_by_role("button", name="Take off 1 choice").click()
    ines.get_by_role("button", name=re.compile("^WR 2")).click()
    compared = ines.get_by_role("region", name="Compared")
    compared.get_by_role("combobox", name="Against").click()
    ines.get_by_role("option", name="Newer rakes").click()
    minutes = compared.get_by_role("row").filter(has_text="Minutes on site")
    expect(minutes).to_contain_text(re.compile(r"\d+ jobs alike.*\((−?\d+) to (−?\d+)|too few to say"))
    expect(compared.get_by_role("row")).to_have_count(6)
    expect(compared.get_by_text("Jobs of the same symptom and cause are compared")).to_be_visible()
    assert serious(ines) == []
    here = ines.url
    ines.goto(here)
    expect(compared.get_by_role("columnheader", name="“Newer rakes”")).to_be_visible()
    kept.get_by_role("link", name="Newer rakes").click()
    expect(ines).to_have_url(re.compile(r"together\?model=WR3$"))
    with ines.expect_download() as download:
        ines.get_by_role("link", name="Save as event log").click()
    assert download.value.suggested_filename == "IT-001-jobs.xes"
    kept.get_by_role("button", name="Let the view Newer rakes go").click()
    expect(kept.get_by_role("link", name="Newer rakes")).to_be_hidden()


def test_a_plot_is_saved_as_a_drawing_and_as_a_picture(sign_in_as: SignInAs) -> None:
    """What is saved stands by itself: no style sheet, the same colours, in SVG 1.1 and PNG."""
    page = sign_in_as("Ines Varga", "/review/IT-001/together")
    figure = page.locator("figure").filter(has=page.get_by_role("heading", name="Back again"))
    plot = figure.locator("svg[role='img']")
    width, height = (float(x) for x in (plot.get_attribute("viewBox") or "").split()[2:])
    with page.expect_download() as saving:
        figure.get_by_role("button", name="SVG").click()
    assert saving.value.suggested_filename == "back again.svg"
    drawing = Path(saving.value.path()).read_text("utf-8")
    root = ElementTree.fromstring(drawing)
    assert root.tag == "{http://www.w3.org/2000/svg}svg"
    assert (float(root.attrib["width"]), float(root.attrib["height"])) == (width, height)
    assert "var(" not in drawing
    assert "class=" not in drawing
    strokes = {element.attrib.get("stroke") for element in root.iter() if "stroke" in element.attrib}
    assert len({stroke for stroke in strokes if stroke and stroke.startswith("rgb")}) >= 2
    with page.expect_download() as saving:
        figure.get_by_role("button", name="PNG").click()
    assert saving.value.suggested_filename == "back again.png"
    with Image.open(saving.value.path()) as picture:
        assert picture.size == (2 * width, 2 * height)
        assert len(picture.convert("RGB").getcolors(maxcolors=1 << 20) or ()) > 4
    assert serious(page) == []


def test_the_technician_is_asked_about_a_job_and_answers_from_the_phone(sign_in_as: SignInAs) -> None:
    runa = sign_in_as("Runa Ashdown", phone=True)
    ines = sign_in_as("Ines Varga", "/desk")
    orders = ines.request.get("/api/v1/orders?state=Finished").json()["rows"]
    order = next(one["id"] for one in orders if one["technician_name"] == "Runa Ashdown")
    ines.goto(f"/review/jobs/{order}")
    asked = ines.get_by_role("region", name="Asked the technician")
    asked.get_by_role("textbox", name="Question to Runa Ashdown").fill("Which seal was it?")
    asked.get_by_role("button", name="Ask", exact=True).click()
    expect(asked.get_by_text("Runa Ashdown has not answered yet.")).to_be_visible()
    assert serious(ines) == []

    runa.reload()
    question = runa.get_by_role("article", name=f"About {order}")
    expect(question.get_by_text("Which seal was it?")).to_be_visible()
    answer = question.get_by_role("textbox", name="Your answer")
    answer.fill("The upper one.")
    runa.context.set_offline(True)
    question.get_by_role("button", name="Send the answer").click()
    expect(question.get_by_text("Your answer is not with the office.")).to_be_visible()
    expect(answer).to_have_value("The upper one.")
    runa.context.set_offline(False)
    runa.reload()
    expect(answer).to_have_value("The upper one.")
    assert serious(runa) == []
    question.get_by_role("button", name="Send the answer").click()
    expect(runa.get_by_role("region", name="The office asks")).to_have_count(0)

    ines.reload()
    expect(asked.get_by_text("The upper one.")).to_be_visible()
    ines.goto("/")
    expect(ines.get_by_role("link", name=re.compile("Runa Ashdown answers: The upper one."))).to_be_visible()


def test_a_word_that_callers_use_is_added_to_its_symptom(sign_in_as: SignInAs) -> None:
    marek = sign_in_as("Marek Tilse", "/run")
    for n in range(9):
        report = f"It judders {('at noon', 'and stands', 'on the way up')[n % 3]}"
        body = {"asset": "AS-101", "symptom": "stalls", "report": report}
        origin = {"origin": marek.url.removesuffix("/run")}
        assert marek.request.post("/api/v1/orders", data=body, headers=origin).status == 201
    ines = sign_in_as("Ines Varga", "/refine")
    card = (
        ines.locator("article").filter(has_text="Add a synonym: List of symptoms").filter(has_text="judders")
    )
    expect(card).to_contain_text("hardly of others: 100 % (70–100) of 9 orders with the word")
    card.get_by_role("button", name="Why, and 9 orders").click()
    expect(card.get_by_text("no symptom has it in its label or synonyms")).to_be_visible()
    card.get_by_role("button", name="Add it to the list").click()
    expect(ines).to_have_url(re.compile("/match/lists/symptoms$"))
    expect(ines.get_by_text("jams, stops half way, stuck, judders")).to_be_visible()
    ines.goto("/refine")
    expect(ines.get_by_text("In force; the evidence suggests it no more.")).to_be_visible()
    expect(card).to_have_count(0)


def test_what_customers_said_is_shown_with_its_tone_and_narrows_with_the_choices(
    sign_in_as: SignInAs,
) -> None:
    ines = sign_in_as("Ines Varga", "/review/IT-001/together")
    said = ines.get_by_role("region", name="What customers said")
    expect(said.get_by_text("Comments of poor tone")).to_be_visible()
    address = "/api/v1/incident-types/IT-001/jobs-together/customers"
    whole = ines.request.get(address).json()
    expect(said.get_by_text(f"{sum(whole['by_rating'])} of {whole['n_jobs']} jobs rated")).to_be_visible()
    first = whole["comments"][0]["words"]
    expect(said.get_by_role("row").nth(1)).to_contain_text(first["comment"])
    district = ines.request.get(f"/api/v1/orders/{first['order']}").json()["line"]["site"]["district"]
    ines.goto(f"/review/IT-001/together?district={district}")
    narrowed = ines.request.get(f"{address}?district={district}").json()
    assert narrowed["n_jobs"] < whole["n_jobs"]
    expect(said.get_by_text(f"of {narrowed['n_jobs']} jobs rated")).to_be_visible()
    assert serious(ines) == []


def test_where_jobs_went_astray_is_drawn_on_the_stem_and_opens_its_jobs(
    demo_dir: Path, sign_in_as: SignInAs, tmp_path: Path
) -> None:
    with open_context(demo_dir).store.writing() as unit:
        _, jobs = unit.job_figures.jobs(WantedJobs(incident_type="IT-001"), offset=0, limit=4)
        unit.session.add_all(
            JobOutOfTurnRow(order_id=job.order, line="WP-001:isolate", other="WP-001:plate", is_early=True)
            for job in jobs
        )
    page = sign_in_as("Ines Varga", "/review/IT-001")
    plot = page.get_by_role("figure").filter(has_text="Order kept")
    way = plot.get_by_role("button", name="“Isolate and lock rake drive” before “Confirm asset by its plate”")
    expect(plot).to_contain_text("in 4 of")
    way.click()
    behind = page.get_by_role("complementary", name="The jobs behind the figures")
    expect(behind.get_by_role("heading", level=2)).to_have_text("The 4 jobs")
    page.reload()
    expect(behind.get_by_role("link")).to_have_text([job.order for job in jobs])
    with page.expect_download() as saving:
        plot.get_by_role("button", name="SVG").click()
    drawing = tmp_path / "order.svg"
    saving.value.save_as(drawing)
    texts = [e.text for e in ElementTree.parse(drawing).iter() if e.tag.endswith("text")]
    assert "Isolate and lock rake drive" in texts
    behind.get_by_role("button", name="Show all").click()
    expect(behind.get_by_role("heading", level=2)).not_to_have_text("The 4 jobs")
