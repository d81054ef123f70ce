"""Fault guides as documents: drafted from closed jobs, mended, checked, compared, released, put into a plan."""

from __future__ import annotations

import math

import pytest

from reedling.core.guidance.plans import Plan
from reedling.errors import Conflict, InvalidInput
from reedling.services.actions.drafts import patch_draft
from reedling.services.actions.guides import create_guide, put_order_in_draft
from reedling.services.actions.releases import release, send_for_review, withdraw
from reedling.services.context import Context
from reedling.services.shared.patches import Patch
from reedling.services.views.comparisons import compare_revisions
from reedling.services.views.desk import desk
from reedling.services.views.documents import plan_document
from reedling.services.views.guides import guide_document, guide_figures, guide_of, guide_turns
from tests.conftest import INES, ODA, FakeClock


def drafted(context: Context) -> str:
    """A guide drafted from the closed jobs; the demo's own makes way for it."""
    withdraw(context, ODA, guide_of(context, "IT-001"), "To begin anew")
    return create_guide(context, INES, "IT-001", from_jobs=True)


def test_a_guide_drafted_from_jobs_says_what_they_show_and_is_sound(
    played: tuple[Context, FakeClock],
) -> None:
    context, _ = played
    document = drafted(context)
    view = guide_document(context, document)
    assert guide_of(context, "IT-001") == document
    assert [p for p in view.problems if p.severity == "error"] == []
    assert {c.cause for c in view.content.causes} >= {"debris", "relief-valve"}
    assert "WP-001:bar!" in {c.look for c in view.content.checks}
    assert all(r.fixes for r in view.content.remedies)
    assert any(r.step for r in view.content.remedies)
    figures = guide_figures(context, document, {})
    assert figures is not None
    assert sum(c.now for c in figures.causes) == pytest.approx(1)
    assert figures.work.n_jobs > 20
    low = next(c.id for c in view.content.checks if c.look == "WP-001:bar!")
    after = guide_figures(context, document, {low: True})
    assert after is not None
    valve = [c.cause for c in view.content.causes].index("relief-valve")
    assert after.causes[valve].now > figures.causes[valve].now
    with pytest.raises(Conflict, match=document):
        create_guide(context, INES, "IT-001", from_jobs=False)


def test_a_guide_is_mended_checked_compared_and_released(played: tuple[Context, FakeClock]) -> None:
    context, _ = played
    document = drafted(context)
    view = guide_document(context, document)
    before = guide_figures(context, document, {})
    assert before is not None
    broken = patch_draft(
        context,
        INES,
        document,
        [
            {"op": "replace", "path": "/checks/0/look", "value": "WP-001:gone=yes"},
            {"op": "replace", "path": "/causes/0/chance", "value": 1.5},
        ],
        view.etag,
    )
    assert broken.guide is not None
    assert {p.code for p in broken.guide.problems if p.severity == "error"} == {
        "guides.drift",
        "guides.chances",
    }
    with pytest.raises(InvalidInput):
        send_for_review(context, INES, document, "")
    mended = patch_draft(context, INES, document, broken.inverse, broken.guide.etag)
    assert mended.guide is not None
    assert mended.guide.content == view.content
    heavier = patch_draft(
        context,
        INES,
        document,
        [
            {"op": "replace", "path": "/weight", "value": 500},
            {"op": "replace", "path": "/causes/1/chance", "value": 0.9},
        ],
        mended.guide.etag,
    )
    assert heavier.guide is not None
    assert "how often" in heavier.summary or "weight" in heavier.summary
    after = guide_figures(context, document, {})
    assert after is not None
    assert after.causes[1].learned.value > before.causes[1].learned.value + 0.1
    back = patch_draft(context, INES, document, heavier.inverse, heavier.guide.etag)
    assert back.guide is not None
    send_for_review(context, INES, document, "Begun from the jobs")
    release(context, ODA, document)
    assert guide_document(context, document).state == "Released"
    begun = patch_draft(
        context,
        INES,
        document,
        [{"op": "add", "path": "/checks/0/yes/debris", "value": 0.33}],
        guide_document(context, document).etag,
        begin=True,
    )
    assert begun.guide is not None
    compared = compare_revisions(context, document)
    assert (compared.kind, compared.letters, compared.older, compared.newer) == (
        "fault guide",
        ("A", "B"),
        "A",
        "B",
    )
    told = compared.differences
    assert [(d.change, d.aspect.partition(" ")[0], d.after) for d in told] == [("changed", "chance", "33 %")]


def of_the_pump(context: Context) -> str:
    """A guide for pumps that trip: turning the impeller comes before the insulation, other than in the plan."""
    document = create_guide(context, INES, "IT-002", from_jobs=False)
    causes = {"fouled-impeller": 0.4, "cable-insulation": 0.3, "overload-setting": 0.3}
    checks = [
        {
            "id": "turn",
            "look": "WP-002:impeller=jammed",
            "yes": {"fouled-impeller": 0.95, **dict.fromkeys([*causes][1:], 0.02)},
        },
        {
            "id": "megohm",
            "look": "WP-002:megohm!",
            "yes": {"fouled-impeller": 0.02, "cable-insulation": 0.97, "overload-setting": 0.02},
        },
    ]
    remedies = [
        {"id": f"r{i}", "remedy": remedy, "step": f"WP-002:{step}", "fixes": {cause: 0.97}}
        for i, (cause, remedy, step) in enumerate(
            zip(causes, ("cleared", "replaced", "reset"), ("lift", "cable", "overload"), strict=True)
        )
    ]
    patch: Patch = [
        {"op": "replace", "path": "/causes", "value": [{"cause": c, "chance": p} for c, p in causes.items()]},
        {"op": "replace", "path": "/checks", "value": checks},
        {"op": "replace", "path": "/remedies", "value": remedies},
        {"op": "replace", "path": "/weight", "value": 1000},
    ]
    patch_draft(context, INES, document, patch, guide_document(context, document).etag)
    return document


def steps_of(context: Context, phase: str) -> list[str]:
    with context.reading() as unit:
        plan = unit.documents.content_of("WP-002")
    assert isinstance(plan, Plan)
    return [s.id for s in plan.steps if s.phase == phase]


def test_the_best_order_goes_into_the_draft_of_the_plan_and_no_draft_is_begun_for_nothing(
    played: tuple[Context, FakeClock],
) -> None:
    context, _ = played
    document = of_the_pump(context)
    assert [p for p in guide_document(context, document).problems if p.severity == "error"] == []
    rest = {
        phase: steps_of(context, phase) for phase in ("Arrive", "Make safe", "Put right", "Prove", "Leave")
    }
    assert steps_of(context, "Diagnose") == ["insulation", "apart", "turn"]
    done = put_order_in_draft(context, INES, document)
    assert (done.document, done.letter) == ("WP-002", "B")
    assert done.n_moved > 0
    assert steps_of(context, "Diagnose") == ["turn", "insulation", "apart"]
    assert {phase: steps_of(context, phase) for phase in rest} == rest
    again = put_order_in_draft(context, INES, document)
    assert (again.letter, again.n_moved) == ("B", 0)
    with context.reading() as unit:
        assert len(unit.documents.edits("WP-002", "B")) == 2, "begun, and put in order"


def test_no_draft_is_begun_where_the_plan_has_the_order_already(played: tuple[Context, FakeClock]) -> None:
    context, _ = played
    done = put_order_in_draft(context, INES, guide_of(context, "IT-001"))
    assert (done.document, done.letter, done.n_moved) == ("WP-001", "B", 0)
    with context.reading() as unit:
        assert unit.documents.open_revision("WP-001") is None


def test_it_is_told_where_the_order_would_begin_otherwise(played: tuple[Context, FakeClock]) -> None:
    context, _ = played
    turns = guide_turns(context, guide_of(context, "IT-001"))
    assert turns
    figures = guide_figures(context, guide_of(context, "IT-001"), {})
    assert figures is not None
    assert all(turn.then != figures.work.lines[0].label for turn in turns)
    nearness = [abs(math.log(turn.turns_at / turn.minutes)) for turn in turns]
    assert nearness == sorted(nearness)


def test_a_plan_that_leaves_a_guide_behind_is_told_on_the_desk(played: tuple[Context, FakeClock]) -> None:
    context, _ = played
    guide = guide_of(context, "IT-001")

    def told() -> list[str]:
        return [line.detail for line in desk(context, INES).lines if line.to == f"/refine/guides/{guide}"]

    assert told() == []
    view = plan_document(context, "WP-001")
    at = next(i for i, s in enumerate(view.content.steps) if s.id == "pressure")
    # Without limits no reading lies outside them.
    patch: Patch = [{"op": "replace", "path": f"/steps/{at}/questions/0/limits", "value": {}}]
    patch_draft(context, INES, "WP-001", patch, view.etag, begin=True)
    assert told() == [], "the plan in force still asks it"
    send_for_review(context, INES, "IT-001", "")
    release(context, ODA, "IT-001")
    assert told() == [f"1 link of {guide} leads to what no plan asks or does any more."]
    assert "guides.drift" in {p.code for p in guide_document(context, guide).problems}
