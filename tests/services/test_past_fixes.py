"""Past fixes of an order, at the desk and on the phone, and the mark that teaches."""

from __future__ import annotations

from pathlib import Path
from uuid import uuid4

import pytest

from reedling.core.runsheet.events import Arrived, Coded, FieldEvent, HeadedOut
from reedling.core.runsheet.site_events import FixMarked
from reedling.services.actions.submissions import submit_events
from reedling.services.context import Context
from reedling.services.views.past_fixes import past_fixes
from reedling.services.views.pocket import own_order
from reedling.wiring import open_context
from tests.conftest import RUNA
from tests.services.test_drafts_and_release import incident
from tests.services.test_orders_and_submissions import order, whole_job
from tests.services.test_summaries import check_against_a_recount

__all__ = ["incident", "order"]


@pytest.fixture
def demo(demo_dir: Path) -> Context:
    return open_context(demo_dir)


def test_an_open_order_has_the_fixes_of_jobs_like_it_and_a_closed_one_none(demo: Context) -> None:
    with demo.reading() as unit:
        stalled = next(h for h in unit.orders.headings(states=("Planned",)) if h.symptom == "stalls")
        closed = unit.orders.headings(states=("Finished",))[0]
        runa = unit.people.get("runa")
        codes = {job.fix.cause for job in unit.job_evidence.solved_jobs()}
    found = past_fixes(demo, stalled.id)
    assert found
    assert {fix.cause for fix in found} <= codes
    assert found[0].cause_label not in codes, "told in words"
    assert all(fix.n_jobs >= 1 and fix.jobs for fix in found)
    assert runa is not None
    assert own_order(demo, stalled.id, runa).past_fixes == found, "the phone takes them along"
    assert past_fixes(demo, closed.id) == ()


def test_a_mark_of_the_fix_that_was_coded_is_kept_with_the_job_and_counts_more(
    context: Context, order: str
) -> None:
    *steps, coded, leaving = whole_job(context)
    assert isinstance(coded, Coded)
    mark = FixMarked(at=context.clock(), cause=coded.cause, remedy=coded.remedy, helped=True)
    submit_events(context, RUNA, order, str(uuid4()), [*steps, mark, coded, leaving])
    with context.reading() as unit:
        (job,) = unit.job_evidence.solved_jobs()
    assert job.confirmed
    check_against_a_recount(context)


def test_a_mark_that_was_taken_back_confirms_nothing(context: Context, order: str) -> None:
    *steps, coded, leaving = whole_job(context)
    assert isinstance(coded, Coded)
    marks: list[FieldEvent] = [
        FixMarked(at=context.clock(), cause=coded.cause, remedy=coded.remedy, helped=helped)
        for helped in (True, False)
    ]
    receipt = submit_events(context, RUNA, order, str(uuid4()), [*steps, *marks, coded, leaving])
    assert receipt.loose == ""
    with context.reading() as unit:
        (job,) = unit.job_evidence.solved_jobs()
    assert not job.confirmed


def test_a_mark_names_a_cause_and_remedy_that_exist(context: Context, order: str) -> None:
    there: list[FieldEvent] = [HeadedOut(at=context.clock()), Arrived(at=context.clock())]
    mark = FixMarked(at=context.clock(), cause="gremlins", remedy="cleared", helped=True)
    receipt = submit_events(context, RUNA, order, str(uuid4()), [*there, mark])
    assert "there is no cause gremlins" in receipt.loose
