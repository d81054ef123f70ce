"""The simulated field: the same seed plays the same jobs, through the same rules as real ones."""

from __future__ import annotations

import io
from collections import Counter
from pathlib import Path

import pytest
from PIL import Image

from reedling.core.evidence.departures import departures
from reedling.core.runsheet.job import replay
from reedling.core.runsheet.job_runs import job_progress
from reedling.core.runsheet.job_state import job_state
from reedling.services.context import Context
from reedling.services.views.completions import inbox
from reedling.services.views.evidence import JobDot, compare_outcomes, evidence, jobs_behind
from reedling.services.views.shelf import shelf
from reedling.standins.camera import HEIGHT, WIDTH, take_picture
from reedling.standins.field import SHORT
from reedling.standins.field_kinds import KINDS
from reedling.wiring import open_context

INCIDENT_TYPES = ("IT-001", "IT-002", "IT-003")


@pytest.fixture
def demo(demo_dir: Path) -> Context:
    return open_context(demo_dir)


@pytest.mark.parametrize("of", ["Pressure gauge", "Nameplate", "Lock on isolator", "What came out"])
def test_the_camera_takes_the_same_picture_for_the_same_seed(of: str) -> None:
    first, again, other = take_picture(of, seed=3), take_picture(of, seed=3), take_picture(of, seed=4)
    assert first == again
    assert first != other
    with Image.open(io.BytesIO(first)) as image:
        assert image.size == (WIDTH, HEIGHT)


def test_the_demo_has_about_sixty_past_orders_and_some_that_wait(demo: Context) -> None:
    with demo.store.reading() as unit:
        states = Counter(o.state for o in unit.orders.find())
    assert SHORT.n_calls <= states["Reviewed"] + states["Finished"] <= SHORT.n_calls * 1.5
    assert states["Logged"] >= 1
    assert states["Planned"] >= 2


def test_every_past_job_replays_to_the_state_it_is_in(demo: Context) -> None:
    with demo.store.reading() as unit:
        for order in unit.orders.find(states=("Finished", "Reviewed")):
            job = replay(order.runsheet, unit.recorded.events(order.id))
            assert job_state(job) == "Finished"
            assert job.finished_at == order.finished_at
            assert job_progress(order.runsheet, job).next_line is None
            assert job.cause is not None


def test_each_incident_type_of_the_demo_has_branches_limits_parts_skills_and_jobs(demo: Context) -> None:
    from reedling.core.guidance.plans import Plan
    from reedling.core.guidance.questions import Limits, Reading

    shown = sorted(row.document for row in shelf(demo))
    assert shown == [*INCIDENT_TYPES, "IT-004"]  # the fourth is the routine visit
    for incident in INCIDENT_TYPES:
        found = evidence(demo, incident)
        assert found.n_jobs >= 8
        with demo.store.reading() as unit:
            plan = unit.documents.content_of(f"WP-{incident[3:]}")
        assert isinstance(plan, Plan)
        assert any(s.under for s in plan.steps)
        assert any(s.parts for s in plan.steps)
        assert any(s.skills for s in plan.steps)
        limits = [p.limits for s in plan.steps for p in s.questions if isinstance(p, Reading)]
        assert any(lim != Limits() for lim in limits)
        assert {s.phase for s in plan.steps} == {
            "Arrive",
            "Make safe",
            "Diagnose",
            "Put right",
            "Prove",
            "Leave",
        }


def test_the_planted_story_of_the_slow_reading_can_be_found(demo: Context) -> None:
    """The field takes about twice the planned minutes to read the pressure, and longest on WR 3."""
    truth = KINDS[0].slow_by_model
    assert truth["WP-001:pressure", "A", "WR3"] > truth["WP-001:pressure", "A", "WR2"] > 1
    row = next(s for s in evidence(demo, "IT-001").steps if s.step == "pressure")
    assert row.evidence is not None
    assert row.evidence.taken is not None
    assert row.evidence.taken.low_quartile > row.planned_minutes


def test_jobs_of_both_revisions_are_there_to_compare(demo: Context) -> None:
    found = compare_outcomes(demo, "IT-001", "WP-001", "A", "B")

    def jobs_of(revision: str) -> tuple[JobDot, ...]:
        return jobs_behind(demo, "IT-001", revision=revision, limit=1000).jobs

    assert found.older.n_jobs > 0
    assert found.newer.n_jobs > 0
    assert found.older.n_jobs + found.newer.n_jobs == evidence(demo, "IT-001").n_jobs
    assert {j.order for j in jobs_of("A")} & {j.order for j in jobs_of("B")} == set()


def test_return_visits_and_departures_are_among_the_jobs(demo: Context) -> None:
    kinds: Counter[str] = Counter()
    with demo.store.reading() as unit:
        for order in unit.orders.find(states=("Finished", "Reviewed")):
            job = replay(order.runsheet, unit.recorded.events(order.id))
            kinds.update(d.kind for d in departures(order.runsheet, job))
    assert kinds["return"] >= 3
    assert kinds["took long"] >= 10
    assert kinds["out of limit"] >= 10


def test_the_inbox_holds_only_what_is_finished_and_unread(demo: Context) -> None:
    rows = inbox(demo).rows
    assert all(row.line.state == "Finished" for row in rows)
    scores = [row.score for row in rows]
    assert scores == sorted(scores, reverse=True)
    assert all(bool(row.reasons) is (row.score > 0) for row in rows)


def test_every_photo_answer_of_the_demo_is_a_picture_that_is_kept(demo: Context) -> None:
    with demo.store.reading() as unit:
        order = unit.orders.find(states=("Reviewed",))[0]
        job = replay(order.runsheet, unit.recorded.events(order.id))
        photos = [
            job.answers[p.id]
            for line in order.runsheet.lines
            for p in line.questions
            if p.kind == "photo" and p.id in job.answers
        ]
        assert photos
        for name in photos:
            picture = unit.pictures.get(str(name))
            assert picture is not None
            assert unit.pictures.data(picture)[:2] == b"\xff\xd8"


def test_the_surveys_carry_a_form_with_a_section_for_each_pump(demo: Context) -> None:
    found = evidence(demo, "IT-004")
    assert found.n_jobs == 6
    with demo.store.reading() as unit:
        orders = unit.orders.find(incident_type="IT-004", states=("Finished", "Reviewed"))
        for order in orders:
            job = replay(order.runsheet, unit.recorded.events(order.id))
            computed = job_progress(order.runsheet, job).computed
            assert {q.split("@")[-1] for q in computed if "@" in q} == {"Pump 1", "Pump 2"}
            hottest = computed["WP-005:survey/hottest"]
            assert hottest == max(v for q, v in computed.items() if q.startswith("WP-005:survey/bearing@"))
            assert unit.register.meters(order.asset.code)["hours"].value > 0
