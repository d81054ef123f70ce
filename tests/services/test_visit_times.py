"""Times of visits put right from the office: what was recorded stays, and time sheets and figures follow."""

from __future__ import annotations

from datetime import timedelta
from uuid import uuid4

import pytest

from reedling.core.runsheet.site_events import TimeCorrected
from reedling.errors import InvalidInput
from reedling.services.actions.submissions import submit_events
from reedling.services.actions.visit_times import correct_time
from reedling.services.context import Context
from reedling.services.views.completions import completion
from reedling.services.views.loose_records import all_loose
from reedling.services.views.orders import order_page
from reedling.services.views.pocket import own_order
from reedling.services.views.time_sheets import time_sheets
from tests.conftest import MAREK, RUNA, FakeClock
from tests.services.test_drafts_and_release import incident
from tests.services.test_orders_and_submissions import order, whole_job
from tests.services.test_summaries import check_against_a_recount

__all__ = ["incident", "order"]


def test_the_leaving_time_of_a_finished_job_is_corrected_and_all_figures_follow(
    context: Context, clock: FakeClock, order: str
) -> None:
    submit_events(context, RUNA, order, str(uuid4()), whole_job(context))
    clock.forward(hours=4)
    before = order_page(context, order)
    (visit,) = before.job.visits
    assert visit.left_at is not None
    later = visit.left_at + timedelta(minutes=25)
    correct_time(context, MAREK, order, 1, "left", later, "Shut the phone off before leaving")
    page = order_page(context, order)
    (after,) = page.job.visits
    assert after.left_at == later
    assert [(c.was, c.reason, c.by_office) for c in after.corrections] == [
        (visit.left_at, "Shut the phone off before leaving", True)
    ]
    assert page.line.state == before.line.state == "Finished"
    assert page.job.finished_at == later
    (sheet,) = time_sheets(context, later.date(), later.date())
    assert sheet.on_site == pytest.approx((before.job.visits[0].minutes_on_site or 0) + 25)
    assert sheet.days[0].lines[0].corrected
    with context.reading() as unit:
        kept = unit.orders.get(order)
    assert kept is not None
    assert kept.finished_at == later
    assert completion(context, order).page.job.visits == page.job.visits
    check_against_a_recount(context)
    assert own_order(context, order, RUNA).job.visits == page.job.visits


def test_what_cannot_be_is_refused_and_nothing_is_changed(
    context: Context, clock: FakeClock, order: str
) -> None:
    with pytest.raises(InvalidInput, match="there is no visit 1"):
        correct_time(context, MAREK, order, 1, "left", clock(), "Wrong")
    submit_events(context, RUNA, order, str(uuid4()), whole_job(context))
    held = order_page(context, order).job.visits
    assert held[0].arrived_at is not None
    for to, reason, words in (
        (held[0].arrived_at - timedelta(minutes=1), "Wrong", "run backwards"),
        (clock() + timedelta(days=2), "Wrong", "in the future"),
        (held[0].arrived_at, "  ", "say why"),
    ):
        with pytest.raises(InvalidInput, match=words):
            correct_time(context, MAREK, order, 1, "left", to, reason)
    assert order_page(context, order).job.visits == held
    check_against_a_recount(context)


def test_a_phone_cannot_speak_for_the_office(context: Context, order: str) -> None:
    *steps, _leaving = whole_job(context)
    submit_events(context, RUNA, order, str(uuid4()), steps)
    at = context.clock()
    said = TimeCorrected(at=at, visit=1, time="arrived", to=at, reason="Mine", by_office=True)
    told = submit_events(context, RUNA, order, str(uuid4()), [said])
    assert "others than the technician record this" in told.loose
    assert len(all_loose(context)) == 1
    assert order_page(context, order).job.visits[0].corrections == ()
