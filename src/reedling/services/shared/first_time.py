"""What a finished job comes to in short, and which jobs are fixed first time."""

from __future__ import annotations

from collections.abc import Callable, Collection
from datetime import datetime
from itertools import groupby

from reedling.core.evidence.doubtful_times import Bounds
from reedling.core.evidence.job_summary import JobSummary, summarise_job
from reedling.core.evidence.outcomes import fixed_orders, repeat_orders
from reedling.core.evidence.steps import StepRecord
from reedling.core.guidance.catalogue import relation_of
from reedling.core.orders.orders import Order
from reedling.core.runsheet.job_state import Job, job_state
from reedling.store.unit import Unit

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
        model=order.asset.model,
        technician=order.technician or "",
        site=order.site,
        bounds=Bounds(logged_at=order.logged_at, received_at=received_at),
    )


def related_symptoms(unit: Unit) -> Related:
    """Which symptoms are related, by the lists as they stand."""
    return relation_of(unit.catalogues.get())


def note_returns(unit: Unit, assets: Collection[str], related: Related) -> None:
    """Say anew which finished jobs of these assets are fixed first time, so far as is known, and which are repeats."""
    by_asset = [
        list(outcomes) for _, outcomes in groupby(unit.job_figures.orders_on(assets), lambda o: o.asset)
    ]
    unit.summaries.set_outcomes(
        assets,
        fixed=[order for outcomes in by_asset for order in fixed_orders(outcomes, related)],
        repeats=[order for outcomes in by_asset for order in repeat_orders(outcomes, related)],
    )
