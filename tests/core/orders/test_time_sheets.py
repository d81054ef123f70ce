"""A time sheet against a plain walk over every visit."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from reedling.core.orders.time_sheets import time_sheet
from reedling.core.register.assets import Site
from reedling.core.register.distances import km_between, position_of
from reedling.core.runsheet.job_state import Break, Job, Visit

START = datetime(2026, 5, 30, 18, 0, tzinfo=UTC)
SITES = (
    Site(code="near", name="Near", district="N", east=0.1, north=0.3, zone="UTC"),
    Site(code="far", name="Far", district="N", east=0.4, north=0.2, zone="Asia/Tokyo"),
    Site(code="anywhere", name="Place not known", district="N", zone="UTC"),
)


@st.composite
def visits(draw: st.DrawFn) -> Visit:
    out = START + timedelta(minutes=draw(st.integers(0, 4 * 24 * 60)))
    arrived = out + timedelta(minutes=draw(st.integers(0, 90)))
    pause = draw(st.integers(0, 30))
    left = arrived + timedelta(minutes=pause + draw(st.integers(1, 200)))
    is_there, is_gone = draw(st.booleans()), draw(st.booleans())
    return Visit(
        headed_out_at=out,
        arrived_at=arrived if is_there else None,
        left_at=left if is_there and is_gone else None,
        breaks=(Break(began_at=arrived, ended_at=arrived + timedelta(minutes=pause)),) if is_there else (),
    )


@given(st.lists(st.tuples(st.sampled_from(SITES), st.lists(visits(), max_size=3)), max_size=5))
def test_each_visit_stands_once_on_the_day_it_began_at_its_site(
    orders: list[tuple[Site, list[Visit]]],
) -> None:
    first, last = date(2026, 5, 31), date(2026, 6, 2)
    jobs = [(f"WO-{n}", site, Job(visits=tuple(own))) for n, (site, own) in enumerate(orders)]
    found = time_sheet(jobs, first, last)
    slow: dict[date, list[float]] = {}
    ways: dict[date, list[tuple[datetime, str, Site]]] = {}
    for site, own in orders:
        for visit in own:
            day = visit.headed_out_at.astimezone(ZoneInfo(site.zone)).date()
            if first <= day <= last:
                totals = slow.setdefault(day, [0.0, 0.0, 0.0, 0])
                if visit.arrived_at:
                    totals[0] += (visit.arrived_at - visit.headed_out_at).total_seconds() / 60
                    pause = sum(
                        (b.ended_at - b.began_at).total_seconds() / 60 for b in visit.breaks if b.ended_at
                    )
                    totals[2] += pause
                    if visit.left_at:
                        totals[1] += (visit.left_at - visit.arrived_at).total_seconds() / 60 - pause
                totals[3] += 1
    for order, site, job in jobs:
        for visit in job.visits:
            day = visit.headed_out_at.astimezone(ZoneInfo(site.zone)).date()
            ways.setdefault(day, []).append((visit.headed_out_at, order, site))
    assert [day.day for day in found] == sorted(slow, reverse=True)
    for row in found:
        travel, on_site, breaks, n = slow[row.day]
        assert [row.travel, row.on_site, row.breaks] == pytest.approx([travel, on_site, breaks])
        assert len(row.lines) == n
        in_turn = [site for _, _, site in sorted(ways[row.day], key=lambda way: way[:2])]
        for at, line in enumerate(row.lines):
            known = at > 0 and "anywhere" not in (in_turn[at - 1].code, in_turn[at].code)
            assert (line.km is not None) is known
            if known:
                before, here = position_of(in_turn[at - 1]), position_of(in_turn[at])
                assert before
                assert here
                assert line.km == km_between(before, here)
        assert row.km == pytest.approx(sum(line.km or 0 for line in row.lines))
        assert [line.headed_out_at for line in row.lines] == sorted(line.headed_out_at for line in row.lines)
