"""Parts from elsewhere and costs, through the services: who may do what, what comes down, what is kept."""

from __future__ import annotations

import csv
import io
from dataclasses import replace
from datetime import timedelta
from uuid import uuid4

import pytest

from reedling.core.guidance.catalogue import CostKind, Part, VanStock
from reedling.core.runsheet.events import FieldEvent, PartUsed
from reedling.core.runsheet.site_events import (
    CostRecorded,
    PartAsked,
    PartPickedUp,
    PartReceived,
    StepAdded,
)
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.actions.documents import create_document
from reedling.services.actions.orders import cancel_order, log_order, plan_visit
from reedling.services.actions.orders_by_hand import change_order
from reedling.services.actions.part_supplies import answer_part_ask, send_part
from reedling.services.actions.releases import release, send_for_review
from reedling.services.actions.submissions import submit_events
from reedling.services.context import Context
from reedling.services.shared.matched import OrderToMatch
from reedling.services.views.loose_records import all_loose
from reedling.services.views.orders import order_page
from reedling.services.views.part_supplies import asked_parts, part_holders
from reedling.services.views.pocket import own_day, own_order, standard_steps
from reedling.services.views.time_sheets import own_time_sheet, time_sheets, time_sheets_csv
from tests.conftest import INES, MAREK, ODA, RAKE, RUNA, TEO
from tests.services.test_drafts_and_release import incident
from tests.services.test_orders_and_submissions import whole_job

__all__ = ["incident"]


def send(context: Context, order: str, *events: FieldEvent) -> str:
    """What a device sends; what the job could not take in, in words."""
    return submit_events(context, RUNA, order, str(uuid4()), list(events)).loose


def ask(context: Context, **fields: object) -> PartAsked:
    made = PartAsked(at=context.clock(), record="ask", part="OIL-32", quantity=2, of=TEO.id)
    return replace(made, **fields)  # type: ignore[arg-type]


KINDS = (
    CostKind(code="DRIVING", name="Driving beyond the district", unit="km", rate=0.9),
    CostKind(code="FERRY", name="Ferry or toll"),
)


@pytest.fixture
def order(context: Context, incident: str) -> str:
    """An order planned for Runa, in a house with costs, vans, a standard step and a second thing at the site."""
    isolate = create_document(context, INES, "standard step", "Lock off the drive")
    for document in (incident, isolate):
        send_for_review(context, INES, document, "First")
        release(context, ODA, document)
    with context.writing() as unit:
        unit.register.put_asset(replace(RAKE, code="AS-2", name="Rake 2", serial="R2"))
        lists = unit.catalogues.get()
        carried = (
            VanStock(technician=RUNA.name, part="OIL-32", quantity=9),
            VanStock(technician=TEO.name, part="OIL-32", quantity=4),
            VanStock(technician=TEO.name, part="RV-SEAT", quantity=0),
        )
        oil = Part(code="OIL-32", name="Oil ISO 32", unit="l", price=6.2)
        unit.catalogues.replace(
            replace(lists, parts=(*lists.parts, oil), van_stock=carried, cost_kinds=KINDS)
        )
    made = log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="stalls"), "").id
    plan_visit(context, MAREK, made, "runa", context.clock() + timedelta(hours=1))
    return made


def test_a_colleague_is_asked_lets_it_go_and_it_is_used(context: Context, order: str) -> None:
    assert send(context, order, ask(context)) == ""
    assert asked_parts(context, RUNA) == ()
    (asked,) = asked_parts(context, TEO)
    assert (asked.amount, asked.person_name) == ("2 l Oil ISO 32", "Runa Ashdown")
    with pytest.raises(NotFound):
        answer_part_ask(context, RUNA, order, "ask", granted=True, text="")
    before = own_day(context, RUNA).orders[0].version
    answer_part_ask(context, TEO, order, "ask", granted=True, text="At the depot until four")
    assert own_day(context, RUNA).orders[0].version != before, "it comes down to who asked"
    assert asked_parts(context, TEO) == ()
    with pytest.raises(Conflict):
        answer_part_ask(context, TEO, order, "ask", granted=False, text="")
    supply = own_order(context, order, RUNA).job.supplies["ask"]
    assert (supply.state, supply.said) == ("granted", "At the depot until four")

    *steps, leaving = whole_job(context)
    at = context.clock()
    assert send(context, order, PartPickedUp(at=at, record="ask"), *steps) == ""
    used = PartUsed(at=at, part="OIL-32", quantity=1.5, supply="ask", charged=1)
    assert send(context, order, used) == ""
    assert "0.5 of it are left" in send(context, order, replace(used, quantity=1))
    assert len(all_loose(context)) == 1, "what is refused is kept beside the order"
    send(context, order, leaving)
    page = order_page(context, order)
    assert [(u.quantity, u.charged, u.supply) for u in page.job.parts if u.supply] == [(1.5, 1, "ask")]
    assert page.supplies[0].of_name == "Teo Larkin"


def test_a_part_sent_ahead_is_confirmed_before_it_is_used_and_changes_no_runsheet(
    context: Context, order: str
) -> None:
    send_part(context, MAREK, order, "RV-SEAT", 2, "With the keeper")
    change_order(context, MAREK, order, "added", "SS-001", "The motor was hot")
    (record,) = order_page(context, order).job.supplies
    *steps, _ = whole_job(context)
    send(context, order, *steps)
    at = context.clock()
    used = PartUsed(at=at, part="RV-SEAT", quantity=1, supply=record)
    assert "not confirmed yet" in send(context, order, used)
    assert all(u.supply is None for u in order_page(context, order).job.parts)
    send(context, order, PartReceived(at=at, record=record, quantity=1, text="One was missing"))
    send(context, order, used)
    page = order_page(context, order)
    assert [u.quantity for u in page.job.parts if u.supply == record] == [1]
    assert (page.supplies[0].supply.here, page.supplies[0].supply.said) == (1, "One was missing")


def test_what_cannot_be_sent_or_asked_for_is_refused(context: Context, order: str) -> None:
    with pytest.raises(InvalidInput) as told:
        send_part(context, MAREK, order, "NOTHING", 1, "")
    assert told.value.code == "events.unknown_code"
    with pytest.raises(InvalidInput):
        send_part(context, MAREK, order, "RV-SEAT", 0, "")
    for wrong in (
        ask(context, part="NOTHING"),
        ask(context, of=MAREK.id),
        ask(context, of="nobody"),
        ask(context, of=RUNA.id),
    ):
        assert "there is no" in send(context, order, wrong)
    cancel_order(context, MAREK, order, "Not needed")
    with pytest.raises(Conflict, match="nobody would use the part"):
        send_part(context, MAREK, order, "RV-SEAT", 1, "")


def test_costs_are_those_of_the_list_on_the_day_and_the_bill_follows(context: Context, order: str) -> None:
    kinds = order_page(context, order).run.runsheet.cost_kinds
    assert CostKind(code="DRIVING", name="Driving beyond the district", unit="km", rate=0.9) in kinds
    *steps, leaving = whole_job(context)
    at = context.clock()
    send(context, order, *steps)
    send(context, order, CostRecorded(at=at, record="a", cost="DRIVING", quantity=20))
    send(context, order, CostRecorded(at=at, record="b", cost="FERRY", quantity=2, rate=4.5, charged=1))
    send(context, order, leaving)
    costs = order_page(context, order).costs
    rows = {row.what: row for row in costs.rows}
    assert rows["Driving beyond the district"].charged_amount == pytest.approx(18)
    assert (rows["Ferry or toll"].amount, rows["Ferry or toll"].charged_amount) == (9, 4.5)
    assert costs.charged_amount == pytest.approx(sum(row.charged_amount for row in costs.rows))


def test_a_step_is_added_as_a_standard_step_on_other_equipment_of_the_site(
    context: Context, order: str
) -> None:
    steps, page = standard_steps(context), own_order(context, order, RUNA)
    assert [asset.name for asset in page.site_assets] == ["Rake 1", "Rake 2"]
    assert [(step.document, step.title) for step in steps] == [("SS-001", "Lock off the drive")]
    *before, _ = whole_job(context)
    send(context, order, *before)
    made = StepAdded(
        at=context.clock(),
        record="s",
        phase=steps[0].phase,
        text=steps[0].title,
        minutes=steps[0].minutes,
        standard=steps[0].document,
        asset="AS-2",
    )
    assert send(context, order, made) == ""
    assert order_page(context, order).job.beside.steps["s"].standard == steps[0].document
    for wrong in (replace(made, record="t", standard="WP-001"), replace(made, record="t", asset="no-asset")):
        assert "there is no" in send(context, order, wrong)


def test_holders_are_colleagues_who_carry_the_part(context: Context, order: str) -> None:
    assert order
    assert [(h.name, h.part, h.quantity) for h in part_holders(context, RUNA)] == [
        ("Teo Larkin", "OIL-32", 4)
    ]


def test_time_sheets_are_those_of_each_technician_and_the_sheet_has_a_row_a_visit(
    context: Context, order: str
) -> None:
    today = context.clock().date()
    assert time_sheets(context, today, today) == ()
    send(context, order, *whole_job(context))
    (sheet,) = time_sheets(context, today - timedelta(days=3), today)
    assert sheet.name == "Runa Ashdown"
    assert sheet.days == own_time_sheet(context, RUNA, 4)
    assert (sheet.on_site, sheet.travel) == (sheet.days[0].on_site, sheet.days[0].travel)
    (row,) = csv.DictReader(io.StringIO(time_sheets_csv(context, today, today)))
    assert (row["order"], row["technician"], row["on_site_min"]) == (order, sheet.name, "5")
    assert time_sheets(context, today + timedelta(days=1), today + timedelta(days=2)) == ()
    for first, last in ((today, today - timedelta(days=1)), (today - timedelta(days=62), today)):
        with pytest.raises(InvalidInput) as told:
            time_sheets(context, first, last)
        assert told.value.code == "time_sheets.days"
