"""Summaries kept with each submission equal a recount, and the figures equal their definition read aloud."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Mapping
from dataclasses import replace
from datetime import timedelta
from typing import Any
from uuid import uuid4

import pytest
from sqlalchemy import text

from reedling.core.evidence.customers_said import tone_score
from reedling.core.evidence.jobs import WantedJobs
from reedling.core.evidence.outcomes import OrderOutcome, came_back, settled_by
from reedling.core.evidence.steps import step_records
from reedling.core.guidance.catalogue import relation_of
from reedling.core.runsheet.job import replay
from reedling.core.statistics.summaries import spread
from reedling.services.actions.catalogue import put_entry
from reedling.services.actions.orders import cancel_order, log_order, plan_visit
from reedling.services.actions.reviews import mark_reviewed
from reedling.services.actions.submissions import submit_events
from reedling.services.actions.summaries import recount
from reedling.services.context import Context
from reedling.services.shared.first_time import related_symptoms
from reedling.services.shared.matched import OrderToMatch
from reedling.services.views.completions import completion, inbox
from reedling.services.views.evidence import compare_outcomes, evidence, jobs_behind
from reedling.services.views.lists import list_page
from reedling.store.unit import Unit
from reedling.wiring import open_context
from tests.conftest import INES, MAREK, RUNA, FakeClock
from tests.oracles.slow_twins import fixed_first_time
from tests.recounts import step_evidence
from tests.services.test_drafts_and_release import incident
from tests.services.test_drafts_and_release import released as release_it
from tests.services.test_orders_and_submissions import whole_job

__all__ = ["incident"]


@pytest.fixture
def released(context: Context, incident: str) -> str:
    """An incident type in force."""
    release_it(context, incident)
    return incident


TABLES = (
    "job_summaries",
    "job_sources",
    "job_parts",
    "job_out_of_turn",
    "job_visits",
    "step_summaries",
    "step_records",
    "last_answers",
    "recorded_codes",
)


def dump(unit: Unit) -> Mapping[str, list[tuple[Any, ...]]]:
    return {
        table: sorted((tuple(row) for row in unit.session.execute(text(f"SELECT * FROM {table}"))), key=str)
        for table in TABLES
    }


def check_against_a_recount(context: Context) -> int:
    with context.store.reading() as unit:
        kept = dump(unit)
    n_jobs = recount(context)
    with context.store.reading() as unit:
        counted = dump(unit)
    for table in TABLES:
        assert kept[table] == counted[table], table
    return n_jobs


def test_the_played_demo_has_the_summaries_that_a_recount_gives(demo_dir: Any) -> None:
    assert check_against_a_recount(open_context(demo_dir)) > 70


@pytest.mark.parametrize("seed", range(4))
def test_jobs_in_any_order_with_cancellations_returns_and_other_families_are_counted_alike(
    context: Context, released: str, clock: FakeClock, seed: int
) -> None:
    """Orders are logged, finished late or early, cancelled and read at random; then everything is recounted."""
    rng = random.Random(seed)
    open_orders: list[str] = []
    for _ in range(40):
        clock.forward(hours=rng.choice((1, 30, 400)))
        act = rng.random()
        if act < 0.5 or not open_orders:
            symptom = rng.choice(("stalls", "leaks"))
            order = log_order(context, MAREK, OrderToMatch(asset="AS-1", symptom=symptom), "")
            open_orders.append(order.id)
        elif act < 0.85:
            order_id = open_orders.pop(rng.randrange(len(open_orders)))
            plan_visit(context, MAREK, order_id, "runa", clock.now)
            events = whole_job(context)
            late = timedelta(days=rng.choice((0, 0, 3)))
            events = [replace(e, at=e.at - late) for e in events]
            if _can_finish(context, order_id):
                submit_events(context, RUNA, order_id, str(uuid4()), events)
                if rng.random() < 0.3:
                    mark_reviewed(context, INES, order_id, "")
            else:
                cancel_order(context, MAREK, order_id, "No plan")
        elif act < 0.95:
            cancel_order(context, MAREK, open_orders.pop(), "Rang off")
        else:
            page = list_page(context, "symptoms")
            entry = {**page.entries[rng.randrange(2)], "family": rng.choice(("hydraulic", "other", ""))}
            put_entry(context, INES, "symptoms", entry["code"], entry, page.etag)
    check_against_a_recount(context)
    check_first_time(context)


def _can_finish(context: Context, order_id: str) -> bool:
    with context.store.reading() as unit:
        order = unit.orders.get(order_id)
        return order is not None and bool(order.runsheet.lines)


def check_first_time(context: Context) -> None:
    """The figure of the shelf and of each job, against the definition for one order after another."""
    now = context.clock()
    with context.store.reading() as unit:
        related = relation_of(unit.catalogues.get())
        everything = [o for a in unit.orders.n_by_asset() for o in _outcomes(unit, a)]
        by_type: dict[str, list[bool | str | None]] = {}
        for outcome in everything:
            order = unit.orders.get(outcome.order)
            if order is not None and outcome.finished_at is not None and not outcome.cancelled:
                verdict = fixed_first_time(outcome, everything, now, related)
                by_type.setdefault(order.incident_type or "", []).append(
                    "doubtful" if outcome.doubtful else verdict
                )
        found = unit.job_figures.first_time(settled_by(now))
        for document, verdicts in by_type.items():
            assert found[document] == (
                verdicts.count(True),
                verdicts.count(True) + verdicts.count(False),
                verdicts.count(None),
                verdicts.count("doubtful"),
            )


def _outcomes(unit: Unit, asset: str) -> list[OrderOutcome]:
    out = []
    for order in unit.orders.find(asset=asset):
        job = replay(order.runsheet, unit.recorded.events(order.id))
        out.append(
            OrderOutcome(
                order=order.id,
                asset=asset,
                symptom=order.symptom,
                logged_at=order.logged_at,
                finished_at=job.finished_at,
                working_visits=sum(v.arrived_at is not None for v in job.visits),
                cancelled=order.state == "Cancelled",
                routine=order.due_on is not None,
                doubtful=any(v.headed_out_at < order.logged_at - timedelta(days=1) for v in job.visits[-1:]),
            )
        )
    return out


@pytest.mark.parametrize("revision", [None, "A", "B"])
def test_evidence_from_summaries_is_the_evidence_of_the_records(demo_dir: Any, revision: str | None) -> None:
    """Counts, medians and quartiles by SQL, against the records of every job read and added up."""
    demo = open_context(demo_dir)
    found = evidence(demo, "IT-001", revision=revision)
    with demo.store.reading() as unit:
        orders = [
            o
            for o in unit.orders.find(states=("Finished", "Reviewed"), incident_type="IT-001")
            if revision is None
            or any((s.document, s.revision) == ("WP-001", revision) for s in o.runsheet.sources)
        ]
        jobs = {o.id: replay(o.runsheet, unit.recorded.events(o.id)) for o in orders}
        records = [r for o in orders for r in step_records(o.id, o.runsheet, jobs[o.id])]
    slow = step_evidence(records)
    for row in found.steps:
        assert row.evidence == slow.get((row.document, row.step))
    minutes = [sum(v.minutes_on_site or 0 for v in job.visits) for job in jobs.values()]
    assert found.n_jobs == len(orders)
    assert found.minutes_on_site == spread(minutes)
    assert {j.order for j in jobs_behind(demo, "IT-001", revision=revision, limit=999).jobs} == set(jobs)
    wanted = {r.order for r in records if r.step == "valve" and r.wanted}
    behind = jobs_behind(demo, "IT-001", revision=revision, step=("WP-001", "valve"), limit=999)
    assert ({j.order for j in behind.jobs}, behind.total) == (wanted, len(wanted))


def test_a_page_of_jobs_goes_on_where_the_one_before_ended(demo_dir: Any) -> None:
    demo = open_context(demo_dir)
    whole = jobs_behind(demo, "IT-001", limit=999)
    pages = [jobs_behind(demo, "IT-001", offset=n, limit=7) for n in range(0, whole.total, 7)]
    assert [j for page in pages for j in page.jobs] == list(whole.jobs)
    unread = inbox(demo, limit=999)
    assert [r.line.id for n in range(0, unread.total, 3) for r in inbox(demo, offset=n, limit=3).rows] == [
        r.line.id for r in unread.rows
    ]
    with demo.store.reading() as unit:
        assert unread.total == unit.job_figures.jobs(WantedJobs(unread=True), limit=1)[0]
    assert compare_outcomes(demo, "IT-001", "WP-001", "A", "B").older.n_jobs > 0


def test_what_makes_a_job_unusual_is_what_reading_each_finds(demo_dir: Any) -> None:
    """The kinds of departures of every finished job of the demo, the tone of its comment, and whether an order on the
    same asset was finished shortly before it came."""
    demo = open_context(demo_dir)
    with demo.store.reading() as unit:
        orders = [o for o in unit.orders.find() if o.state in ("Finished", "Reviewed")]
        lines = {line.order: line for line in unit.job_figures.lines_of([o.id for o in orders])}
        related = related_symptoms(unit)
        outcomes = unit.job_figures.orders_on({o.asset.code for o in orders})
    repeats = 0
    for order in orders:
        page, line = completion(demo, order.id), lines[order.id]
        n_of = Counter(d.kind for d in page.departures)
        assert (line.n_out_of_limit, line.n_parts_unplanned, line.n_long, line.n_hasty) == tuple(
            n_of[kind] for kind in ("out of limit", "part not planned", "took long", "took next to no time")
        )
        said = page.page.job.beside.customer
        assert line.tone == (tone_score(said.comment) if said and said.comment else None)
        assert line.return_reasons == tuple(v.reason for v in page.page.job.visits if v.reason)
        own = next(o for o in outcomes if o.order == order.id)
        same_asset = [o for o in outcomes if o.asset == own.asset]
        assert line.is_repeat == any(came_back(before, [own], related) for before in same_asset)
        repeats += line.is_repeat
    assert repeats > 0
    assert any(line.n_hasty for line in lines.values()), "there is one who passes over steps"


def test_counts_over_several_documents_at_a_revision_are_those_of_the_records(demo_dir: Any) -> None:
    """Jobs issued with either of two documents at revision A, and the steps of both, added up one by one."""
    demo = open_context(demo_dir)
    documents = ("WP-001", "WP-002")
    with demo.store.reading() as unit:
        for incident_type in ("IT-001", "IT-002"):
            wanted = WantedJobs(incident_type=incident_type, issued_with=(documents, "A"))
            orders = [
                o
                for o in unit.orders.find(states=("Finished", "Reviewed"), incident_type=incident_type)
                if any(s.document in documents and s.revision == "A" for s in o.runsheet.sources)
            ]
            slow: dict[tuple[str, str], int] = {}
            for order in orders:
                for r in step_records(
                    order.id, order.runsheet, replay(order.runsheet, unit.recorded.events(order.id))
                ):
                    if r.document in documents:
                        slow[r.document, r.step] = slow.get((r.document, r.step), 0) + r.wanted
            found = unit.job_figures.step_counts(wanted, documents)
            assert {key: counts.n_wanted for key, counts in found.items()} == slow
            assert sum(slow.values()) > 20


def test_of_many_jobs_the_latest_are_asked_about(demo_dir: Any) -> None:
    """Readings and times of the five latest finished jobs are those of all, of these jobs alone."""
    demo = open_context(demo_dir)
    with demo.store.reading() as unit:
        evidence_kept = unit.job_evidence
        orders = [o for o in unit.orders.find(incident_type="IT-001") if o.finished_at is not None]
        latest = {o.id for o in sorted(orders, key=lambda o: (o.finished_at, o.id), reverse=True)[:5]}
        paces, readings = evidence_kept.step_paces("IT-001", most=999), evidence_kept.readings("IT-001")
        assert {p.order for p in paces} == {o.id for o in orders}
        assert evidence_kept.step_paces("IT-001", most=5) == tuple(p for p in paces if p.order in latest)
        assert evidence_kept.readings("IT-001", most=5) == tuple(r for r in readings if r.order in latest)
