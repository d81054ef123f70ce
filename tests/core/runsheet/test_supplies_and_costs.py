"""Parts from elsewhere and costs besides parts, over all orders of events, against twins that read the plain record."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.guidance.catalogue import CostKind
from reedling.core.runsheet.events import Arrived, FieldEvent, HeadedOut, LeftSite, PartUsed
from reedling.core.runsheet.job import record, record_from_office, record_late, replay
from reedling.core.runsheet.job_state import Job
from reedling.core.runsheet.part_supplies import SUPPLY_KINDS
from reedling.core.runsheet.site_events import (
    CostRecorded,
    PartAskAnswered,
    PartAsked,
    PartPickedUp,
    PartReceived,
    PartSent,
)
from reedling.device.plain import dump, load
from reedling.errors import Conflict, InvalidInput
from reedling.store.sqlite import GUARDS
from tests.core.runsheet.test_site_records import SHEET as PLAIN
from tests.core.runsheet.test_site_records import at

KINDS = (
    CostKind(code="DRIVE", name="Driving", unit="km", rate=0.9),
    CostKind(code="FERRY", name="Ferry or toll"),
)
SHEET = replace(PLAIN, cost_kinds=KINDS)
RECORDS = st.sampled_from("ab")
PARTS = st.sampled_from(["OIL", "SEAT"])
QUANTITIES = st.sampled_from([0.0, 0.5, 1.0, 2.0, 3.0])
BARE: tuple[tuple[Any, dict[str, Any]], ...] = (
    (PartAsked, {"part": "OIL", "quantity": 1, "of": "bo"}),
    (PartAskAnswered, {"granted": True}),
    (PartPickedUp, {}),
    (PartSent, {"part": "OIL", "quantity": 1}),
    (PartReceived, {"quantity": 1}),
)
OFFICE = (PartSent, PartAskAnswered)

EVENTS = st.one_of(
    st.builds(
        PartAsked, at=st.just(at(30)), record=RECORDS, part=PARTS, quantity=QUANTITIES, of=st.just("bo")
    ),
    st.builds(PartAskAnswered, at=st.just(at(31)), record=RECORDS, granted=st.booleans()),
    st.builds(PartPickedUp, at=st.just(at(32)), record=RECORDS),
    st.builds(PartSent, at=st.just(at(33)), record=RECORDS, part=PARTS, quantity=QUANTITIES),
    st.builds(
        PartReceived,
        at=st.just(at(34)),
        record=RECORDS,
        quantity=QUANTITIES,
        text=st.sampled_from(["", "One was broken"]),
    ),
    st.builds(
        PartUsed,
        at=st.just(at(35)),
        part=PARTS,
        quantity=QUANTITIES,
        supply=st.one_of(st.none(), RECORDS),
    ),
)


def may_be(told: list[FieldEvent], event: Any) -> bool:
    """Whether the event may follow, read off the whole record by the words of the rule, one supply at a time."""
    name = event.supply if isinstance(event, PartUsed) else event.record
    of_it: list[Any] = [e for e in told if getattr(e, "record", None) == name]
    kinds = [e.kind for e in of_it]
    match event:
        case PartAsked() | PartSent():
            return not of_it and event.quantity > 0
        case PartAskAnswered():
            return kinds == ["part asked"]
        case PartPickedUp():
            return kinds == ["part asked", "part ask answered"] and of_it[1].granted
        case PartReceived():
            return kinds == ["part sent"] and (event.quantity == of_it[0].quantity or event.text != "")
    if event.quantity <= 0 or event.supply is None:
        return bool(event.quantity > 0)
    came = next((e for e in of_it if isinstance(e, PartPickedUp | PartReceived)), None)
    if came is None or of_it[0].part != event.part:
        return False
    here = came.quantity if isinstance(came, PartReceived) else of_it[0].quantity
    used = sum(e.quantity for e in told if isinstance(e, PartUsed) and e.supply == name)
    return bool(used + event.quantity <= here)


@given(st.lists(EVENTS, max_size=24))
def test_a_part_from_elsewhere_is_used_only_once_it_is_here_and_no_more_of_it(
    wanted: list[FieldEvent],
) -> None:
    told: list[FieldEvent] = [HeadedOut(at=at(0)), Arrived(at=at(20))]
    job = replay(SHEET, told)
    for event in wanted:
        fits = may_be(told, event)
        try:
            put = record_from_office if isinstance(event, OFFICE) else record
            job = put(SHEET, job, event)  # type: ignore[arg-type]
        except (Conflict, InvalidInput):
            assert not fits
            continue
        assert fits
        told.append(event)
    assert replay(SHEET, told) == job
    assert load(Job, dump(job)) == job


@pytest.mark.parametrize(
    "event",
    [
        PartSent(at=at(1), record="a", part="OIL", quantity=1),
        PartAskAnswered(at=at(1), record="a", granted=True),
    ],
)
def test_what_others_record_does_not_come_from_the_field(event: FieldEvent) -> None:
    with pytest.raises(Conflict) as told:
        record(SHEET, Job(), event)
    assert told.value.code == "jobs.office_only"


def test_a_part_is_asked_for_before_anybody_sets_off_and_not_after_the_job_but_what_came_late_is_taken_in() -> (
    None
):
    ask = PartAsked(at=at(0), record="a", part="OIL", quantity=1, of="bo")
    assert record(SHEET, Job(), ask).supplies["a"].state == "asked"
    over = replay(SHEET, [HeadedOut(at=at(0)), Arrived(at=at(20)), LeftSite(at=at(90), outcome="finished")])
    with pytest.raises(Conflict) as told:
        record(SHEET, over, ask)
    assert told.value.code == "jobs.order_of_events"
    assert record_late(SHEET, over, [ask]).supplies["a"].state == "asked"


COSTS = st.builds(
    CostRecorded,
    at=st.just(at(40)),
    record=RECORDS,
    cost=st.sampled_from(["DRIVE", "FERRY", "YACHT"]),
    quantity=st.sampled_from([-1.0, 0.0, 1.5, 4.0, float("nan")]),
    rate=st.sampled_from([None, 0.9, 6.0, -2.0]),
    charged=st.sampled_from([None, 0.0, 2.0, -1.0]),
)


@given(st.lists(COSTS, max_size=12))
def test_a_cost_has_the_rate_that_is_fixed_or_told_and_the_last_of_a_record_counts(
    wanted: list[CostRecorded],
) -> None:
    job = replay(SHEET, [HeadedOut(at=at(0)), Arrived(at=at(20))])
    last: dict[str, CostRecorded] = {}
    for event in wanted:
        is_number = event.quantity >= 0 and (event.charged is None or event.charged >= 0)
        if event.cost == "DRIVE":
            has_rate = event.rate in (None, 0.9)
        else:
            has_rate = event.cost == "FERRY" and (
                event.rate >= 0 if event.rate is not None else event.quantity == 0
            )
        try:
            job = record(SHEET, job, event)
        except InvalidInput:
            assert not (is_number and has_rate)
            continue
        assert is_number
        assert has_rate
        last[event.record] = event
    kept = {key: one for key, one in last.items() if one.quantity or one.charged}
    assert all(c.amount == c.quantity * c.rate for c in job.costs.values())
    assert {key: (c.cost, c.quantity, c.charged, c.rate) for key, c in job.costs.items()} == {
        key: (
            one.cost,
            one.quantity,
            one.quantity if one.charged is None else one.charged,
            0.9 if one.cost == "DRIVE" else one.rate or 0.0,
        )
        for key, one in kept.items()
    }


def test_an_order_of_before_has_no_costs_to_choose_from() -> None:
    job = replay(PLAIN, [HeadedOut(at=at(0)), Arrived(at=at(20))])
    with pytest.raises(InvalidInput, match="no cost FERRY"):
        record(PLAIN, job, CostRecorded(at=at(30), record="a", cost="FERRY", quantity=1, rate=6))


def test_the_kinds_are_those_of_the_events() -> None:
    """A part on its way to an order is no work on it, and the database tells it by these."""
    of_events = {cls(at=at(0), record="a", **more).kind for cls, more in BARE}
    assert of_events == set(SUPPLY_KINDS)
    assert all(f"'{kind}'" in next(g for g in GUARDS if "runsheet_is_frozen" in g) for kind in SUPPLY_KINDS)
