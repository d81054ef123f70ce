"""What an order costs and what the customer is charged: the visit, labour by its terms, parts, and what was recorded."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

from reedling.core.guidance.catalogue import CostKind, Part
from reedling.core.guidance.incident_types import Charges
from reedling.core.runsheet.job_state import Job


@dataclass(frozen=True, slots=True, kw_only=True)
class CostRow:
    """One row: so many units at a rate, and how many of them are charged; no rate where no price is known.

    ``amount`` is what it cost, ``charged_amount`` what the customer is charged, 0 where no price is known. What the
    terms of the order charge costs the house nothing by itself, so its ``quantity`` is 0.
    """

    what: str
    unit: str
    quantity: float
    charged: float
    rate: float | None
    amount: float
    charged_amount: float
    said: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class OrderCosts:
    """All rows and what they come to, in the currency of the order's terms; ``n_unpriced`` rows have no price."""

    rows: tuple[CostRow, ...]
    currency: str
    amount: float
    charged_amount: float
    n_unpriced: int


def order_costs(
    charges: Charges, job: Job, parts: Mapping[str, Part], kinds: Iterable[CostKind]
) -> OrderCosts:
    """What the job of an order comes to so far.

    ``charges`` are the terms the order was logged with; labour is the time on site of the visits that are over, without
    breaks. ``kinds`` are the kinds of cost of its runsheet. A part is added up over all its uses.
    """
    rows = (
        *_of_terms(charges, job),
        *_of_parts(job, parts),
        *_recorded(job, {kind.code: kind for kind in kinds}),
    )
    return OrderCosts(
        rows=rows,
        currency=charges.currency,
        amount=sum(row.amount for row in rows),
        charged_amount=sum(row.charged_amount for row in rows),
        n_unpriced=sum(row.rate is None for row in rows),
    )


def _row(
    what: str, unit: str, quantity: float, charged: float, rate: float | None, said: str = ""
) -> CostRow:
    return CostRow(
        what=what,
        unit=unit,
        quantity=quantity,
        charged=charged,
        rate=rate,
        amount=quantity * (rate or 0.0),
        charged_amount=charged * (rate or 0.0),
        said=said,
    )


def _of_terms(charges: Charges, job: Job) -> Iterator[CostRow]:
    hours = sum(visit.minutes_on_site or 0.0 for visit in job.visits) / 60
    if charges.fixed > 0 and job.visits:
        yield _row("The visit, fixed", "each", 0, 1, charges.fixed)
    if charges.labour_per_hour > 0 and hours > 0:
        yield _row("Time on site", "h", 0, hours, charges.labour_per_hour)


def _of_parts(job: Job, parts: Mapping[str, Part]) -> Iterator[CostRow]:
    for code in dict.fromkeys(used.part for used in job.parts):
        uses = [used for used in job.parts if used.part == code]
        part = parts.get(code)
        yield _row(
            part.name if part else code,
            part.unit if part else "each",
            sum(used.quantity for used in uses),
            sum(used.quantity if used.charged is None else used.charged for used in uses),
            part.price if part else None,
        )


def _recorded(job: Job, kinds: Mapping[str, CostKind]) -> Iterator[CostRow]:
    for cost in job.costs.values():
        kind = kinds.get(cost.cost)
        name, unit = (kind.name, kind.unit) if kind else (cost.cost, "each")
        yield _row(name, unit, cost.quantity, cost.charged, cost.rate, cost.text)
