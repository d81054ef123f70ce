"""A draft replayed on the demo's closed jobs: what it says, and when it says nothing."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from reedling.core.guidance.decision_tables import DecisionTable
from reedling.core.guidance.plans import Link, Minutes, Plan
from reedling.core.guidance.revisions import DocumentKind
from reedling.core.guidance.skills import PartNeed
from reedling.core.guidance.written_guides import WrittenGuide
from reedling.core.matching.impact import impact_of
from reedling.core.people import Person
from reedling.core.refining.replay import replay_jobs
from reedling.core.refining.replayed import N_FILLINGS, Replayed
from reedling.errors import InvalidInput, NotFound
from reedling.services.actions.documents import begin_draft
from reedling.services.context import Context
from reedling.services.shared.guidance_in_force import facts_of_orders, guidance_in_force
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


def rewrite(demo: Context, document: str, content: Plan | WrittenGuide) -> None:
    with demo.writing() as unit:
        draft = unit.documents.open_revision(document)
        assert draft is not None
        unit.documents.save(replace(draft, content=content, version=draft.version + 1))


def guide_being_written(demo: Context, document: str) -> WrittenGuide:
    with demo.reading() as unit:
        draft = unit.documents.open_revision(document)
    assert draft is not None
    assert isinstance(draft.content, WrittenGuide)
    return draft.content


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
    begin_draft(demo, ines, "IT-001")
    with pytest.raises(InvalidInput, match="no job is walked through"):
        replay_draft(demo, "IT-001")
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


def most_used(demo: Context, kind: DocumentKind) -> str:
    """The form or standard step in force that most closed jobs had."""
    with demo.reading() as unit:
        found = [r.document for r in unit.documents.all_released(kind)]
        return max(found, key=lambda d: (len(unit.job_evidence.issued_with(d, most=500)), d))


@pytest.mark.parametrize("kind", ["form", "standard step"])
def test_a_form_or_standard_step_is_replayed_in_all_that_uses_it(
    demo: Context, ines: Person, kind: DocumentKind, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(replays, "FEWEST_JOBS", 3)
    document = most_used(demo, kind)
    begin_draft(demo, ines, document)
    same = replay_draft(demo, document)
    assert same.kind == kind
    assert same.replayed is not None
    assert all(job.minutes == 0 for job in same.replayed.jobs)
    plan = plan_of(demo, document)
    first, *others = plan.steps
    longer = replace(
        first, id="more", text="Once more", standard="", form="", questions=(), minutes=Minutes(likely=7)
    )
    put = (first, replace(longer, under=None, condition=None), *others) if kind == "form" else None
    if put is None:
        rewrite(
            demo,
            document,
            replace(plan, steps=(replace(first, parts=(PartNeed(part="OIL-32", quantity=2),)),)),
        )
        found = replay_draft(demo, document).replayed
        assert found is not None
        assert [(p.part, p.quantity > 0) for p in found.parts] == [("OIL-32", True)]
        return
    rewrite(demo, document, replace(plan, steps=put))
    found = replay_draft(demo, document).replayed
    assert found is not None
    # No job has minutes for a new section, so it counts as it is written, once for each time the form is filled in;
    # half where a branch is open, and as a mean over the fillings.
    shares = [job.minutes / 7 * 2 * N_FILLINGS for job in found.jobs]
    assert shares == pytest.approx([max(0, round(share)) for share in shares])
    assert any(job.minutes > 0 for job in found.jobs)
    assert all(step.is_new for step in found.steps)


def test_a_table_changes_the_jobs_whose_orders_would_get_something_else_and_no_others(
    demo: Context,
) -> None:
    with demo.reading() as unit:
        draft, now = unit.documents.open_revision("DT-001"), unit.documents.released("DT-001")
        latest = set(unit.job_evidence.latest(most=replays.MOST_JOBS))
        facts = facts_of_orders(unit, [o for o in unit.orders.facts() if o.id in latest])
    assert draft is not None
    assert now is not None
    assert isinstance(now.content, DecisionTable)
    without = replace(now.content, rows=tuple(row for row in now.content.rows if row.cells))
    assert len(without.rows) < len(now.content.rows)
    with demo.writing() as unit:
        changed = replace(draft, content=without, version=draft.version + 1)
        unit.documents.save(changed)
    with demo.reading() as unit:
        impact = impact_of(
            guidance_in_force(unit).guidance, guidance_in_force(unit, instead=[changed]).guidance, facts
        )
    view = replay_draft(demo, "DT-001")
    assert view.replayed is not None
    told = {order for group in impact.groups for order in group.orders}
    assert told, "a row for every order is gone"
    assert {job.order for job in view.replayed.jobs if job.minutes != 0} <= told
    assert all(job.minutes <= 0 for job in view.replayed.jobs)
    assert any(job.minutes < 0 for job in view.replayed.jobs)
    assert all(step.is_gone for step in view.replayed.steps)


def test_a_draft_of_a_fault_guide_is_walked_by_its_order_of_work(demo: Context, ines: Person) -> None:
    begin_draft(demo, ines, "FG-001")
    view = replay_draft(demo, "FG-001")
    assert (view.kind, view.n_jobs >= view.fewest) == ("fault guide", True)
    assert view.replayed is not None
    assert view.replayed.minutes is not None
    assert (view.replayed.minutes.low, view.replayed.minutes.high, view.replayed.steps) == (0, 0, ())

    guide = guide_being_written(demo, "FG-001")
    rewrite(demo, "FG-001", replace(guide, checks=()))
    blind = replay_draft(demo, "FG-001").replayed
    assert blind is not None
    assert blind.minutes is not None
    # The best order found makes use of checks that sort out causes: without them it takes longer on average.
    assert blind.minutes.value > 0
    gone = [step for step in blind.steps if step.is_gone]
    assert gone
    assert all(step.minutes < 0 for step in gone)
    assert sum(step.minutes for step in blind.steps) == pytest.approx(blind.minutes.value)

    rewrite(demo, "FG-001", replace(guide, causes=()))
    with pytest.raises(InvalidInput, match="no order of work"):
        replay_draft(demo, "FG-001")


def test_of_too_few_jobs_a_guide_is_told_how_many_there_are(
    demo: Context, ines: Person, monkeypatch: pytest.MonkeyPatch
) -> None:
    begin_draft(demo, ines, "FG-001")
    n_jobs = replay_draft(demo, "FG-001").n_jobs
    assert n_jobs > 0
    monkeypatch.setattr(replays, "FEWEST_JOBS", n_jobs + 1)
    rewrite(demo, "FG-001", guide_being_written(demo, "FG-001"))
    view = replay_draft(demo, "FG-001")
    assert (view.n_jobs, view.fewest) == (n_jobs, n_jobs + 1)
    assert view.replayed is not None
    assert view.replayed.minutes is None
