"""What pages are made of: the shelf, an incident type's page, finding things, what waits, previews."""

from __future__ import annotations

from datetime import timedelta
from uuid import uuid4

import pytest

from reedling.core.runsheet.lines import always_minutes
from reedling.errors import InvalidInput, NotFound
from reedling.exchange.content import dump_value
from reedling.services.actions.documents import create_incident_type
from reedling.services.actions.drafts import patch_draft
from reedling.services.actions.orders import log_order, plan_visit
from reedling.services.actions.releases import release, send_for_review
from reedling.services.actions.submissions import submit_events
from reedling.services.context import Context
from reedling.services.shared.matched import OrderToMatch
from reedling.services.views.documents import plan_document
from reedling.services.views.library import export_library
from reedling.services.views.orders import orders_page, technicians
from reedling.services.views.pack_checks import check_library
from reedling.services.views.pocket import own_day
from reedling.services.views.previews import preview, preview_tours
from reedling.services.views.search import find_anything
from reedling.services.views.shelf import incident_type_page, shelf
from reedling.services.views.waiting import count_waiting
from tests.conftest import INES, MAREK, NOON, ODA, RUNA, TEO, FakeClock
from tests.plans import rake_plan, sheet_of
from tests.services.test_drafts_and_release import incident, released
from tests.services.test_orders_and_submissions import whole_job

__all__ = ["incident"]


def test_the_shelf_says_what_is_open_and_groups_by_equipment(context: Context, incident: str) -> None:
    create_incident_type(context, INES, "Anything odd", None)
    rows = {row.document: row for row in shelf(context)}
    assert {row.group for row in rows.values()} == {"Rake", "any equipment"}
    assert rows[incident].states == ("Draft",)
    send_for_review(context, INES, incident, "")
    assert {row.document: row.states for row in shelf(context)}[incident] == ("In review",)
    release(context, ODA, incident)
    assert {row.document: row.states for row in shelf(context)}[incident] == ()
    assert rows[incident].fixed_first_time.share is None


def test_the_page_follows_from_its_plan(context: Context, incident: str) -> None:
    page = incident_type_page(context, incident)
    plan = page.plans[0]
    assert page.totals == plan.totals
    assert [(v.depth, v.when) for v in plan.steps][2:4] == [
        (1, "pressure is below 90 bar"),
        (0, "seat is scored"),
    ]
    assert plan.steps[1].proof == "pressure in bar, want 90 to 120 bar"
    assert plan.defects == ()
    with pytest.raises(NotFound, match="there is no incident type WP-001"):
        incident_type_page(context, "WP-001")
    with pytest.raises(NotFound, match="there is no plan IT-001"):
        plan_document(context, "IT-001")


def test_what_waits_is_counted_beside_each_verb(context: Context, incident: str) -> None:
    assert count_waiting(context).author == 0
    send_for_review(context, INES, incident, "")
    assert count_waiting(context).author == 2
    release(context, ODA, incident)
    order = log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="stalls"), "").id
    assert (count_waiting(context).run, count_waiting(context).review) == (1, 0)
    plan_visit(context, MAREK, order, "runa", context.clock())
    submit_events(context, RUNA, order, str(uuid4()), whole_job(context))
    assert (count_waiting(context).run, count_waiting(context).review) == (0, 1)


def test_finding_takes_every_word_and_shows_technicians_only_their_own(
    context: Context, incident: str
) -> None:
    released(context, incident)
    order = log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="stalls"), "").id
    assert [f.kind for f in find_anything(context, INES, "rake")] == ["incident type", "order", "asset"]
    assert find_anything(context, INES, "rake nonsense") == ()
    assert [f.id for f in find_anything(context, INES, order.lower())] == [order]
    assert find_anything(context, RUNA, "rake") == ()
    plan_visit(context, MAREK, order, "runa", context.clock())
    assert [f.id for f in find_anything(context, RUNA, "rake")] == [order]


def test_a_technicians_orders_come_by_the_time_planned(
    context: Context, incident: str, clock: FakeClock
) -> None:
    released(context, incident)
    later, sooner, other = (
        log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="stalls"), "").id for _ in range(3)
    )
    plan_visit(context, MAREK, later, "runa", clock.now + timedelta(hours=5))
    plan_visit(context, MAREK, sooner, "runa", clock.now + timedelta(hours=1))
    plan_visit(context, MAREK, other, "teo", clock.now)
    assert [o.line.id for o in own_day(context, RUNA).orders] == [sooner, later]
    assert [o.line.id for o in own_day(context, TEO).orders] == [other]
    assert [o.id for o in orders_page(context, states=("Planned",)).rows] == [other, sooner, later]
    assert [p.id for p in technicians(context)] == ["runa", "teo"]


def test_planned_minutes_leave_out_what_hangs_on_an_answer() -> None:
    assert always_minutes(sheet_of(rake_plan())) == 32


def test_the_preview_drops_answers_the_draft_no_longer_asks_and_refuses_misfits(
    context: Context, incident: str
) -> None:
    run = preview(context, ["WP-001"], {"WP-001:bar": 84.0, "WP-001:gone": True}, [])
    assert set(run.consequences) == {"WP-001:bar"}
    with pytest.raises(InvalidInput, match="“Pressure” wants a number in bar, got 'low'"):
        preview(context, ["WP-001"], {"WP-001:bar": "low"}, [])
    with pytest.raises(NotFound, match="there is no plan WP-009"):
        preview(context, ["WP-009"], {}, [])


def test_the_tours_of_a_draft_carry_its_preview_to_the_end(context: Context, incident: str) -> None:
    ways = preview_tours(context, ["WP-001"])
    assert len(ways) >= 2
    for answers in ways:
        run = preview(
            context, ["WP-001"], answers, [line.id for line in sheet_of(rake_plan(), "WP-001").lines]
        )
        assert run.progress.next_line is None


def test_a_reading_beyond_its_instrument_is_refused(context: Context, incident: str) -> None:
    view = plan_document(context, "WP-001")
    question = {**dump_value(view.content)["steps"][1]["questions"][0], "lowest": 0, "highest": 250}
    patch_draft(
        context,
        INES,
        "WP-001",
        [{"op": "replace", "path": "/steps/1/questions/0", "value": question}],
        view.etag,
    )
    with pytest.raises(InvalidInput, match="wants a number in bar from 0 to 250, got 300"):
        preview(context, ["WP-001"], {"WP-001:bar": 300.0}, [])


def test_a_library_is_checked_without_a_database(context: Context, incident: str) -> None:
    assert check_library(export_library(context), NOON.date()) == ()
    view = plan_document(context, "WP-001")
    change = [{"op": "replace", "path": "/steps/4/text", "value": "Running it three times"}]
    patch_draft(context, INES, "WP-001", change, view.etag)
    assert [(p.code, p.path) for p in check_library(export_library(context), NOON.date())] == [
        ("steps.no_verb", "documents/WP-001/A.json#/content/steps/4/text")
    ]
