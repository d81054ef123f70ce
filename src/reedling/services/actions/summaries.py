"""Count every finished job anew, where the rules of summaries changed."""

from __future__ import annotations

from reedling.core.evidence.steps import step_records
from reedling.core.runsheet.job import replay
from reedling.services.context import Context
from reedling.services.shared.first_time import note_returns, related_symptoms, summary_of

RULES = 7
"""Raised whenever what summaries hold is worked out otherwise; then everything is counted anew."""


def note_all_returns(context: Context) -> None:
    """As :func:`note_returns`, for every asset, one after the other; after a change of which symptoms are related.

    Should it be broken off, everything is counted anew at the next start.
    """
    with context.writing() as unit:
        unit.summaries.set_version(0)
        related, assets = related_symptoms(unit), tuple(unit.orders.n_by_asset())
    for asset in assets:
        with context.writing() as unit:
            note_returns(unit, (asset,), related)
    with context.writing() as unit:
        unit.summaries.set_version(RULES)


def bring_up_to_date(context: Context) -> None:
    """Count everything anew where the summaries rest on earlier rules."""
    with context.reading() as unit:
        if unit.summaries.version() == RULES:
            return
    recount(context)


def recount(context: Context) -> int:
    """Forget every summary and work it out from what was recorded; gives the number of jobs."""
    with context.writing() as unit:
        unit.summaries.clear()
        n_jobs = 0
        for order_id in unit.recorded.with_events():
            order = unit.orders.get(order_id)
            assert order is not None
            events = unit.recorded.events(order_id)
            unit.summaries.note_codes(order_id, events)
            job = replay(order.runsheet, events)
            records = step_records(order_id, order.runsheet, job)
            summary = summary_of(order, job, records, unit.recorded.received_at(order_id))
            unit.recorded.replace_step_records(
                order_id, records, incident_type=order.incident_type, closed=summary is not None
            )
            if summary is not None:
                n_jobs += 1
                unit.summaries.add(summary, records)
            unit.session.expunge_all()
        related = related_symptoms(unit)
        for asset in unit.orders.n_by_asset():
            note_returns(unit, (asset,), related)
        unit.summaries.set_version(RULES)
        return n_jobs
