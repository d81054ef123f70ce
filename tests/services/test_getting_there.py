"""Ways between visits and minutes of travel, kept with each job, against the definition over every visit at once."""

from __future__ import annotations

import random
from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime, timedelta
from itertools import pairwise
from pathlib import Path
from uuid import uuid4

import pytest

from reedling.core.register.assets import day_on_site
from reedling.core.register.distances import Position, km_between
from reedling.core.runsheet.events import Arrived
from reedling.core.runsheet.job import replay
from reedling.core.statistics.summaries import spread
from reedling.errors import ReedlingError
from reedling.services.actions.orders import log_order, plan_visit
from reedling.services.actions.submissions import submit_events
from reedling.services.actions.summaries import recount
from reedling.services.actions.visit_times import correct_time
from reedling.services.context import Context
from reedling.services.shared.matched import OrderToMatch
from reedling.services.views.completions import inbox
from reedling.services.views.evidence import evidence, jobs_behind
from reedling.services.views.exploring import jobs_together_csv
from reedling.wiring import open_context
from tests.conftest import LODE, MAREK, RAKE, RUNA, TEO, FakeClock
from tests.services.test_drafts_and_release import incident
from tests.services.test_orders_and_submissions import whole_job
from tests.services.test_summaries import released

__all__ = ["incident", "released"]

PLACES = {
    "AS-1": LODE,
    "AS-2": replace(LODE, code="hern", name="Hern Bank", east=0.16, north=0.31, zone="Asia/Tokyo"),
    "AS-3": replace(LODE, code="sluice", name="Place not known", east=0.0, north=0.0),
}
DAY = timedelta(days=1)


def further_sites(context: Context) -> None:
    with context.store.writing() as unit:
        for asset, site in list(PLACES.items())[1:]:
            unit.register.put_site(site)
            unit.register.put_asset(replace(RAKE, code=asset, site=site.code))


def by_the_definition(context: Context) -> Mapping[str, tuple[float | None, float | None]]:
    """Of every finished job its way and its minutes of travel: all visits sorted, each held against the one before it."""
    with context.store.reading() as unit:
        orders = unit.orders.find(states=("Finished", "Reviewed"))
        jobs = {order.id: replay(order.runsheet, unit.recorded.events(order.id)) for order in orders}
        received = {order.id: unit.recorded.received_at(order.id) for order in orders}
    days: dict[tuple[str, object], list[tuple[datetime, str, int]]] = {}
    site_of = {order.id: order.site for order in orders}
    doubtful: set[str] = set()
    for order in orders:
        for number, visit in enumerate(jobs[order.id].visits, 1):
            told = [t for t in (visit.headed_out_at, visit.arrived_at, visit.left_at) if t]
            until = received[order.id]
            assert until
            if told != sorted(told) or not all(order.logged_at - DAY <= t <= until + DAY for t in told):
                doubtful.add(order.id)
                continue
            day = day_on_site(order.site, visit.headed_out_at)
            days.setdefault((order.technician or "", day), []).append((visit.headed_out_at, order.id, number))
    ways: dict[str, list[float]] = {}
    for visits in days.values():
        in_turn = sorted(visits)
        for one, other in pairwise(in_turn):
            here, there = site_of[one[1]], site_of[other[1]]
            if (here.east or here.north) and (there.east or there.north):
                between = km_between(
                    Position(east=here.east, north=here.north), Position(east=there.east, north=there.north)
                )
                ways.setdefault(other[1], []).append(between)
    out: dict[str, tuple[float | None, float | None]] = {}
    for order in orders:
        travel = [
            (v.arrived_at - v.headed_out_at).total_seconds() / 60
            for v in jobs[order.id].visits
            if v.arrived_at
        ]
        told_travel = sum(travel) if travel and order.id not in doubtful else None
        out[order.id] = sum(ways[order.id]) if order.id in ways else None, told_travel
    return out


def check(context: Context) -> int:
    """What is kept is what the definition gives; gives how many jobs have a way."""
    wanted = by_the_definition(context)
    kept = {row.line.id: row for row in inbox(context, limit=999).rows}
    with context.store.reading() as unit:
        lines = {line.order: line for line in unit.job_figures.lines_of(list(wanted))}
    assert set(kept) <= set(wanted)
    assert {o: (line.km, line.travel_minutes) for o, line in lines.items()} == {
        order: (km if km is None else pytest.approx(km), travel if travel is None else pytest.approx(travel))
        for order, (km, travel) in wanted.items()
    }
    return sum(km is not None for km, _ in wanted.values())


@pytest.mark.parametrize("seed", range(4))
def test_ways_are_those_of_the_definition_whatever_comes_in_when(
    context: Context, released: str, clock: FakeClock, seed: int
) -> None:
    """Jobs of two technicians at three sites, in two time zones, finished early or days late, their times corrected."""
    rng = random.Random(seed)
    further_sites(context)
    finished: list[str] = []
    n_corrected = 0
    for _ in range(24):
        clock.forward(hours=rng.choice((1, 2, 2, 9)))
        order = log_order(
            context,
            MAREK,
            OrderToMatch(asset=rng.choice(("AS-1", "AS-2", "AS-2", "AS-1", "AS-3")), symptom="stalls"),
            "",
        ).id
        person = rng.choice((RUNA, TEO))
        plan_visit(context, MAREK, order, person.id, clock.now)
        late = timedelta(hours=rng.choice((0, 0, 1, 5, 20, 90)))
        on_the_way = timedelta(minutes=rng.randint(1, 50))
        events = [
            replace(e, at=e.at - late - (on_the_way if n == 0 else timedelta(0)))
            for n, e in enumerate(whole_job(context))
        ]
        submit_events(context, person, order, str(uuid4()), events)
        finished.append(order)
        if rng.random() < 0.4:
            of = rng.choice(finished)
            with context.store.reading() as unit:
                held = unit.orders.get(of)
                assert held
                was = replay(held.runsheet, unit.recorded.events(of)).visits[0].headed_out_at
            to = was - timedelta(hours=rng.choice((1, 6)))
            try:
                correct_time(context, MAREK, of, 1, "headed out", to, "Forgot to press it")
                n_corrected += 1
            except ReedlingError:
                continue
    n_ways = check(context)
    assert n_ways > 1
    assert n_corrected > 0
    assert recount(context) == len(finished)
    assert check(context) == n_ways


def test_the_evidence_tells_time_and_distance_and_how_many_arrived_elsewhere(
    context: Context, released: str, clock: FakeClock
) -> None:
    further_sites(context)
    for asset, at in (("AS-1", (0.1, 0.3)), ("AS-2", (0.1, 0.3)), ("AS-1", (0.1, 0.3))):
        clock.forward(hours=1)
        order = log_order(context, MAREK, OrderToMatch(asset=asset, symptom="stalls"), "").id
        plan_visit(context, MAREK, order, "runa", clock.now)
        out, _, *rest = whole_job(context)
        events = [
            replace(out, at=out.at - timedelta(minutes=12)),
            Arrived(at=clock.now, east=at[0], north=at[1]),
        ]
        submit_events(context, RUNA, order, str(uuid4()), [*events, *rest])
    found = evidence(context, "IT-001")
    assert found.travel_minutes == spread([12.0, 12.0, 12.0])
    there = km_between(Position(east=0.1, north=0.3), Position(east=0.16, north=0.31))
    assert found.way_km
    assert found.way_km.count == 2
    assert found.way_km.median == pytest.approx(there)
    assert found.n_arrived_off_site == 1
    off = [row for row in inbox(context).rows if "arrived 6.8 km from its site" in row.reasons]
    assert [row.line.site.name for row in off] == ["Hern Bank"]
    ways = {dot.order: dot.km for dot in jobs_behind(context, "IT-001").jobs}
    assert sorted(ways.values(), key=str) == [pytest.approx(there), pytest.approx(there), None]
    header, *rows = jobs_together_csv(context, "IT-001", {}).splitlines()
    assert header.startswith("order,asset,finished,visits,minutes_on_site,minutes_of_travel,way_km,")
    assert sum(",12.0,6.8," in row for row in rows) == 2


def test_the_demo_tells_of_ways(demo_dir: Path) -> None:
    demo = open_context(demo_dir)
    assert check(demo) > 2
    found = evidence(demo, "IT-001")
    assert found.travel_minutes
    assert found.travel_minutes.count <= found.n_jobs
