"""What an order comes to: a bill worked out by hand."""

from __future__ import annotations

import pytest

from reedling.core.guidance.catalogue import CostKind, Part
from reedling.core.guidance.incident_types import Charges
from reedling.core.orders.order_costs import order_costs
from reedling.core.runsheet.costs import RecordedCost
from reedling.core.runsheet.job_state import Break, Job, Used, Visit
from tests.plans import at

PARTS = {"OIL": Part(code="OIL", name="Oil", unit="l", price=6.2), "SEAT": Part(code="SEAT", name="Seat")}
KINDS = (CostKind(code="TIP", name="Taken to the tip", unit="m³", rate=42),)
TERMS = Charges(labour_per_hour=64, fixed=45, currency="EUR")
JOB = Job(
    visits=(
        Visit(
            headed_out_at=at(0),
            arrived_at=at(20),
            left_at=at(125),
            outcome="return needed",
            breaks=(Break(began_at=at(60), ended_at=at(75)),),
        ),
        Visit(headed_out_at=at(1500), arrived_at=at(1520), left_at=at(1550), outcome="finished"),
    ),
    parts=(
        Used(part="OIL", quantity=1.5, line=None),
        Used(part="SEAT", quantity=1, line=None),
        Used(part="OIL", quantity=1, line=None, charged=0),
    ),
    costs={
        "c": RecordedCost(
            cost="TIP", quantity=0.5, rate=42, amount=21, charged=1, text="One load", at=at(100)
        )
    },
)


def test_a_bill_by_hand() -> None:
    """Two hours on site without the break, 45 for the visit, 1.5 of 2.5 litres, half a load charged as one."""
    found = order_costs(TERMS, JOB, PARTS, KINDS)
    assert [(r.what, r.quantity, r.charged, r.rate) for r in found.rows] == [
        ("The visit, fixed", 0, 1, 45),
        ("Time on site", 0, pytest.approx(2.0), 64),
        ("Oil", 2.5, 1.5, 6.2),
        ("Seat", 1, 1, None),
        ("Taken to the tip", 0.5, 1, 42),
    ]
    assert found.amount == pytest.approx(2.5 * 6.2 + 0.5 * 42)
    assert found.charged_amount == pytest.approx(45 + 2 * 64 + 1.5 * 6.2 + 42)
    assert (found.currency, found.n_unpriced) == ("EUR", 1)


def test_nothing_is_charged_before_anybody_has_set_off() -> None:
    assert order_costs(TERMS, Job(), PARTS, KINDS).rows == ()
