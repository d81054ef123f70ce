"""Order kept over all jobs: figures, ways of going astray and the jobs behind them, against a recount from the record."""

from __future__ import annotations

import random
from collections import Counter
from datetime import timedelta
from uuid import uuid4

import pytest

from reedling.core.evidence.order_kept import OutOfTurn, order_kept, without_repeat
from reedling.core.runsheet.events import Answered, Arrived, Coded, FieldEvent, HeadedOut, LeftSite, StepDone
from reedling.core.runsheet.job import replay
from reedling.core.runsheet.job_runs import job_run
from reedling.errors import NotFound
from reedling.services.actions.orders import log_order, plan_visit
from reedling.services.actions.submissions import submit_events
from reedling.services.actions.summaries import recount
from reedling.services.context import Context
from reedling.services.shared.matched import OrderToMatch
from reedling.services.views.evidence import jobs_behind
from reedling.services.views.order_kept import LEAST_ASTRAY, order_kept_page
from tests.conftest import MAREK, RUNA, FakeClock
from tests.services.test_drafts_and_release import drafted, released

DONE = {"lock": ("locked", True), "read": ("bar", 100.0), "run": ("runs", True)}


def played(context: Context, clock: FakeClock, rng: random.Random, n: int) -> None:
    """Jobs that do three steps in whatever order, mostly in that of the sheet."""
    for _ in range(n):
        order = log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom="stalls"), "").id
        plan_visit(context, MAREK, order, "runa", clock.now)
        steps = list(DONE)
        if rng.random() < 0.6:
            rng.shuffle(steps)
        events: list[FieldEvent] = [HeadedOut(at=clock.now), Arrived(at=clock.now)]
        for step in steps:
            clock.forward(minutes=5)
            question, value = DONE[step]
            events.append(Answered(at=clock.now, question=f"WP-001:{question}", value=value))
            events.append(StepDone(at=clock.now, line=f"WP-001:{step}"))
        events.append(Coded(at=clock.now, cause="debris", remedy="cleared"))
        events.append(LeftSite(at=clock.now, outcome="finished"))
        submit_events(context, RUNA, order, str(uuid4()), events)
        clock.forward(days=1)


@pytest.mark.parametrize("seed", range(3))
def test_figures_are_those_of_a_recount(context: Context, clock: FakeClock, seed: int) -> None:
    made = drafted(context)
    released(context, made)
    clock.now += timedelta(days=1)
    played(context, clock, random.Random(seed), 14)
    fitness: list[float] = []
    ways: Counter[OutOfTurn] = Counter()
    with context.reading() as unit:
        for heading in unit.orders.headings():
            order = unit.orders.get(heading.id)
            assert order is not None
            job = replay(order.runsheet, unit.recorded.events(order.id))
            found = order_kept(job_run(order.runsheet, job), job)
            assert found.fitness is not None
            fitness.append(found.fitness)
            ways.update(
                {
                    OutOfTurn(line=without_repeat(w.line), other=without_repeat(w.other), is_early=w.is_early)
                    for w in found.out_of_turn
                }
            )
    assert ways, "somebody went astray"
    page = order_kept_page(context, made)
    assert (page.throughout.n_hits, page.throughout.n_total) == (sum(f == 1 for f in fitness), len(fitness))
    assert page.mean == pytest.approx(sum(fitness) / len(fitness))
    shown = {OutOfTurn(line=w.line, other=w.other, is_early=w.is_early): w.share.n_hits for w in page.astray}
    assert shown == {way: n for way, n in ways.items() if n >= LEAST_ASTRAY}
    assert page.n_other == len(ways) - len(shown)
    assert [w.share.n_hits for w in page.astray] == sorted(shown.values(), reverse=True)
    for way, n in shown.items():
        assert jobs_behind(context, made, out_of_turn=way).total == n
    assert {line.line: line.n_wanted for line in page.stem}["WP-001:run"] == len(fitness)
    assert order_kept_page(context, made, revision="A") == page
    assert order_kept_page(context, made, revision="B").throughout.n_total == 0
    recount(context)
    assert order_kept_page(context, made) == page


def test_a_document_that_is_no_incident_type_is_refused(context: Context) -> None:
    with pytest.raises(NotFound):
        order_kept_page(context, "WP-404")
