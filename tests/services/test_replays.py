"""A draft replayed on the demo's closed jobs: what it says, and when it says nothing."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from reedling.core.guidance.plans import Link, Plan
from reedling.core.guidance.skills import PartNeed
from reedling.core.people import Person
from reedling.core.refining.replay import Replayed, replay_jobs
from reedling.errors import InvalidInput, NotFound
from reedling.services.actions.documents import begin_draft
from reedling.services.context import Context
from reedling.services.views import replays
from reedling.services.views.replays import replay_draft
from reedling.wiring import open_context


@pytest.fixture
def demo(demo_dir: Path) -> Context:
    return open_context(demo_dir)


@pytest.fixture
def ines(demo: Context) -> Person:
    with demo.reading() as unit:
        found = unit.people.get("ines")
    assert found is not None
    return found


def rewrite(demo: Context, document: str, plan: Plan) -> None:
    with demo.writing() as unit:
        draft = unit.documents.open_revision(document)
        assert draft is not None
        unit.documents.save(replace(draft, content=plan, version=draft.version + 1))


def plan_of(demo: Context, document: str) -> Plan:
    with demo.reading() as unit:
        draft = unit.documents.open_revision(document)
    assert draft is not None
    assert isinstance(draft.content, Plan)
    return draft.content


def test_a_draft_as_it_was_copied_changes_nothing_and_one_that_drops_a_step_saves_its_minutes(
    demo: Context, ines: Person
) -> None:
    begin_draft(demo, ines, "WP-001")
    view = replay_draft(demo, "WP-001")
    assert view.replayed is not None
    assert view.replayed.minutes is not None
    assert (view.replayed.minutes.low, view.replayed.minutes.high, view.replayed.steps) == (0, 0, ())
    plan = plan_of(demo, "WP-001")
    rewrite(demo, "WP-001", replace(plan, steps=tuple(s for s in plan.steps if s.id != "handover")))
    view = replay_draft(demo, "WP-001")
    assert view.replayed is not None
    (step,) = view.replayed.steps
    assert (step.line, step.is_gone) == ("WP-001:handover", True)
    assert view.replayed.minutes is not None
    assert view.replayed.minutes.high < 0
    assert view.replayed.minutes.value == pytest.approx(step.minutes)
    assert view.n_jobs == view.replayed.n_jobs == len(view.replayed.jobs)


def test_a_part_that_the_draft_plans_is_told_by_its_name(demo: Context, ines: Person) -> None:
    begin_draft(demo, ines, "WP-001")
    plan = plan_of(demo, "WP-001")
    first, *others = plan.steps
    needs = (*first.parts, PartNeed(part="OIL-32", quantity=2))
    rewrite(demo, "WP-001", replace(plan, steps=(replace(first, parts=needs), *others)))
    view = replay_draft(demo, "WP-001")
    assert view.replayed is not None
    assert [(p.part, p.quantity) for p in view.replayed.parts] == [("OIL-32", 2)]
    assert view.part_names == {"OIL-32": "Hydraulic oil ISO 32"}


def reworded(plan: Plan) -> Plan:
    """The plan with other words in every place that a replay neither goes by nor shows."""
    steps = tuple(
        replace(
            s, detail=f"{s.detail} Slowly.", pictures=("P-9",), links=(Link(title="A page", address="a"),)
        )
        for s in plan.steps
    )
    return replace(plan, title="Other", summary="Other", phrases=("Done",), links=(), steps=steps)


def without_a_step(plan: Plan) -> Plan:
    return replace(plan, steps=tuple(s for s in plan.steps if s.id != "handover"))


def test_rewording_replays_nothing_anew_and_what_is_kept_is_what_would_be_found_now(
    demo: Context, ines: Person, demo_dir: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    begin_draft(demo, ines, "WP-001")
    walks = []

    def counted(*args: Any, **more: Any) -> Replayed:
        walks.append(replay_jobs(*args, **more))
        return walks[-1]

    monkeypatch.setattr(replays, "replay_jobs", counted)
    written = plan_of(demo, "WP-001")
    shorter = without_a_step(written)
    seen = []
    for plan, n_walked in (
        (written, 1),
        (reworded(written), 0),
        (shorter, 1),
        (reworded(shorter), 0),
        (written, 0),
    ):
        rewrite(demo, "WP-001", plan)
        walks.clear()
        seen.append(replay_draft(demo, "WP-001").replayed)
        assert len(walks) == n_walked
        assert replay_draft(open_context(demo_dir), "WP-001").replayed == seen[-1]
    assert seen[0] == seen[1] == seen[4] != seen[2] == seen[3]


def test_without_a_draft_or_jobs_it_says_so(demo: Context, ines: Person) -> None:
    with pytest.raises(NotFound, match="there is no draft of it"):
        replay_draft(demo, "WP-001")
    with pytest.raises(NotFound):
        replay_draft(demo, "WP-999")
    begin_draft(demo, ines, "FM-001")
    with pytest.raises(InvalidInput, match="only work plans"):
        replay_draft(demo, "FM-001")
    with demo.reading() as unit:
        seldom = next(
            r.document
            for r in unit.documents.all_released("plan")
            if len(unit.job_evidence.issued_with(r.document, most=50)) < 10
        )
    begin_draft(demo, ines, seldom)
    view = replay_draft(demo, seldom)
    assert view.replayed is None
    assert view.n_jobs < view.fewest
