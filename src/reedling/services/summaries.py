"""Keep summaries of finished jobs true: with each job that finishes, and by counting everything anew."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

from reedling.core.evidence.doubtful_times import Bounds
from reedling.core.evidence.job_summary import JobSummary, summarise_job
from reedling.core.evidence.outcomes import is_fixed
from reedling.core.evidence.steps import StepRecord, step_records
from reedling.core.orders.orders import Order
from reedling.core.runsheet.job import Job, job_state, replay
from reedling.services.context import Context
from reedling.services.symptoms import relation_of
from reedling.store.unit import Unit

RULES = 2
"""Raised whenever what summaries hold is worked out otherwise; then everything is counted anew."""

Related = Callable[[str, str], bool]


def summary_of(
    order: Order, job: Job, records: tuple[StepRecord, ...], received_at: datetime | None
) -> JobSummary | None:
    """The summary of an order's job, received by then; nothing while it is not finished."""
    if job_state(job) != "Finished":
        return None
    return summarise_job(
        order.runsheet,
        job,
        records,
        order=order.id,
        incident_type=order.incident_type or "",
        asset=order.asset.code,
        symptom=order.symptom,
        bounds=Bounds(logged_at=order.logged_at, received_at=received_at),
    )


def related_symptoms(unit: Unit) -> Related:
    """Which symptoms are related, by the lists as they stand."""
    return relation_of(unit.catalogues.get())


def note_returns(unit: Unit, asset: str, related: Related) -> None:
    """Say anew which finished jobs of an asset are fixed first time, so far as is known."""
    orders = unit.summaries.orders_on(asset)
    unit.summaries.set_fixed(asset, [o.order for o in orders if is_fixed(o, orders, related)])


def note_all_returns(context: Context) -> None:
    """As :func:`note_returns`, for every asset, one after the other; after a change of which symptoms are related.

    Should it be broken off, everything is counted anew at the next start.
    """
    with context.store.writing() as unit:
        unit.summaries.set_version(0)
        related, assets = related_symptoms(unit), tuple(unit.orders.n_by_asset())
    for asset in assets:
        with context.store.writing() as unit:
            note_returns(unit, asset, related)
    with context.store.writing() as unit:
        unit.summaries.set_version(RULES)


def bring_up_to_date(context: Context) -> None:
    """Count everything anew where the summaries rest on earlier rules."""
    with context.store.reading() as unit:
        if unit.summaries.version() == RULES:
            return
    recount(context)


def recount(context: Context) -> int:
    """Forget every summary and work it out from what was recorded; gives the number of jobs."""
    with context.store.writing() as unit:
        unit.summaries.clear()
        n_jobs = 0
        for order_id in unit.orders.with_events():
            order = unit.orders.get(order_id)
            assert order is not None
            events = unit.orders.events(order_id)
            unit.summaries.note_codes(order_id, events)
            job = replay(order.runsheet, events)
            records = step_records(order_id, order.runsheet, job)
            summary = summary_of(order, job, records, unit.orders.received_at(order_id))
            unit.orders.replace_step_records(
                order_id, records, incident_type=order.incident_type, closed=summary is not None
            )
            if summary is not None:
                n_jobs += 1
                unit.summaries.add(summary, records)
            unit.session.expunge_all()
        related = related_symptoms(unit)
        for asset in unit.orders.n_by_asset():
            note_returns(unit, asset, related)
        unit.summaries.set_version(RULES)
        return n_jobs
