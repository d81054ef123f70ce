"""Slow, obvious counts of what the store keeps summed up and what the views add together."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import datetime
from functools import reduce

from reedling.core.evidence.outcomes import FirstTimeFix, OrderOutcome, is_fixed, settled_by
from reedling.core.evidence.steps import StepCounts, StepEvidence, StepRecord, count_step, evidence_of
from reedling.core.statistics.intervals import wilson_interval
from reedling.core.statistics.summaries import spread


def first_time_fix(
    orders: Iterable[OrderOutcome],
    all_orders: Sequence[OrderOutcome],
    *,
    now: datetime,
    related: Callable[[str, str], bool],
) -> FirstTimeFix:
    """Fixed first time over finished orders, one order after the other.

    ``all_orders`` is where further orders are looked for, those of other incident types included.
    """
    fixed: list[str] = []
    not_fixed: list[str] = []
    too_young: list[str] = []
    doubtful: list[str] = []
    for order in orders:
        if order.finished_at is None or order.cancelled:
            continue
        if order.doubtful:
            doubtful.append(order.order)
        elif order.finished_at > settled_by(now):
            too_young.append(order.order)
        else:
            others = [o for o in all_orders if o.asset == order.asset]
            (fixed if is_fixed(order, others, related) else not_fixed).append(order.order)
    return FirstTimeFix(
        share=wilson_interval(len(fixed), len(fixed) + len(not_fixed)),
        fixed=tuple(fixed),
        not_fixed=tuple(not_fixed),
        too_young=tuple(too_young),
        doubtful=tuple(doubtful),
    )


def step_evidence(records: Iterable[StepRecord]) -> Mapping[tuple[str, str], StepEvidence]:
    """Evidence per (document, step), over all the records given."""
    groups: dict[tuple[str, str], list[StepRecord]] = {}
    for record in records:
        groups.setdefault((record.document, record.step), []).append(record)
    return {
        key: evidence_of(
            *key,
            reduce(StepCounts.plus, map(count_step, group)),
            spread([r.minutes for r in group if r.minutes is not None]),
        )
        for key, group in groups.items()
    }
