"""The time of the year in the simulated field: it moves what comes in, and over a year it adds nothing."""

from __future__ import annotations

import random
from datetime import UTC, datetime, timedelta

import pytest

from reedling.standins.field_kinds import KINDS
from reedling.standins.field_truth import HEAT, STORMS, WEED, Season, drawn

YEAR = [datetime(2026, 1, 1, tzinfo=UTC) + timedelta(days=n) for n in range(365)]


@pytest.mark.parametrize(("season", "month"), [(WEED, 8), (STORMS, 12), (HEAT, 7)])
def test_a_season_is_at_its_height_in_its_month_and_is_one_over_the_year(season: Season, month: int) -> None:
    height = max(YEAR, key=season.factor)
    assert height.month == month
    assert season.factor(height) == pytest.approx(1 + season.swing, abs=1e-3)
    assert sum(season.factor(day) for day in YEAR) / 365 == pytest.approx(1, abs=1e-3)


def test_debris_is_drawn_as_often_as_its_weight_says_in_each_season() -> None:
    rake = KINDS[0]
    for day in (datetime(2026, 8, 13, tzinfo=UTC), datetime(2026, 2, 11, tzinfo=UTC)):
        weights = {t.cause: t.weight * (t.season.factor(day) if t.season else 1) for t in rake.troubles}
        rng = random.Random(3)
        n = sum(drawn(rng, rake.troubles, day).cause == "debris" for _ in range(4_000))
        expected = weights["debris"] / sum(weights.values())
        # Four standard errors of a share of 4,000 draws.
        assert n / 4_000 == pytest.approx(expected, abs=4 * (expected * (1 - expected) / 4_000) ** 0.5)
