"""What the field recorded beside its steps: the office settles it, once, and figures equal a recount."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from uuid import uuid4

import pytest

from reedling.core.guidance.catalogue import VanStock
from reedling.core.rollup.carrying import ToCarry
from reedling.core.runsheet.events import FieldEvent
from reedling.core.runsheet.job import replay
from reedling.core.runsheet.site_events import (
    CustomerSaid,
    EquipmentFound,
    PartTyped,
    RecordSettled,
    StepAdded,
    WorkAnswered,
    WorkRecommended,
)
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.actions import site_records
from reedling.services.actions.site_records import enter_equipment, match_part, order_work, set_record_aside
from reedling.services.actions.submissions import submit_events
from reedling.services.context import Context
from reedling.services.views.completions import completion, inbox
from reedling.services.views.desk import desk
from reedling.services.views.loose_records import all_loose
from reedling.services.views.orders import order_page
from reedling.services.views.pocket import own_load, own_order
from reedling.services.views.site_records import waiting_site_records
from reedling.services.views.waiting import count_waiting
from tests.conftest import INES, MAREK, ODA, RUNA
from tests.services.test_drafts_and_release import incident
from tests.services.test_orders_and_submissions import order, whole_job
from tests.services.test_summaries import check_against_a_recount

__all__ = ["incident", "order"]

ENTRY = {"name": "Booster pump", "site": "lode", "equipment": "rake", "model": "", "serial": "BP-1"}


def beside(context: Context) -> list[FieldEvent]:
    at = context.clock()
    return [
        PartTyped(at=at, record="typed", text="seat kti", quantity=2),
        EquipmentFound(at=at, record="found", name="Booster pump", serial="BP-1"),
        StepAdded(at=at, record="added", phase="Prove", text="Cleaned the strainer", minutes=8),
        WorkRecommended(at=at, record="work", text="Replace the teeth", price=480),
        WorkAnswered(at=at, record="work", accepted=False),
        CustomerSaid(at=at, comment="Came late", rating=2),
    ]


@pytest.fixture
def finished(context: Context, order: str) -> str:
    """The whole job with something of every kind beside its steps."""
    *steps, leaving = whole_job(context)
    submit_events(context, RUNA, order, str(uuid4()), [*steps, *beside(context), leaving])
    assert all_loose(context) == ()
    return order


def test_all_that_waits_is_listed_with_what_it_may_be(context: Context, finished: str) -> None:
    found = {line.record: line for line in waiting_site_records(context)}
    assert set(found) == {"typed", "found", "work"}, "a step that was added waits for nobody"
    (meant,) = found["typed"].parts
    assert (meant.part, meant.why) == ("RV-SEAT", "one letter apart")
    assert found["work"].work is not None
    assert found["work"].work.accepted is False
    assert "3 site records to settle" in [line.what for line in desk(context, INES).lines]
    before = count_waiting(context).run
    set_record_aside(context, MAREK, finished, "found", "It stands on the neighbour's ground")
    assert count_waiting(context).run == before - 1
    assert {line.record for line in waiting_site_records(context, order_id=finished)} == {"typed", "work"}


def test_a_matched_part_counts_in_the_figures_of_a_job_that_is_finished(
    context: Context, finished: str
) -> None:
    match_part(context, MAREK, finished, "typed", "RV-SEAT", remember=True)
    assert completion(context, finished).parts_used == ("2 × Seat kit",)
    with context.reading() as unit:
        parts = {p.code: p for p in unit.catalogues.get().parts}
        last = unit.changes.newest("list", key="parts/RV-SEAT", limit=1)[0]
    assert parts["RV-SEAT"].spellings == ("seat kti",)
    assert (last.person, last.note) == ("marek", f"typed on {finished}")
    assert order_page(context, finished).line.state == "Finished"
    check_against_a_recount(context)
    with pytest.raises(Conflict, match="nothing of that name to settle"):
        match_part(context, MAREK, finished, "typed", "RV-SEAT", remember=True)
    with pytest.raises(Conflict, match="nothing of that name to settle"):
        set_record_aside(context, MAREK, finished, "typed", "Again")
    assert completion(context, finished).parts_used == ("2 × Seat kit",)


def test_a_spelling_is_kept_once_and_only_when_asked_for(context: Context, finished: str) -> None:
    match_part(context, MAREK, finished, "typed", "RV-SEAT", remember=False)
    with context.reading() as unit:
        assert all(p.spellings == () for p in unit.catalogues.get().parts)


def test_equipment_is_entered_in_the_register_or_named(context: Context, finished: str) -> None:
    with pytest.raises(NotFound, match="there is no asset AS-7"):
        enter_equipment(context, MAREK, finished, "found", asset="AS-7")
    with pytest.raises(InvalidInput):
        enter_equipment(context, MAREK, finished, "found", asset="AS-7", entry={**ENTRY, "site": "nowhere"})
    assert "found" in {line.record for line in waiting_site_records(context)}
    enter_equipment(context, MAREK, finished, "found", asset="AS-7", entry=ENTRY)
    with context.reading() as unit:
        placed = unit.register.asset("AS-7")
    assert placed is not None
    assert placed.asset.serial == "BP-1"
    assert order_page(context, finished).job.beside.equipment["found"].settled is not None


def test_an_order_is_logged_for_further_work_once(context: Context, finished: str) -> None:
    made = order_work(context, ODA, finished, "work", "stalls")
    assert (made.report, made.asset.code) == (f"Recommended on {finished}: Replace the teeth", "AS-1")
    settled = order_page(context, finished).job.beside.work["work"].settled
    assert settled is not None
    assert settled.target == made.id
    with pytest.raises(Conflict):
        order_work(context, ODA, finished, "work", "stalls")
    with context.reading() as unit:
        assert len(unit.orders.find()) == 2, "and no second one"
    check_against_a_recount(context)


SETTLED: tuple[Callable[[Context, str], object], ...] = (
    lambda context, order: order_work(context, ODA, order, "work", "stalls"),
    lambda context, order: enter_equipment(context, MAREK, order, "found", asset="AS-7", entry=ENTRY),
    lambda context, order: match_part(context, MAREK, order, "typed", "RV-SEAT", remember=True),
)


@pytest.mark.parametrize("act", SETTLED, ids=["order", "enter", "match"])
def test_of_two_who_settle_a_record_at_once_one_does_and_the_other_leaves_nothing(
    context: Context, finished: str, monkeypatch: pytest.MonkeyPatch, act: Callable[[Context, str], object]
) -> None:
    """The second has read the job before the first settles it, and writes after that."""
    with context.reading() as unit:
        order = unit.orders.get(finished)
        assert order is not None
        read_before = replay(order.runsheet, unit.recorded.events(finished))
    for name in ("work", "found", "typed"):
        set_record_aside(context, ODA, finished, name, "Seen to.")
    before = kept(context)
    monkeypatch.setattr(site_records, "_job", lambda *_: read_before)
    with pytest.raises(Conflict):
        act(context, finished)
    assert kept(context) == before


def kept(context: Context) -> tuple[object, ...]:
    with context.reading() as unit:
        return (
            [order.id for order in unit.orders.find()],
            unit.register.assets(),
            unit.catalogues.get(),
            unit.changes.last("list"),
        )


def test_the_field_cannot_settle_and_the_office_cannot_take_such_a_record_in(
    context: Context, order: str
) -> None:
    steps = whole_job(context)
    submit_events(context, RUNA, order, str(uuid4()), [*steps[:3], *beside(context)])
    event = RecordSettled(at=context.clock(), record="typed", decision="matched", target="RV-SEAT")
    receipt = submit_events(context, RUNA, order, str(uuid4()), [event])
    assert "others than the technician record this" in receipt.loose
    assert own_order(context, order, RUNA).job.parts == ()


def test_what_is_beside_the_steps_makes_a_job_worth_reading(context: Context, finished: str) -> None:
    (row,) = inbox(context).rows
    assert "the customer rated it 2 of 5" in row.reasons
    assert "4 things recorded beside the steps" in row.reasons
    assert [d.sentence for d in completion(context, finished).departures if d.kind == "done beside"] == [
        "“Cleaned the strainer” was done in 8 min; no step asks for it."
    ]
    check_against_a_recount(context)


def test_what_to_carry_is_held_against_ones_own_van(context: Context, order: str) -> None:
    (part,) = own_load(context, RUNA).parts
    assert (part.part, part.perhaps, part.in_van, part.orders) == ("RV-SEAT", 1, 0, (order,))
    with context.writing() as unit:
        stock = tuple(
            VanStock(technician=t, part="RV-SEAT", quantity=3) for t in ("Runa Ashdown", "Teo Larkin")
        )
        unit.catalogues.replace(replace(unit.catalogues.get(), van_stock=stock))
    (part,) = own_load(context, RUNA).parts
    assert (part.in_van, part.perhaps_short) == (3, 0)
    assert own_load(context, INES) == ToCarry(parts=(), tools=())
