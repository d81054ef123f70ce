"""Proposals over a played history: the planted stories lead to them, and what is decided on them lasts."""

from __future__ import annotations

from dataclasses import replace
from datetime import timedelta

import pytest

from reedling.core.guidance.documents import Revision
from reedling.core.guidance.incident_types import IncidentType
from reedling.core.guidance.plans import Plan, step_by_id
from reedling.core.refining.decisions import Decided, state_of
from reedling.errors import Conflict, InvalidInput, NotFound
from reedling.services.actions.orders import log_order
from reedling.services.actions.orders_by_hand import change_order
from reedling.services.actions.proposals import (
    decline_proposal,
    draft_proposal,
    put_off_proposal,
    reopen_proposal,
)
from reedling.services.actions.releases import release, send_for_review
from reedling.services.actions.undo import undo_change
from reedling.services.context import Context
from reedling.services.shared.matched import OrderToMatch
from reedling.services.views.changes import changes_of_list
from reedling.services.views.exploring import asked_of_crews, back_again, jobs_together, readings_chart
from reedling.services.views.fault_guides import fault_guide
from reedling.services.views.orders import assets
from reedling.services.views.proposals import ProposalView, proposals_page
from reedling.standins.field_kinds import KINDS
from tests.conftest import INES, MAREK, ODA, FakeClock
from tests.services.conftest import NOW

RETIME = "re-time-a-step:WP-001:pressure"
HELP = "illustrate-a-step:WP-001:pressure"
CARRY = "carry-a-part:IT-001:RV-SEAT"

pytestmark = pytest.mark.slow


def by_key(context: Context) -> dict[str, ProposalView]:
    return {view.key: view for view in proposals_page(context).proposals}


def drafted(context: Context, key: str) -> Revision:
    """The draft that a proposal's change was put into."""
    put_in = draft_proposal(context, INES, key)
    with context.reading() as unit:
        draft = unit.documents.revision(put_in.document, put_in.letter)
    assert draft is not None
    assert draft.kind == put_in.kind
    return draft


def test_the_planted_stories_are_among_what_the_evidence_suggests(played: tuple[Context, FakeClock]) -> None:
    context, _ = played
    found = by_key(context)
    assert {RETIME, CARRY} <= found.keys()
    assert all(view.differences for view in found.values())
    assert all(view.proposal.orders and view.proposal.n_jobs >= 10 for view in found.values())
    assert "Relief-valve seat kit" in found[CARRY].proposal.sentence
    asked = asked_of_crews(context, "IT-001", INES)
    assert [q.asked.question for q in asked if q.technician == "Nell Croyde"], "who copies readings"
    assert asked_of_crews(context, "IT-001", MAREK) == (), "a planner is told nothing about people"


def test_a_drafted_proposal_is_in_the_draft_and_stays_told_until_it_is_in_force(
    played: tuple[Context, FakeClock],
) -> None:
    context, _ = played
    draft = drafted(context, RETIME)
    assert (draft.document, draft.letter, draft.state) == ("WP-001", "C", "Draft")
    assert isinstance(draft.content, Plan)
    step = step_by_id(draft.content, "pressure")
    assert step is not None
    assert step.minutes.likely > 12
    page = proposals_page(context)
    assert next(v.state for v in page.proposals if v.key == RETIME) == "Drafted"
    assert [(t.letter, t.is_in_force, t.is_made_still) for t in page.taken] == [("C", False, True)]
    with pytest.raises(Conflict) as refusal:
        draft_proposal(context, INES, RETIME)
    assert refusal.value.code == "proposals.gone"
    send_for_review(context, INES, "WP-001", "Re-timed by the evidence.")
    release(context, ODA, "WP-001")
    (taken,) = proposals_page(context).taken
    assert (taken.is_in_force, taken.is_made_still) == (True, False)
    assert RETIME not in by_key(context), "no job was carried out with the new revision yet"


def test_a_part_is_drafted_into_the_incident_type(played: tuple[Context, FakeClock]) -> None:
    context, _ = played
    draft = drafted(context, CARRY)
    assert isinstance(draft.content, IncidentType)
    assert [p.part for p in draft.content.parts] == ["RV-SEAT"]


def test_what_is_declined_or_put_off_is_not_open_until_its_time(played: tuple[Context, FakeClock]) -> None:
    context, clock = played
    n_jobs = by_key(context)[RETIME].proposal.n_jobs
    decline_proposal(context, INES, RETIME, "The newer packs are being changed.")
    held = by_key(context)[RETIME]
    assert (held.state, held.reason, held.decided_by_name) == (
        "Declined",
        "The newer packs are being changed.",
        "Ines Varga",
    )
    decided = Decided(key=RETIME, state="Declined", n_jobs=n_jobs, at=NOW, person="ines")
    grown = replace(held.proposal, n_jobs=-(-n_jobs * 3 // 2))
    assert state_of(grown, decided, NOW) == "Open"
    assert state_of(replace(grown, n_jobs=n_jobs + 1), decided, NOW) == "Declined"
    reopen_proposal(context, RETIME)
    assert by_key(context)[RETIME].state == "Open"
    put_off_proposal(context, INES, RETIME, 30)
    assert by_key(context)[RETIME].state == "Later"
    clock.now = NOW + timedelta(days=31)
    assert by_key(context)[RETIME].state == "Open"


def test_decisions_that_cannot_be_are_refused(played: tuple[Context, FakeClock]) -> None:
    context, _ = played
    with pytest.raises(InvalidInput):
        decline_proposal(context, INES, RETIME, " ")
    with pytest.raises(InvalidInput):
        put_off_proposal(context, INES, RETIME, 0)
    with pytest.raises(NotFound):
        draft_proposal(context, INES, "drop-a-step:WP-001:gone")


def test_all_jobs_together_agree_with_each_other(played: tuple[Context, FakeClock]) -> None:
    context, _ = played
    everything = jobs_together(context, "IT-001", {})
    by_model = next(f for f in everything.found.facets if f.facet == "model")
    assert sum(bar.n for bar in by_model.bars) == everything.found.n == everything.found.n_of
    narrowed = jobs_together(context, "IT-001", {"model": ("WR3",)})
    assert narrowed.found.n == next(bar.n for bar in by_model.bars if bar.value == "WR3")
    assert {job.order for job in narrowed.jobs} <= set(narrowed.found.orders)
    curve = back_again(context, "IT-001")
    assert curve.n == everything.found.n
    assert 0 < curve.within[30][0] < 1
    chart = readings_chart(context, "IT-001", model="WR3")
    assert chart.chart is not None
    assert len(chart.dots) == narrowed.found.n
    with pytest.raises(InvalidInput):
        readings_chart(context, "IT-001", question="WP-001:gone")


def test_a_fault_guide_from_closed_jobs_comes_near_the_truth_and_answers_move_it(
    played: tuple[Context, FakeClock],
) -> None:
    context, _ = played
    guide = fault_guide(context, "IT-001", {})
    assert guide is not None
    truth = {t.cause: t.weight for t in KINDS[0].troubles}
    for row in guide.causes:
        # Orders that came back bring their cause with them, so shares may lie a little off.
        assert abs(row.learned.value - truth[row.cause]) < 0.15
        assert row.learned.low < row.learned.value < row.learned.high
    assert sum(row.now for row in guide.causes) == pytest.approx(1)
    assert guide.work.at_least <= guide.work.best
    low_pressure = next(check for check in guide.checks if check.look == "WP-001:bar!")
    assert low_pressure.bits > 0.3
    after = fault_guide(context, "IT-001", {"WP-001:bar!": True})
    assert after is not None
    now = {row.cause: row.now for row in after.causes}
    assert now["relief-valve"] > 0.4
    assert now["debris"] < 0.2
    assert next(c.said for c in after.checks if c.look == "WP-001:bar!") is True
    assert after.work.next_line is not None
    assert after.work.next_line.label != "Pressure outside its limits"
    assert fault_guide(context, "IT-004", {}) is None, "a routine visit has no causes to tell apart"


def test_what_is_put_on_by_hand_again_and_again_is_drafted_as_a_row(
    played: tuple[Context, FakeClock],
) -> None:
    context, _ = played
    conveyor = next(a.asset.code for a in assets(context) if a.asset.equipment == "conveyor")
    asked = OrderToMatch(asset=conveyor, symptom="stalls")
    for _n in range(4):
        order = log_order(context, MAREK, asked, "Belt stops under load.")
        change_order(context, MAREK, order.id, "added", "WP-001", "It has the same drive.")
    found = next(view for view in proposals_page(context).proposals if view.proposal.kind == "add a row")
    assert "conveyor" in found.proposal.sentence.lower()
    assert "“It has the same drive.”" in found.proposal.sentence
    assert [d.change for d in found.differences] == ["added"]
    draft = draft_proposal(context, INES, found.key)
    assert (draft.document, draft.kind) == ("DT-001", "decision table")
    with pytest.raises(Conflict):
        draft_proposal(context, INES, found.key)


def test_what_is_noted_at_a_step_again_and_again_is_told(played: tuple[Context, FakeClock]) -> None:
    context, _ = played
    found = next(v for v in by_key(context).values() if v.proposal.kind == "take up a note")
    assert (found.proposal.step, found.proposal.about) == ("lift", "shackle")
    draft = drafted(context, found.key)
    assert isinstance(draft.content, Plan)
    step = step_by_id(draft.content, "lift")
    assert step is not None
    assert "shackle" in step.detail


def test_a_word_of_reports_is_put_into_the_list_and_taken_back_it_is_open_again(
    played: tuple[Context, FakeClock],
) -> None:
    context, _ = played
    for n, tail in enumerate(("at noon", "and stops", "on the way up") * 3):
        asked = OrderToMatch(asset="AS-101", symptom="stalls")
        log_order(context, MAREK, asked, f"It judders {tail}", at=context.clock() + timedelta(minutes=n))
    found = by_key(context)["add-a-synonym:symptoms:stalls-judders"]
    assert found.title == "List of symptoms"
    assert "100 % (70–100) of 9 orders with the word" in found.proposal.sentence
    assert [(d.aspect, d.after) for d in found.differences] == [
        ("synonyms", "jams, stops half way, stuck, judders")
    ]
    put_in = draft_proposal(context, INES, found.key)
    assert (put_in.document, put_in.letter, put_in.kind) == ("symptoms", "", "list")
    assert synonyms(context) == ("jams", "stops half way", "stuck", "judders")
    page = proposals_page(context)
    assert found.key not in {v.key for v in page.proposals}, "no symptom lacks it any more"
    assert [(t.title, t.is_in_force, t.is_made_still) for t in page.taken] == [
        ("List of symptoms", True, False)
    ]
    (change, *_) = changes_of_list(context, "symptoms", code="stalls").changes
    assert change.person_name == "Ines Varga"
    undo_change(context, INES, "symptoms", change.batch)
    assert synonyms(context) == ("jams", "stops half way", "stuck")
    assert by_key(context)[found.key].state == "Open"


def synonyms(context: Context) -> tuple[str, ...]:
    with context.reading() as unit:
        return next(s.synonyms for s in unit.catalogues.get().symptoms if s.code == "stalls")
