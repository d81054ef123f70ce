"""The day of an order is the day at its site."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime

import pytest

from reedling.core.register.assets import day_on_site
from reedling.services.actions.documents import create_incident_type
from reedling.services.actions.orders import log_order
from reedling.services.context import Context
from reedling.services.shared.guidance_in_force import facts_of_orders
from reedling.services.shared.matched import OrderToMatch
from tests.conftest import INES, LODE, MAREK, RAKE, FakeClock


@pytest.mark.parametrize(
    ("zone", "at", "day"),
    [
        ("Europe/Amsterdam", datetime(2026, 6, 30, 22, 30, tzinfo=UTC), date(2026, 7, 1)),
        ("Europe/Amsterdam", datetime(2026, 12, 31, 22, 30, tzinfo=UTC), date(2026, 12, 31)),
        ("Pacific/Auckland", datetime(2026, 3, 1, 12, 0, tzinfo=UTC), date(2026, 3, 2)),
        ("America/Los_Angeles", datetime(2026, 3, 1, 4, 0, tzinfo=UTC), date(2026, 2, 28)),
        ("UTC", datetime(2026, 3, 1, 23, 59, tzinfo=UTC), date(2026, 3, 1)),
        ("Nowhere/Else", datetime(2026, 3, 1, 23, 59, tzinfo=UTC), date(2026, 3, 1)),
    ],
)
def test_the_day_is_that_of_the_site(zone: str, at: datetime, day: date) -> None:
    """IANA time zone database: summer time in Amsterdam is two hours ahead of UTC, New Zealand's thirteen."""
    assert day_on_site(replace(LODE, zone=zone), at) == day


def test_an_order_is_matched_on_its_sites_day(context: Context, clock: FakeClock) -> None:
    create_incident_type(context, INES, "Rake stalls", None)
    with context.store.writing() as unit:
        unit.register.put_site(replace(LODE, zone="Pacific/Auckland"), replaces=LODE.code)
    clock.now = datetime(2026, 9, 30, 13, 0, tzinfo=UTC)
    order = log_order(context, MAREK, OrderToMatch(asset=RAKE.code, symptom="stalls"), "It stalls")
    assert order.matched_on is not None
    assert order.matched_on.day == date(2026, 10, 1)
    with context.store.reading() as unit:
        (short,) = unit.orders.facts()
        assert facts_of_orders(unit, [replace(short, matched_on=None)])[order.id].day == date(2026, 10, 1)
