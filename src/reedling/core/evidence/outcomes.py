"""Fixed first time: the share of jobs that one visit put right and kept right."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from reedling.core.runsheet.job_state import Visit
from reedling.core.statistics.intervals import Share

SETTLING_DAYS = 30
"""Days without a further order before a job counts as fixed for good."""

FIXED_FIRST_TIME = (
    "Finished in one working visit, and no further order on the same asset with the same or a "
    f"related symptom within {SETTLING_DAYS} days, routine visits aside. A visit on which nobody got in is not a "
    "working one. "
    f"Jobs younger than {SETTLING_DAYS} days, and jobs whose times cannot be, are not counted either way."
)
"""The definition, as it is shown beside the figure."""


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderOutcome:
    """What of an order bears on whether it was fixed first time.

    ``finished_at`` is ``None`` while the order is open; ``working_visits`` counts visits as
    :func:`is_working_visit` does; ``doubtful`` says that the time of the finish cannot be. ``routine`` is a visit that
    comes round by itself: it says nothing of the one before.
    """

    order: str
    asset: str
    symptom: str
    logged_at: datetime
    finished_at: datetime | None
    working_visits: int
    cancelled: bool = False
    doubtful: bool = False
    routine: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class FirstTimeFix:
    """The share with its interval, the jobs on either side, those too young to count, and those whose
    times cannot be."""

    share: Share
    fixed: tuple[str, ...]
    not_fixed: tuple[str, ...]
    too_young: tuple[str, ...]
    doubtful: tuple[str, ...]


def is_working_visit(visit: Visit) -> bool:
    """Whether work could be done on a visit: the technician reached the site and got in."""
    return visit.arrived_at is not None and visit.reason != "no access"


def came_back(
    order: OrderOutcome, others: Iterable[OrderOutcome], related: Callable[[str, str], bool]
) -> bool:
    """Whether a further order followed a finished one within :data:`SETTLING_DAYS`.

    ``others`` are orders on the same asset, itself among them or not; a cancelled one and a routine visit are none.
    """
    finished = order.finished_at
    if finished is None:
        return False
    end = finished + timedelta(days=SETTLING_DAYS)
    return any(
        other.order != order.order
        and finished < other.logged_at <= end
        and _is_further(order, other, related)
        for other in others
    )


def _is_further(order: OrderOutcome, other: OrderOutcome, related: Callable[[str, str], bool]) -> bool:
    """Whether an order that came later on the same asset is for the same or a related symptom."""
    return not other.cancelled and not other.routine and related(order.symptom, other.symptom)


def lasted(
    outcomes: Iterable[OrderOutcome],
    jobs: Collection[str],
    related: Callable[[str, str], bool],
    *,
    now: datetime,
) -> tuple[tuple[float, bool], ...]:
    """How many days each finished job lasted, and whether that ended with a further order on its asset.

    ``outcomes`` are all orders of the assets, ``jobs`` those that are watched. A further order has the same or a
    related symptom, was logged after the finish, not cancelled, and is no routine visit; a job without one is known to have lasted until
    now. Jobs whose times cannot be are left out.
    """
    by_asset: dict[str, list[OrderOutcome]] = {}
    for outcome in outcomes:
        by_asset.setdefault(outcome.asset, []).append(outcome)
    out = []
    for orders in by_asset.values():
        orders.sort(key=lambda o: o.logged_at)
        for job in orders:
            finished = job.finished_at
            if job.order not in jobs or finished is None or job.doubtful:
                continue
            back = next(
                (o.logged_at for o in orders if o.logged_at > finished and _is_further(job, o, related)),
                None,
            )
            days = ((back or now) - finished).total_seconds() / 86_400
            out.append((max(0.0, days), back is not None))
    return tuple(out)


def settled_by(now: datetime) -> datetime:
    """The latest finish that counts by now, aware UTC: jobs finished after it are too young to tell."""
    return now - timedelta(days=SETTLING_DAYS)


def is_fixed(
    order: OrderOutcome, others: Iterable[OrderOutcome], related: Callable[[str, str], bool]
) -> bool:
    """Whether one working visit put a finished job right and kept it right, so far as is known."""
    return order.working_visits == 1 and not came_back(order, others, related)


def fixed_orders(outcomes: Iterable[OrderOutcome], related: Callable[[str, str], bool]) -> tuple[str, ...]:
    """The orders of one asset that :func:`is_fixed` says yes of, by the time logged.

    Of all others, only those logged within :data:`SETTLING_DAYS` of a finish are looked at.
    """
    by_time = sorted(outcomes, key=lambda o: (o.logged_at, o.order))
    logged = [o.logged_at for o in by_time]
    return tuple(
        order.order for order in by_time if is_fixed(order, _logged_in_time(order, by_time, logged), related)
    )


def repeat_orders(outcomes: Iterable[OrderOutcome], related: Callable[[str, str], bool]) -> tuple[str, ...]:
    """The orders of one asset that are repeats, by the time logged: those that a finished one :func:`came_back` with."""
    by_time = sorted(outcomes, key=lambda o: (o.logged_at, o.order))
    logged = [o.logged_at for o in by_time]
    repeats = {
        other.order
        for order in by_time
        for other in _logged_in_time(order, by_time, logged)
        if other.order != order.order and _is_further(order, other, related)
    }
    return tuple(order.order for order in by_time if order.order in repeats)


def _logged_in_time(
    order: OrderOutcome, by_time: Sequence[OrderOutcome], logged: Sequence[datetime]
) -> Sequence[OrderOutcome]:
    if order.finished_at is None:
        return ()
    first = bisect_right(logged, order.finished_at)
    return by_time[first : bisect_right(logged, order.finished_at + timedelta(days=SETTLING_DAYS))]
