"""What a job cannot take in is kept beside its order, and what was recorded is never lost or doubled."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta
from uuid import uuid4

import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule, run_state_machine_as_test

from reedling.core.orders.receipts import Receipt
from reedling.core.runsheet.events import (
    Answered,
    Arrived,
    Coded,
    FieldEvent,
    HeadedOut,
    LeftSite,
    NoteWritten,
    PartUsed,
    StepDone,
    StepSkipped,
)
from reedling.core.runsheet.job import record
from reedling.core.runsheet.job_state import Job
from reedling.errors import Conflict, InvalidInput, NotFound, ReedlingError
from reedling.services.actions.loose_records import set_aside, take_in
from reedling.services.actions.orders import cancel_order, log_order, plan_visit
from reedling.services.actions.reviews import mark_reviewed
from reedling.services.actions.submissions import submit_events
from reedling.services.context import Context
from reedling.services.shared.matched import OrderToMatch
from reedling.services.views.loose_records import all_loose
from reedling.services.views.orders import order_page
from reedling.services.views.pocket import own_day, own_order
from reedling.services.views.waiting import count_waiting
from tests.conftest import INES, MAREK, RUNA, TEO, FakeClock
from tests.services.test_drafts_and_release import incident, released
from tests.services.test_orders_and_submissions import order, whole_job
from tests.services.test_summaries import check_against_a_recount

__all__ = ["incident", "order"]


def note(context: Context, text: str = "Gate key under the sill") -> NoteWritten:
    return NoteWritten(at=context.clock(), text=text)


def send(context: Context, order: str, *events: FieldEvent) -> Receipt:
    return submit_events(context, RUNA, order, str(uuid4()), events)


def test_work_on_an_order_cancelled_meanwhile_is_kept_beside_it(context: Context, order: str) -> None:
    cancel_order(context, MAREK, order, "Caller rang off")
    events: list[FieldEvent] = [HeadedOut(at=context.clock()), Arrived(at=context.clock()), note(context)]
    receipt = send(context, order, *events)
    assert (receipt.state, receipt.loose) == ("Cancelled", f"{order}: it is cancelled.")
    waiting = all_loose(context)
    assert [(w.order, w.person_name, w.events) for w in waiting] == [(order, "Runa Ashdown", tuple(events))]
    assert count_waiting(context).run == 1
    assert [w.why for w in own_day(context, RUNA).loose] == [receipt.loose]
    (taken,) = take_in(context, MAREK, [receipt.submission])
    page = order_page(context, order)
    assert (page.line.state, len(page.job.notes), taken.decided_by) == ("Cancelled", 1, "marek")
    assert (all_loose(context), own_day(context, RUNA).loose, count_waiting(context).run) == ((), (), 0)


def test_work_on_an_order_given_to_somebody_else_is_kept_beside_it(context: Context, order: str) -> None:
    plan_visit(context, MAREK, order, "teo", context.clock())
    receipt = send(context, order, HeadedOut(at=context.clock()))
    assert receipt.loose == f"{order}: it was given to Teo Larkin meanwhile."
    assert [w.why for w in own_order(context, order, RUNA).loose] == [receipt.loose], (
        "Runa still sees her own"
    )
    assert own_order(context, order, TEO).loose == ()
    (aside,) = set_aside(context, INES, [receipt.submission], "Teo went, Runa stayed")
    assert (aside.decision, aside.reason) == ("set aside", "Teo went, Runa stayed")
    assert order_page(context, order).job.visits == ()
    assert order_page(context, order).loose[0].decision == "set aside", "still to be read"
    with pytest.raises(Conflict, match="it was set aside already"):
        take_in(context, INES, [receipt.submission])


def test_what_can_be_mended_is_refused_where_the_device_could_not_say_so(
    context: Context, order: str
) -> None:
    there: list[FieldEvent] = [HeadedOut(at=context.clock()), Arrived(at=context.clock())]
    wrong = Answered(at=context.clock(), question="WP-001:bar", value="ninety")
    with pytest.raises(InvalidInput):
        submit_events(context, RUNA, order, str(uuid4()), [*there, wrong], checked=False)
    assert all_loose(context) == ()
    cancel_order(context, MAREK, order, "Rang off")
    late = submit_events(context, RUNA, order, str(uuid4()), there, checked=False)
    assert late.loose, "what the office changed is nothing to be mended on site"


def test_somebody_who_never_had_an_order_puts_nothing_beside_it(context: Context, order: str) -> None:
    with pytest.raises(NotFound, match=f"there is no order {order} for you"):
        submit_events(context, TEO, order, str(uuid4()), [note(context)])
    assert all_loose(context) == ()


def test_a_decision_needs_a_record_and_a_reason(context: Context, order: str) -> None:
    cancel_order(context, MAREK, order, "Caller rang off")
    receipt = send(context, order, HeadedOut(at=context.clock()))
    with pytest.raises(InvalidInput, match="say why it is set aside"):
        set_aside(context, INES, [receipt.submission], " ")
    with pytest.raises(NotFound, match="no loose record"):
        take_in(context, INES, [str(uuid4())])


def test_what_still_cannot_go_on_the_job_stays_beside_it(context: Context, order: str) -> None:
    send(context, order, HeadedOut(at=context.clock()))
    receipt = send(context, order, HeadedOut(at=context.clock()))
    with pytest.raises(Conflict, match="you are already on the way"):
        take_in(context, INES, [receipt.submission])
    assert [w.submission for w in all_loose(context)] == [receipt.submission]


def test_a_late_part_on_a_finished_job_counts_once_in_every_figure(
    context: Context, order: str, clock: FakeClock
) -> None:
    submit_events(context, RUNA, order, str(uuid4()), whole_job(context))
    mark_reviewed(context, INES, order, "")
    clock.forward(hours=1)
    late: list[FieldEvent] = [
        PartUsed(at=clock.now, part="RV-SEAT", quantity=2),
        Answered(at=clock.now, question="WP-001:bar", value=80.0),
    ]
    receipt = send(context, order, *late)
    assert receipt.loose == f"{order}: it is reviewed."
    take_in(context, INES, [receipt.submission])
    page = order_page(context, order)
    assert (page.line.state, page.job.parts[0].quantity) == ("Reviewed", 2)
    assert page.job.answers["WP-001:bar"] == 80.0
    check_against_a_recount(context)


def test_a_whole_visit_is_taken_in_at_once_or_not_at_all(context: Context, order: str) -> None:
    cancel_order(context, MAREK, order, "Caller rang off")
    parts: list[list[FieldEvent]] = [
        [HeadedOut(at=context.clock())],
        [Arrived(at=context.clock())],
        [note(context)],
        [Arrived(at=context.clock())],
    ]
    names = [send(context, order, *events).submission for events in parts]
    with pytest.raises(Conflict, match="you can arrive once"):
        take_in(context, MAREK, names)
    assert order_page(context, order).job.visits == ()
    assert len(all_loose(context)) == 4
    take_in(context, MAREK, names[:3])
    assert [n.text for n in order_page(context, order).job.notes] == ["Gate key under the sill"]
    assert [w.submission for w in all_loose(context)] == names[3:]


def test_work_taken_in_late_leaves_nothing_running(context: Context, order: str) -> None:
    cancel_order(context, MAREK, order, "Caller rang off")
    receipt = send(
        context,
        order,
        Answered(at=context.clock(), question="WP-001:locked", value=True),
        StepDone(at=context.clock() + timedelta(minutes=4), line="WP-001:lock"),
    )
    take_in(context, MAREK, [receipt.submission])
    times = order_page(context, order).job.times
    assert times["WP-001:lock"].running_since is None


class FieldAndOffice(RuleBasedStateMachine):
    """A device that records and sends over a line that loses, doubles and reorders, and an office that changes its mind."""

    context: Context

    @initialize(kinds=st.lists(st.integers(2, 9), min_size=3, max_size=15))
    def begin(self, kinds: list[int]) -> None:
        self.order = log_order(self.context, MAREK, OrderToMatch(asset="AS-1", symptom="stalls"), "").id
        plan_visit(self.context, MAREK, self.order, "runa", self.context.clock())
        with self.context.reading() as unit:
            order = unit.orders.get(self.order)
        assert order is not None
        self.runsheet = order.runsheet
        self.job = Job()
        self.outbox: list[tuple[str, list[FieldEvent]]] = []
        self.sent: dict[str, list[FieldEvent]] = {}
        self.tried: dict[str, list[FieldEvent]] = {}
        self.n = 0
        self.record([0, 1, *kinds], 1)

    @rule(kinds=st.lists(st.integers(0, 9), min_size=1, max_size=6), wild=st.integers(0, 5))
    def record_on_site(self, kinds: list[int], wild: int) -> None:
        self.record(kinds, wild)

    def record(self, kinds: list[int], wild: int) -> None:
        """Mostly what the device's own rules allow next; now and then anything."""
        for kind in kinds:
            events = self.events(kind)
            try:
                job = self.job
                for event in events:
                    job = record(self.runsheet, job, event)
                self.job = job
            except ReedlingError:
                if wild:
                    continue
            self.outbox.append((str(uuid4()), events))

    def events(self, kind: int) -> list[FieldEvent]:
        self.n += 1
        at = self.context.clock() + timedelta(seconds=self.n)
        event: FieldEvent = (
            HeadedOut(at=at),
            Arrived(at=at),
            Answered(at=at, question="WP-001:locked", value=True),
            StepDone(at=at, line="WP-001:lock"),
            Answered(at=at, question="WP-001:bar", value=float(80 + self.n % 30)),
            StepDone(at=at, line="WP-001:read"),
            PartUsed(at=at, part="RV-SEAT", quantity=1),
            Coded(at=at, cause="debris", remedy="cleared"),
            LeftSite(at=at, outcome="return needed", reason="more time"),
            StepSkipped(at=at, line="WP-001:run", reason="Not reached"),
        )[kind]
        finish = LeftSite(at=at, outcome="finished")
        marked = NoteWritten(at=at, text=f"note {self.n}")
        if self.n % 5 == 0 and kind == 7:
            return [event, finish]
        return [event, marked] if self.n % 3 == 0 else [event]

    @rule(n=st.integers(1, 8), fails=st.integers(0, 2), clock=st.sampled_from((0, 0, 86_400)))
    def send_what_waits(self, n: int, fails: int, clock: int) -> None:
        """Every third answer is lost; a line that reorders sends the second first now and then."""
        for k in range(n):
            if self.outbox:
                self.send_one(int(k == fails == 2), k % 3 != fails, clock)

    def send_one(self, which: int, answer_arrives: bool, clock: int) -> None:
        name, events = self.outbox[min(which, len(self.outbox) - 1)]
        sent_at = self.context.clock() + timedelta(seconds=clock)
        self.tried[name] = events
        receipt = submit_events(
            self.context, RUNA, self.order, name, events, recorded_by="runa", sent_at=sent_at
        )
        assert receipt.submission == name
        if answer_arrives:
            self.outbox.remove((name, events))
            self.sent[name] = events

    @rule(which=st.integers(0, 20))
    def send_again_what_was_sent(self, which: int) -> None:
        if self.tried:
            name = sorted(self.tried)[which % len(self.tried)]
            submit_events(self.context, RUNA, self.order, name, self.tried[name])

    @rule(act=st.integers(0, 11))
    def office_changes_its_mind(self, act: int) -> None:
        """Rarely: to somebody else, back again, cancelled."""
        if act in (0, 1):
            who = ("runa", "teo")[act]
            self.office(lambda: plan_visit(self.context, MAREK, self.order, who, self.context.clock()))
        elif act == 2 and self.n > 6:
            self.office(lambda: cancel_order(self.context, MAREK, self.order, "Rang off"))

    @rule(taken=st.booleans(), which=st.integers(0, 5))
    def decide(self, taken: bool, which: int) -> None:
        waiting = all_loose(self.context)
        if waiting:
            name = waiting[which % len(waiting)].submission
            if taken:
                self.office(lambda: take_in(self.context, INES, [name]))
            else:
                self.office(lambda: set_aside(self.context, INES, [name], "Not wanted"))

    def office(self, act: Callable[[], object]) -> None:
        try:
            act()
        except ReedlingError:
            return

    @invariant()
    def what_left_the_device_is_with_the_server_once(self) -> None:
        with self.context.reading() as unit:
            rows = unit.session.connection().exec_driver_sql(
                "SELECT submission_id, count(*) FROM events WHERE order_id = ? GROUP BY 1", (self.order,)
            )
            on_job: dict[str, int] = {row[0]: row[1] for row in rows}
            beside = {r.submission: r for r in unit.loose_records.find(order=self.order)}
        for name, events in self.sent.items():
            loose = beside.get(name)
            is_on_job = loose is None or loose.decision == "taken in"
            assert on_job.get(name, 0) == (len(events) if is_on_job else 0)
            assert loose is None or len(loose.events) == len(events)
        assert on_job.keys() | beside.keys() <= self.tried.keys()

    def teardown(self) -> None:
        if hasattr(self, "order"):
            while self.outbox:
                self.send_one(0, True, 0)
            self.what_left_the_device_is_with_the_server_once()
            own_order(self.context, self.order, RUNA)
            order_page(self.context, self.order)


def run_field_and_office(context: Context, n_rounds: int) -> None:
    """Play it that many times against the real service, then count everything anew."""
    machine = type("Machine", (FieldAndOffice,), {"context": context})
    run_state_machine_as_test(
        machine,
        settings=settings(
            max_examples=n_rounds,
            stateful_step_count=30,
            deadline=None,
            suppress_health_check=list(HealthCheck),
            database=None,
        ),
    )
    check_against_a_recount(context)


@pytest.mark.slow
def test_nothing_that_a_device_sends_is_lost_or_doubled(context: Context, incident: str) -> None:
    released(context, incident)
    run_field_and_office(context, 25)
