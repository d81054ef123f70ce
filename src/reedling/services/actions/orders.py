"""Log an order with its frozen runsheet, plan its visit, cancel it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime
from typing import NamedTuple

from reedling.core.evidence.steps import StepRecord, step_records
from reedling.core.orders.orders import Order
from reedling.core.orders.states import can_be_cancelled, can_be_planned
from reedling.core.people import Person
from reedling.core.runsheet.job_state import Job
from reedling.errors import Conflict, InvalidInput
from reedling.services.context import Context
from reedling.services.shared.first_time import Related, note_returns, related_symptoms
from reedling.services.shared.kept_changes import keep_order_change
from reedling.services.shared.matched import Matched, OrderToMatch, as_logged
from reedling.services.shared.needed import need_order
from reedling.services.shared.trials import TakenByTrial, match_with_trials
from reedling.store.unit import Unit


class _ToLog(NamedTuple):
    """What an order gets, worked out before it is written; ``owed`` is what a routine visit wants as issued."""

    matched: Matched
    taking: tuple[TakenByTrial, ...]
    related: Related
    owed: tuple[StepRecord, ...]


def log_order(
    context: Context,
    person: Person,
    asked: OrderToMatch,
    report: str,
    *,
    at: datetime | None = None,
    also: Callable[[Unit, Order], None] = lambda _unit, _order: None,
) -> Order:
    """Log an order; it gets its runsheet, frozen, from the revisions in force.

    ``also`` writes what is to be there with the order or not at all; what it raises leaves no order.

    Raises
    ------
    Conflict
        ``matching.never_together`` when rows ask for two documents that must not be on one order;
        leave one of them out.
    """
    when = at or context.clock()

    def prepare(unit: Unit) -> _ToLog:
        matched, taking = match_with_trials(unit, asked, when, report=report)
        if matched.match.refused:
            raise Conflict(
                "matching.never_together",
                " ".join(r.sentence for r in matched.match.refused),
                where="New order",
                hint="Leave one of each pair out, and have the rows put right.",
            )
        is_routine = matched.terms.due_within_days is not None
        owed = step_records("", matched.runsheet, Job()) if is_routine else ()
        return _ToLog(matched, taking, related_symptoms(unit), owed)

    def write(unit: Unit, prepared: _ToLog) -> Order:
        order = as_logged(
            prepared.matched,
            asked,
            identity=f"WO-{unit.next_number('WO'):04d}",
            report=report,
            at=when,
            person=person,
        )
        unit.orders.add(order)
        unit.recorded.add_step_records(
            (replace(one, order=order.id) for one in prepared.owed),
            incident_type=order.incident_type,
            closed=False,
        )
        for by in prepared.taking:
            unit.trials.take(by.trial, order.id, tried=by.tried)
        note_returns(unit, (order.asset.code,), prepared.related)
        also(unit, order)
        return order

    return context.change(prepare, write, on=_what_decides)


def _what_decides(unit: Unit) -> object:
    """A mark that is another one when something is released or withdrawn, or a list or place changes."""
    return (unit.documents.last_act(), unit.changes.last("list"))


def plan_visit(
    context: Context, person: Person, order_id: str, technician: str, planned_for: datetime
) -> Order:
    """Give an order to a technician for a time; also after a return was needed."""
    with context.writing() as unit:
        order = need_order(unit, order_id)
        if not can_be_planned(order.state):
            raise Conflict(
                "orders.state", f"it is {order.state.lower()} and cannot be planned now.", where=order_id
            )
        goes = unit.people.get(technician)
        if goes is None or goes.role != "technician" or goes.removed_at is not None:
            raise InvalidInput("orders.technician", f"there is no technician {technician}.", where=order_id)
        planned = replace(order, technician=technician, planned_for=planned_for, state="Planned")
        unit.orders.save(planned)
        keep_order_change(context, unit, person, "planned", order, planned)
        return planned


def cancel_order(context: Context, person: Person, order_id: str, reason: str) -> Order:
    """Cancel an order on which nobody is at work, with a reason."""
    if not reason.strip():
        raise InvalidInput("orders.reason", "say why it is cancelled.", where=order_id)
    with context.writing() as unit:
        order = need_order(unit, order_id)
        if not can_be_cancelled(order.state):
            raise Conflict(
                "orders.state", f"it is {order.state.lower()} and cannot be cancelled now.", where=order_id
            )
        cancelled = replace(order, state="Cancelled", review_note=reason.strip())
        unit.orders.save(cancelled)
        keep_order_change(context, unit, person, "cancelled", order, cancelled)
        note_returns(unit, (order.asset.code,), related_symptoms(unit))
        return cancelled
